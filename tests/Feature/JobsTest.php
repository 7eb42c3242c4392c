<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Chores\Chores;
use App\Intake\Uploads;
use App\Models\Chore;
use App\Models\Edition;
use App\Models\Import;
use App\Models\ImportFile;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Release;
use App\Models\Turn;
use App\Models\User;
use App\Releases\FreezeRelease;
use App\Support\Cancelled;
use App\Support\Job;
use App\Upkeep\Resume;
use App\Upkeep\Sweep;
use Closure;
use Illuminate\Database\QueryException;
use Illuminate\Filesystem\Filesystem;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PDOException;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\ItemState;
use Tests\TestCase;

/** What becomes of work when the worker, the disk or the lock fails in the middle of it. */
final class JobsTest extends TestCase
{
    private Project $project;

    private User $ines;

    private string $base;

    /** a part of a statement that fails as if somebody else had the lock */
    private ?string $locked = null;

    protected function setUp(): void
    {
        parent::setUp();
        config(['queue.default' => 'database']);
        $this->project = $this->project();
        $this->base = "/projects/{$this->project->id}";
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        DB::connection()->beforeExecuting(function (string $sql): void {
            if ($this->locked !== null && str_contains($sql, $this->locked)) {
                throw new QueryException('sqlite', $sql, [], new PDOException('SQLSTATE[HY000]: General error: 5 database is locked'));
            }
        });
    }

    /** Runs what is in the queue, and what is due after waiting. */
    private function work(int $rounds = 1): void
    {
        for ($i = 0; $i < $rounds; $i++) {
            DB::table('jobs')->update(['available_at' => 0]);
            Artisan::call('skeno:work', ['--once-through' => true]);
        }
    }

    /** @return array{int, int} import, file */
    private function upload(string $path, string $bytes, ?array $labels = null): array
    {
        $import = $this->api($this->ines, 'post', "{$this->base}/imports", $labels === null ? [] : ['labels' => $labels])->assertStatus(201)->json('id');
        $file = $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/files", ['path' => $path, 'bytes' => strlen($bytes)])->assertStatus(201)->json('id');
        $this->api($this->ines, 'put', "{$this->base}/imports/{$import}/files/{$file}?offset=0", $bytes)->assertOk();
        $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/finish")->assertOk();

        return [$import, $file];
    }

    private function coco(): string
    {
        return (string) json_encode(['images' => [['id' => 1, 'file_name' => 'slope/p00.png']], 'categories' => [['id' => 1, 'name' => 'Apple']], 'annotations' => [['id' => 1, 'image_id' => 1, 'category_id' => 1, 'bbox' => [5, 5, 20, 20], 'attributes' => ['ripeness' => 'ripe']]]]);
    }

    /** A picture refused for "database is locked", and its file gone. */
    public function test_an_upload_that_meets_a_lock_is_tried_again_then_kept_then_taken(): void
    {
        [$import, $id] = $this->upload('slope/a.png', (string) file_get_contents($this->picture(60, 40, 'a')));
        $place = app(Uploads::class)->place(ImportFile::query()->findOrFail($id));
        $this->locked = 'insert into "items"';
        $this->work();
        self::assertSame('received', ImportFile::query()->findOrFail($id)->state);
        self::assertFileExists($place);
        $this->work(4);
        $file = ImportFile::query()->findOrFail($id);
        self::assertSame('failed', $file->state);
        self::assertStringContainsString('locked', $file->reason);
        self::assertStringContainsString('it is kept', $file->reason);
        self::assertFileExists($place);
        $this->api($this->ines, 'get', "{$this->base}/imports/{$import}")->assertJson(['state' => 'done', 'counts' => ['failed' => 1]]);

        $this->locked = null;
        $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/retry")->assertOk()->assertJson(['state' => 'working']);
        $this->work();
        self::assertSame('taken', $file->refresh()->state);
        self::assertFileDoesNotExist($place);
        $this->api($this->ines, 'get', "{$this->base}/imports/{$import}")->assertJson(['state' => 'done', 'counts' => ['taken' => 1]]);
        $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/retry")->assertStatus(409)->assertJson(['code' => 'not_failed']);
    }

    public function test_label_files_that_meet_a_lock_are_kept_and_taken_by_trying_again(): void
    {
        $this->items($this->project, 1);
        [$import, $id] = $this->upload('labels.json', $this->coco(), ['format' => 'coco']);
        $place = app(Uploads::class)->place(ImportFile::query()->findOrFail($id));
        $this->locked = 'insert into "marks"';
        $this->work(5);
        $row = Import::query()->findOrFail($import);
        self::assertSame('failed', $row->state);
        self::assertStringContainsString('locked', $row->error);
        self::assertFileExists($place);
        $this->locked = null;
        $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/retry")->assertOk();
        $this->work();
        self::assertSame(['done', ''], [$row->refresh()->state, $row->error]);
        self::assertSame(1, MarkRow::query()->count());
        self::assertFileDoesNotExist($place);
    }

    public function test_what_failed_can_be_dropped_and_what_goes_on_can_be_stopped(): void
    {
        [$import, $id] = $this->upload('slope/a.png', (string) file_get_contents($this->picture(60, 40, 'a')));
        $place = app(Uploads::class)->place(ImportFile::query()->findOrFail($id));
        $this->api($this->ines, 'delete', "{$this->base}/imports/{$import}")->assertOk()->assertJson(['state' => 'cancelled', 'counts' => ['passed' => 1]]);
        self::assertFileDoesNotExist($place);
        $this->work();
        self::assertSame(0, Item::query()->count());

        $this->items($this->project, 1);
        [$labels] = $this->upload('labels.json', $this->coco(), ['format' => 'coco']);
        $this->api($this->ines, 'delete', "{$this->base}/imports/{$labels}")->assertOk();
        $this->work();
        self::assertSame(0, MarkRow::query()->count());
    }

    /** The dispatch came after the commit, and could be lost between the two. */
    public function test_a_job_is_in_the_queue_with_the_row_that_waits_for_it_or_not_at_all(): void
    {
        $release = $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => []])->assertStatus(201)->assertJson(['state' => 'waiting'])->json('number');
        self::assertTrue(Job::isQueued('release:'.Release::query()->where('number', $release)->value('id')));
        try {
            DB::transaction(static function (): void {
                dispatch(new FreezeRelease(99));
                self::assertTrue(Job::isQueued('release:99'));
                throw new \LogicException('undone');
            });
        } catch (\LogicException) {
        }
        self::assertFalse(Job::isQueued('release:99'));
        self::assertFalse(Job::isQueued('release:9'), 'a number is not a part of another');
    }

    public function test_everything_unfinished_without_a_job_is_found_and_goes_on(): void
    {
        $this->items($this->project, 1);
        [$pictures] = $this->upload('slope/z.png', (string) file_get_contents($this->picture(60, 40, 'z')));
        [$labels] = $this->upload('labels.json', $this->coco(), ['format' => 'coco']);
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => ['states' => 'any']])->assertStatus(201);
        $chore = app(Chores::class)->begin($this->project, $this->ines, 'archive', ['items' => [0], 'archived' => true], 1);
        DB::table('jobs')->delete();
        self::assertGreaterThanOrEqual(4, app(Resume::class)());
        self::assertSame(0, app(Resume::class)(), 'what is in the queue is not asked for twice');
        $this->work(2);
        self::assertSame(['done', 'done', 'done', 'done'], [Import::query()->findOrFail($pictures)->state, Import::query()->findOrFail($labels)->state, Release::query()->sole()->state, $chore->refresh()->state]);
        self::assertNotNull(Item::query()->where('path', 'slope/z.png')->sole()->asset->derived_at);
    }

    /** A release whose job was lost kept the codebook from being saved for good. */
    public function test_a_release_without_a_job_does_not_keep_the_codebook_from_changing(): void
    {
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => []])->assertStatus(201);
        $document = $this->project->codebookVersion()->codebook()->toArray();
        $document['classes'][0]['name'] = 'Pome';
        $save = fn () => $this->api($this->ines, 'put', "{$this->base}/codebook", ['base' => 1, 'document' => $document, 'mapping' => (object) [], 'note' => '']);
        $save()->assertStatus(409)->assertJson(['code' => 'busy']);
        DB::table('jobs')->delete();
        $save()->assertOk();
        app(Resume::class)();
        $this->work();
        self::assertSame(['done', 2], [Release::query()->sole()->state, Release::query()->sole()->codebook_version]);
    }

    public function test_what_a_killed_worker_had_in_hand_goes_on_and_keeps_its_tries(): void
    {
        $this->upload('slope/a.png', (string) file_get_contents($this->picture(60, 40, 'a')));
        DB::table('jobs')->update(['reserved_at' => time(), 'attempts' => 3]);
        self::assertSame(0, app(Resume::class)(), 'a worker may be at it');
        self::assertSame(1, app(Resume::class)(true));
        self::assertSame(3, (int) DB::table('jobs')->value('attempts'));
        DB::table('jobs')->update(['attempts' => 4]);
        $this->work();
        self::assertSame('failed', ImportFile::query()->sole()->state, 'one that kills every worker comes to an end');
        self::assertSame(0, DB::table('jobs')->where('payload', 'like', '%TakeUpload%')->count());
    }

    /**
     * No file grows beyond a hundred bytes meanwhile: a write comes up short as on a full disk, on every machine (not each has a
     * /dev/full, and few let a test mount something). The database of the tests is in memory.
     */
    private function withFullDisk(Closure $do): void
    {
        $limits = posix_getrlimit();
        $hard = $limits === false || $limits['hard filesize'] === 'unlimited' ? POSIX_RLIMIT_INFINITY : (int) $limits['hard filesize'];
        pcntl_signal(SIGXFSZ, SIG_IGN);
        self::assertTrue(posix_setrlimit(POSIX_RLIMIT_FSIZE, 100, $hard));
        try {
            $do();
        } finally {
            posix_setrlimit(POSIX_RLIMIT_FSIZE, $hard, $hard);
            pcntl_signal(SIGXFSZ, SIG_DFL);
        }
    }

    /** Writes to a full disk were taken for a frozen release. */
    public function test_a_full_disk_leaves_no_half_of_a_release(): void
    {
        $this->items($this->project, 3);
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => ['states' => 'any', 'with_unlabelled' => true]])->assertStatus(201);
        $release = Release::query()->sole();
        $folder = storage_path("releases/{$this->project->id}/{$release->number}");
        (new Filesystem)->deleteDirectory($folder);
        $this->withFullDisk(fn () => $this->work());
        self::assertSame(['working', null], [$release->refresh()->state, $release->sha256]);
        self::assertStringContainsString('disk full', $release->error);
        self::assertFileDoesNotExist("{$folder}/snapshot.json.gz");
        $this->work();
        self::assertSame('done', $release->refresh()->state, 'with room again it is frozen whole');
        self::assertSame(3, $release->census['items']['unlabelled']);
    }

    public function test_releases_and_editions_that_failed_are_tried_again_or_dropped(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => []])->assertStatus(201);
        $this->locked = 'update "releases" set "state" = ?, "census"';
        $this->work(5);
        $this->api($this->ines, 'get', "{$this->base}/releases/1")->assertJson(['state' => 'failed']);
        $this->locked = null;
        $this->api($this->ines, 'post', "{$this->base}/releases/1/retry")->assertOk()->assertJson(['state' => 'waiting', 'error' => '']);
        $this->work();
        $this->api($this->ines, 'get', "{$this->base}/releases/1")->assertJson(['state' => 'done']);
        $this->api($this->ines, 'delete', "{$this->base}/releases/1")->assertStatus(409)->assertJson(['code' => 'release_done']);
        $edition = $this->api($this->ines, 'post', "{$this->base}/releases/1/editions", ['format' => 'coco'])->assertStatus(202)->json('id');
        $this->api($this->ines, 'post', "{$this->base}/releases/1/editions", ['format' => 'coco'])->assertStatus(202);
        self::assertSame(1, DB::table('jobs')->where('payload', 'like', '%WriteEdition%')->count(), 'asked for twice, written once');
        $this->api($this->ines, 'delete', "{$this->base}/releases/1/editions/{$edition}")->assertNoContent();
        $this->work();
        self::assertSame(0, Edition::query()->count());
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => []])->assertStatus(201);
        $this->api($this->ines, 'delete', "{$this->base}/releases/2")->assertNoContent();
        $this->work();
        self::assertSame(1, Release::query()->count());
    }

    public function test_a_lock_that_lasts_is_said_as_such_and_changes_nothing(): void
    {
        $this->locked = 'insert into "imports"';
        $this->api($this->ines, 'post', "{$this->base}/imports", [])->assertStatus(503)->assertJson(['code' => 'busy_writing'])->assertHeader('Retry-After');
        $this->locked = null;
        self::assertSame(0, Import::query()->count());
    }

    /** @return list<int> ids of many new items, all of one picture */
    private function many(int $count): array
    {
        $first = $this->items($this->project, 1, 'many')[0];
        $rows = array_map(fn (int $i): array => ['project_id' => $this->project->id, 'set_id' => $first->set_id, 'asset_id' => $first->asset_id, 'path' => sprintf('many/q%05d.png', $i)], range(2, $count));
        foreach (array_chunk($rows, 1000) as $some) {
            DB::table('items')->insert($some);
        }
        DB::table('layers')->insertUsing(['project_id', 'item_id', 'kind', 'name'], DB::table('items')->where('id', '>', $first->id)->selectRaw("project_id, id, 'agreed', 'agreed'"));

        return DB::table('items')->orderBy('id')->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();
    }

    public function test_what_takes_long_is_done_behind_the_page_and_can_be_stopped(): void
    {
        $count = 2 * Chores::AT_ONCE + 100;
        $this->many($count);
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$mei->id], 'reviewers' => []])->assertStatus(201)->assertJson(['items' => 0]);
        $this->api($this->ines, 'get', "{$this->base}/chores")->assertOk()->assertJson(['data' => [['kind' => 'hand_out', 'state' => 'waiting', 'total' => $count, 'by' => 'Ines']]]);
        $this->work();
        $this->api($this->ines, 'get', "{$this->base}/chores")->assertJson(['data' => [['state' => 'done', 'done' => $count]]]);
        self::assertSame([$count, $count], [Turn::query()->count(), Item::query()->where('state', ItemState::Waiting)->count()]);

        // taken back again: what somebody has begun stays
        $assignment = DB::table('assignments')->value('id');
        $begun = $this->api($mei, 'post', "{$this->base}/next", [])->json('packet.turn.id');
        $back = $this->api($this->ines, 'delete', "{$this->base}/assignments/{$assignment}")->assertStatus(202)->assertJson(['withdrawn' => 0])->json('chore');
        self::assertSame($count, Turn::query()->count());
        $this->work();
        $this->api($this->ines, 'get', "{$this->base}/chores")->assertJson(['data' => [['id' => $back, 'kind' => 'withdraw', 'state' => 'done', 'done' => $count - 1, 'total' => $count - 1]]]);
        self::assertSame([[$begun], 1, $count - 1], [Turn::query()->pluck('id')->all(), DB::table('assignments')->count(), Item::query()->where('state', ItemState::New)->count()]);

        $this->api($this->ines, 'post', "{$this->base}/items/archive", ['archived' => true, 'filter' => ['set' => 'many']])->assertStatus(202)->assertJson(['changed' => 0]);
        $chore = Chore::query()->latest('id')->firstOrFail();
        $this->api($this->ines, 'delete', "{$this->base}/chores/{$chore->id}")->assertOk()->assertJson(['state' => 'cancelled']);
        $this->work();
        self::assertSame(0, Item::query()->whereNotNull('archived_at')->count());

        $csv = "file,row\n".implode("\n", array_map(static fn (int $i): string => sprintf('many/q%05d.png,%d', $i, $i % 7), range(2, $count)))."\nnowhere.png,1\n";
        $this->api($this->ines, 'post', "{$this->base}/items/facts", "no,table\n".str_repeat("a,b\n", 3000))->assertStatus(422);
        $this->api($this->ines, 'post', "{$this->base}/items/facts", $csv)->assertStatus(202)->assertJson(['taken' => 0]);
        $this->work();
        $this->api($this->ines, 'get', "{$this->base}/chores")->assertJson(['data' => [['kind' => 'facts', 'state' => 'done', 'report' => ['taken' => $count - 1, 'skipped_count' => 1]]]]);
        self::assertSame('3', Item::query()->where('path', 'many/q00003.png')->sole()->facts['row']);
    }

    /** Cancelled between the worker's look at it and its first step: it must not come back to life. */
    public function test_a_chore_that_is_cancelled_as_it_begins_stays_cancelled(): void
    {
        $this->many(20);
        $chore = app(Chores::class)->begin($this->project, null, 'archive', ['items' => Item::query()->pluck('id')->all(), 'archived' => true], 20);
        $seen = $chore->fresh(['project']);
        app(Chores::class)->cancel($chore);
        try {
            app(Chores::class)->run($seen);
            self::fail('it went on');
        } catch (Cancelled) {
            self::assertSame(['cancelled', 0], [$chore->refresh()->state, Item::query()->whereNotNull('archived_at')->count()]);
        }
        $this->work();
        self::assertSame(['cancelled', 0], [$chore->refresh()->state, Item::query()->whereNotNull('archived_at')->count()]);
    }

    /** Thousands of files may wait: what has its job is looked up once for all of them, not once for each. */
    public function test_what_waits_for_a_job_is_found_by_one_look_into_the_queue(): void
    {
        $import = Import::query()->create(['project_id' => $this->project->id, 'options' => []])->refresh();
        foreach (range(1, 60) as $i) {
            ImportFile::query()->create(['import_id' => $import->id, 'path' => "p{$i}.png", 'bytes' => 9, 'received' => 9, 'state' => 'received']);
        }
        $looks = 0;
        DB::listen(static function (\Illuminate\Database\Events\QueryExecuted $query) use (&$looks): void {
            $looks += str_starts_with($query->sql, 'select') && str_contains($query->sql, 'from "jobs"') ? 1 : 0;
        });
        self::assertSame(60, app(Resume::class)());
        self::assertLessThanOrEqual(3, $looks);
        self::assertSame(0, app(Resume::class)(), 'all of them have their job now');
        self::assertSame(60, DB::table('jobs')->count());
        self::assertTrue(Job::isQueued('file:'.ImportFile::query()->value('id')));
        self::assertFalse(Job::isQueued('file:'));
        self::assertFalse(Job::isQueued('file:%'));
    }

    /** Stopped in the middle of a chunk, it goes on with the chunk: nothing is handed out twice. */
    public function test_a_chore_that_was_stopped_in_the_middle_goes_on_where_it_was(): void
    {
        $count = 2 * Chores::AT_ONCE + 50;
        $this->many($count);
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$mei->id], 'reviewers' => []])->assertStatus(201);
        $chunks = 0;
        DB::connection()->beforeExecuting(function (string $sql) use (&$chunks): void {
            if (str_starts_with($sql, 'insert into "turns"') && ++$chunks === 2) {
                throw new \LogicException('the machine stopped');
            }
        });
        $this->work();
        self::assertSame([Chores::CHUNK, Chores::CHUNK], [Turn::query()->count(), Chore::query()->sole()->done]);
        $this->work();
        self::assertSame([$count, $count, 'done'], [Turn::query()->count(), Turn::query()->distinct()->count('item_id'), Chore::query()->sole()->state]);
    }

    public function test_what_killed_jobs_and_unfinished_uploads_leave_is_swept(): void
    {
        $old = now()->subDays(3)->getTimestamp();
        $leave = static function (string $path, int $time): string {
            file_put_contents($path, 'x');
            touch($path, $time);

            return $path;
        };
        $gone = [$leave(storage_path('tmp/abandoned'), $old), $leave(storage_path('uploads/987654'), $old), $leave(storage_path('uploads/987654.lock'), $old)];
        $young = $leave(storage_path('tmp/just-begun'), time());
        $import = Import::query()->create(['project_id' => $this->project->id, 'options' => []])->refresh();
        $half = ImportFile::query()->create(['import_id' => $import->id, 'path' => 'a.png', 'bytes' => 9, 'received' => 4])->refresh();
        $kept = $leave(app(Uploads::class)->place($half), $old);
        app(Sweep::class)();
        foreach ($gone as $path) {
            self::assertFileDoesNotExist($path);
        }
        self::assertFileExists($young);
        self::assertFileExists($kept, 'it may go on for two weeks');
        $this->travel(20)->days();
        app(Sweep::class)();
        self::assertFileDoesNotExist($kept);
        self::assertSame(['refused', 'done'], [$half->refresh()->state, $import->refresh()->state]);
    }
}
