<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\AssetStore;
use App\Models\Asset;
use App\Models\Import;
use App\Models\ImportFile;
use App\Models\Item;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Tests\TestCase;
use ZipArchive;

final class ImportTest extends TestCase
{
    public function test_label_files_beside_pictures_are_noticed_and_taken_in_on_demand(): void
    {
        $project = $this->project('Beside');
        $manager = $this->member($project, Role::Manager);
        $picture = (string) file_get_contents($this->picture(100, 80, 'beside'));
        $zip = $this->temporary().'/more.zip';
        $archive = new \ZipArchive;
        $archive->open($zip, \ZipArchive::CREATE);
        $archive->addFromString('images/b.png', (string) file_get_contents($this->picture(100, 80, 'packed')));
        $archive->addFromString('labels/b.txt', "0 0.5 0.5 0.2 0.2\n1 0.5 0.5 0.1 0.1\n");
        $archive->close();
        $import = $this->api($manager, 'post', "/projects/{$project->id}/imports", [])->json('id');
        $path = "/projects/{$project->id}/imports/{$import}";
        foreach (['images/a.png' => $picture, 'labels/a.txt' => "0 0.25 0.25 0.1 0.1\n", 'data.yaml' => "names: [Apple, Leaf scab]\n", 'notes.md' => '# notes', 'more.zip' => (string) file_get_contents($zip)] as $name => $bytes) {
            $file = $this->api($manager, 'post', "{$path}/files", ['path' => $name, 'bytes' => strlen($bytes)])->assertStatus(201)->json('id');
            $this->api($manager, 'put', "{$path}/files/{$file}?offset=0", $bytes)->assertOk();
        }
        $this->api($manager, 'post', "{$path}/finish", [])->assertJson(['state' => 'done', 'noticed' => [['format' => 'yolo', 'label' => 'YOLO boxes', 'files' => 2]]]);
        self::assertSame(0, DB::table('marks')->count());
        $this->api($manager, 'post', "{$path}/beside", ['format' => 'other'])->assertStatus(422);
        $made = $this->api($manager, 'post', "{$path}/beside", ['format' => 'yolo', 'as' => 'labels', 'empty' => 'nothing'])->assertStatus(201)->json('id');
        $this->api($manager, 'get', "/projects/{$project->id}/imports/{$made}")->assertJson(['state' => 'done', 'error' => '', 'labels' => ['objects' => 3, 'items' => 2]]);
        // read as something they are not, it is said
        $wrong = $this->api($manager, 'post', "{$path}/beside", ['format' => 'voc'])->json('id');
        self::assertNotSame('', $this->api($manager, 'get', "/projects/{$project->id}/imports/{$wrong}")->json('error'));
        // after two weeks they are gone
        DB::table('imports')->where('id', $import)->update(['created_at' => now()->subDays(20)]);
        $other = $this->api($manager, 'post', "/projects/{$project->id}/imports", [])->json('id');
        $this->api($manager, 'post', "/projects/{$project->id}/imports/{$other}/finish", [])->assertJson(['noticed' => []]);
        $this->api($manager, 'post', "{$path}/beside", ['format' => 'yolo'])->assertStatus(409)->assertJson(['code' => 'nothing_beside']);
        self::assertDirectoryDoesNotExist(storage_path("beside/{$import}"));
    }

    private Project $project;

    private User $ines;

    private string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->base = "/projects/{$this->project->id}";
    }

    private function begin(array $body = []): int
    {
        return $this->api($this->ines, 'post', "{$this->base}/imports", $body)->assertStatus(201)->json('id');
    }

    private function send(int $import, string $path, string $bytes, int $piece = 1000): string
    {
        $file = $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/files", ['path' => $path, 'bytes' => strlen($bytes)])->assertStatus(201)->json();
        for ($at = $file['received']; $at < strlen($bytes); $at += $piece) {
            $file = $this->api($this->ines, 'put', "{$this->base}/imports/{$import}/files/{$file['id']}?offset={$at}", substr($bytes, $at, $piece))->assertOk()->json();
        }

        return ImportFile::query()->findOrFail($file['id'])->state;
    }

    private function bytes(string $seed): string
    {
        return (string) file_get_contents($this->picture(60, 40, $seed));
    }

    public function test_files_come_in_pieces_become_items_and_the_report_says_so(): void
    {
        $import = $this->begin();
        self::assertSame('taken', $this->send($import, 'old wall/a.png', $this->bytes('a'), 50));
        self::assertSame('known', $this->send($import, 'old wall/copy.png', $this->bytes('a')));
        self::assertSame('refused', $this->send($import, 'old wall/broken.png', substr($this->bytes('b'), 0, 60)));
        self::assertSame('passed', $this->send($import, 'old wall/notes.txt', 'beside'));
        $report = $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/finish")->assertOk()->json();
        self::assertSame(['done', ['known' => 1, 'passed' => 1, 'refused' => 1, 'taken' => 1]], [$report['state'], $report['counts']]);
        $files = array_column($this->api($this->ines, 'get', "{$this->base}/imports/{$import}/files")->json('data'), null, 'path');
        self::assertStringContainsString('damaged', $files['old wall/broken.png']['reason']);
        self::assertStringContainsString('old wall/a.png', $files['old wall/copy.png']['reason']);
        $item = Item::query()->sole();
        self::assertSame(['old wall/a.png', 'old wall'], [$item->path, $item->set->path]);
        self::assertNotNull($item->asset->derived_at);
        foreach (['thumb', 'screen', 'full'] as $size) {
            $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/picture?size={$size}")->assertOk()->assertHeader('Content-Type');
        }
        self::assertSame([], glob(storage_path('uploads/*')), 'nothing is left lying about');
    }

    public function test_an_upload_goes_on_after_a_break(): void
    {
        $import = $this->begin();
        $bytes = $this->bytes('break');
        $file = $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/files", ['path' => 'a.png', 'bytes' => strlen($bytes)])->json();
        $this->api($this->ines, 'put', "{$this->base}/imports/{$import}/files/{$file['id']}?offset=0", substr($bytes, 0, 40))->assertJson(['received' => 40]);
        $this->api($this->ines, 'put', "{$this->base}/imports/{$import}/files/{$file['id']}?offset=0", substr($bytes, 0, 40))->assertStatus(409)->assertJson(['code' => 'wrong_offset', 'received' => 40]);
        $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/finish")->assertJson(['state' => 'working']);
        self::assertSame('taken', $this->send($import, 'a.png', $bytes));
        self::assertSame('done', Import::query()->findOrFail($import)->state);
    }

    public function test_hostile_uploads_change_nothing(): void
    {
        $import = $this->begin();
        foreach ([['path' => '../../etc/x.png', 'bytes' => 5], ['path' => 'a.png', 'bytes' => 0], ['path' => 'a.png', 'bytes' => 10 ** 15], ['path' => ['a'], 'bytes' => 5]] as $body) {
            $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/files", $body)->assertStatus(422);
        }
        self::assertSame(0, ImportFile::query()->count());
        $this->api($this->ines, 'put', "{$this->base}/imports/{$import}/files/999999?offset=0", 'x')->assertNotFound();
    }

    public function test_many_files_are_announced_at_once_all_or_none(): void
    {
        $import = $this->begin();
        $path = "{$this->base}/imports/{$import}/files";
        $bytes = ['a' => $this->bytes('a'), 'b' => $this->bytes('b')];
        $two = [['path' => 'old wall/a.png', 'bytes' => strlen($bytes['a'])], ['path' => 'old wall/b.png', 'bytes' => strlen($bytes['b'])]];
        $made = $this->api($this->ines, 'post', "{$path}/many", ['files' => $two])->assertStatus(201)->json('data');
        self::assertSame([['old wall/a.png', 0, 'receiving'], ['old wall/b.png', 0, 'receiving']], array_map(static fn (array $f): array => [$f['path'], $f['received'], $f['state']], $made));
        $this->api($this->ines, 'put', "{$path}/{$made[1]['id']}?offset=0", substr($bytes['b'], 0, 40))->assertOk();
        // announced again after a break: what is here is said, nothing is made twice
        $again = $this->api($this->ines, 'post', "{$path}/many", ['files' => $two])->assertStatus(201)->json('data');
        self::assertSame([[$made[0]['id'], 0], [$made[1]['id'], 40]], array_map(static fn (array $f): array => [$f['id'], $f['received']], $again));
        foreach ([[], [['path' => 'c.png', 'bytes' => 5], ['path' => '../x.png', 'bytes' => 5]], [['path' => 'c.png', 'bytes' => 5], ['path' => 'd.png', 'bytes' => 0]], [['path' => 'c.png', 'bytes' => 5], ['bytes' => 4]], array_fill(0, 201, ['path' => 'c.png', 'bytes' => 5])] as $bad) {
            $this->api($this->ines, 'post', "{$path}/many", ['files' => $bad])->assertStatus(422);
        }
        $this->api($this->ines, 'post', "{$path}/many", ['files' => [['path' => 'c.png', 'bytes' => 5], ['path' => '../x.png', 'bytes' => 5]]])->assertJson(['field' => 'files[1].path']);
        self::assertSame(2, ImportFile::query()->count());
        $this->api($this->ines, 'delete', "{$this->base}/imports/{$import}")->assertOk();
        $this->api($this->ines, 'post', "{$path}/many", ['files' => $two])->assertStatus(409)->assertJson(['code' => 'import_cancelled']);
    }

    /** What somebody waits for is done before copies for the screen and looks, whatever was asked for first. */
    public function test_copies_for_the_screen_wait_until_all_pictures_are_in(): void
    {
        config(['queue.default' => 'database']);
        $import = $this->begin();
        foreach (['a', 'b', 'c'] as $name) {
            $this->send($import, "{$name}.png", $this->bytes($name), 4_000_000);
        }
        $order = [];
        \Illuminate\Support\Facades\Queue::before(static function (\Illuminate\Queue\Events\JobProcessing $event) use (&$order): void {
            $order[] = class_basename($event->job->resolveName());
        });
        \Illuminate\Support\Facades\Artisan::call('skeno:work', ['--once-through' => true]);
        self::assertSame(['TakeUpload', 'TakeUpload', 'TakeUpload', 'DeriveFiles', 'DeriveFiles', 'DeriveFiles'], array_slice($order, 0, 6));
        self::assertSame(3, \App\Models\Asset::query()->whereNotNull('derived_at')->count());
    }

    public function test_a_zip_is_unpacked_and_its_bad_entries_are_named(): void
    {
        $file = $this->temporary().'/x.zip';
        $zip = new ZipArchive;
        $zip->open($file, ZipArchive::CREATE);
        $zip->addFromString('slope/a.png', $this->bytes('za'));
        $zip->addFromString('../../climb.png', $this->bytes('zb'));
        $zip->addFromString('slope/script.png', '<?php echo 1;');
        $zip->addFromString('slope/labels.json', '{}');
        $zip->close();
        $import = $this->begin();
        self::assertSame('passed', $this->send($import, 'lot.zip', (string) file_get_contents($file), 4_000_000));
        $states = ImportFile::query()->where('import_id', $import)->pluck('state', 'path')->all();
        self::assertEquals(['lot.zip' => 'passed', 'slope/a.png' => 'taken', '../../climb.png' => 'refused', 'slope/script.png' => 'refused', 'slope/labels.json' => 'passed'], $states);
        self::assertSame(['slope/a.png'], Item::query()->pluck('path')->all());
    }

    /** A worker killed in the middle of a zip: the job comes back, goes on, and the report is as if nothing had happened. */
    public function test_a_zip_is_taken_up_again_after_the_worker_was_killed(): void
    {
        config(['queue.default' => 'database']);
        $file = $this->temporary().'/x.zip';
        $zip = new ZipArchive;
        $zip->open($file, ZipArchive::CREATE);
        $zip->addFromString('slope/a.png', $this->bytes('ka'));
        $zip->addFromString('slope/b.png', $this->bytes('kb'));
        $zip->close();
        $import = $this->begin();
        self::assertSame('received', $this->send($import, 'lot.zip', (string) file_get_contents($file), 4_000_000));
        // the first picture had come in when it happened; the job is still marked as taken by the dead worker
        $this->project->imports()->findOrFail($import)->files()->create(['path' => 'slope/a.png', 'state' => 'taken']);
        app(\App\Intake\TakeFiles::class)->one($this->project, $this->picture(60, 40, 'ka'), 'slope/a.png', false);
        \Illuminate\Support\Facades\DB::table('jobs')->update(['reserved_at' => time(), 'attempts' => 1]);
        $work = static fn () => \Illuminate\Support\Facades\Artisan::call('skeno:work', ['--once-through' => true]);
        $work();
        self::assertSame(1, Item::query()->count(), 'nobody touches a job that seems to be in work');
        \Illuminate\Support\Facades\Artisan::call('skeno:resume', ['--alone' => true]);
        $work();
        self::assertEquals(['lot.zip' => 'passed', 'slope/a.png' => 'taken', 'slope/b.png' => 'taken'], ImportFile::query()->where('import_id', $import)->pluck('state', 'path')->all());
        self::assertSame(2, Item::query()->count());
    }

    public function test_a_zip_bomb_is_refused_as_a_whole(): void
    {
        config(['skeno.zip.max_total_bytes' => 1_000_000]);
        $file = $this->temporary().'/bomb.zip';
        $zip = new ZipArchive;
        $zip->open($file, ZipArchive::CREATE);
        $zip->addFromString('a.png', str_repeat("\0", 3_000_000));
        $zip->close();
        $import = $this->begin();
        self::assertSame('refused', $this->send($import, 'bomb.zip', (string) file_get_contents($file), 4_000_000));
        self::assertStringContainsString('unpacks to more than', ImportFile::query()->where('path', 'bomb.zip')->value('reason'));
    }

    public function test_taken_twice_only_when_asked_and_names_never_clash(): void
    {
        $this->send($this->begin(), 'a.png', $this->bytes('one'));
        $this->send($this->begin(['again' => true]), 'b.png', $this->bytes('one'));
        $this->send($this->begin(), 'a.png', $this->bytes('two'));
        self::assertSame(['a (2).png', 'a.png', 'b.png'], Item::query()->orderBy('path')->pluck('path')->all());
        self::assertSame(2, Asset::query()->count(), 'the same bytes are stored once');
        self::assertFileExists(app(AssetStore::class)->file(Asset::query()->firstOrFail()));
    }

    public function test_labels_come_onto_pictures_that_are_there(): void
    {
        $this->items($this->project, 2);
        $import = $this->begin(['labels' => ['format' => 'coco', 'empty' => 'nothing']]);
        $coco = json_encode(['images' => [['id' => 1, 'file_name' => 'p00.png'], ['id' => 2, 'file_name' => 'p01.png']], 'categories' => [['id' => 1, 'name' => 'leaf scab']], 'annotations' => [['id' => 1, 'image_id' => 1, 'category_id' => 1, 'bbox' => [1, 2, 3, 4]], ['id' => 2, 'image_id' => 7, 'category_id' => 1, 'bbox' => [1, 2, 3, 4]]]]);
        $this->send($import, 'labels.json', (string) $coco, 4_000_000);
        $report = $this->api($this->ines, 'post', "{$this->base}/imports/{$import}/finish")->assertOk()->json();
        self::assertSame([1, 1, 1, 1], [$report['labels']['objects'], $report['labels']['accepted'], $report['labels']['nothing'], $report['labels']['skipped_count']]);
        self::assertSame('annotations[1] (id 2)', $report['labels']['skipped'][0]['place']);
        $broken = $this->begin(['labels' => ['format' => 'coco']]);
        $this->send($broken, 'labels.json', '{"images": [', 4_000_000);
        $this->api($this->ines, 'post', "{$this->base}/imports/{$broken}/finish")->assertJson(['state' => 'done', 'counts' => ['refused' => 1]]);
    }

    public function test_what_nobody_could_see_does_not_come_in(): void
    {
        $this->items($this->project, 1);
        $coco = ['images' => [['id' => 1, 'file_name' => 'slope/p00.png']], 'categories' => [['id' => 1, 'name' => 'Apple']], 'annotations' => array_map(static fn (int $i, array $bbox): array => ['id' => 10 + $i, 'image_id' => 1, 'category_id' => 1, 'bbox' => $bbox, 'attributes' => ['ripeness' => 'ripe']], [0, 1, 2], [[5, 5, 0, 20], [500, 5, 20, 20], [5, 5, 20, 20]])];
        file_put_contents($file = $this->temporary().'/labels.json', (string) json_encode($coco));
        $report = app(\App\Intake\TakeLabels::class)($this->project, \Skeno\Core\Formats\Format::Coco, $file, true, false);
        self::assertSame([1, 2], [$report['objects'], $report['skipped_count']]);
        self::assertSame(['slope/p00.png', 'mark 1'], [$report['skipped'][0]['file'], $report['skipped'][0]['place']]);
        self::assertStringContainsString('no size (0 × 20 px)', $report['skipped'][0]['reason']);
        self::assertStringContainsString('outside the picture', $report['skipped'][1]['reason']);
        self::assertSame('accepted', Item::query()->sole()->state->value);
    }

    /** Of a file that is all errors the report is counted whole, and shown a page at a time. */
    public function test_a_report_is_paged(): void
    {
        $import = \App\Models\Import::query()->create(['project_id' => $this->project->id, 'state' => 'done', 'options' => ['format' => 'coco', 'as' => 'labels', 'empty' => 'unlabelled'], 'labels' => [
            'objects' => 0, 'known' => 0, 'items' => 0, 'accepted' => 0, 'submitted' => 0, 'nothing' => 0, 'unlabelled' => 0, 'skipped' => array_map(static fn (int $i): array => ['file' => 'a.json', 'place' => "annotations[{$i}]", 'reason' => 'why'], range(0, 249)), 'skipped_count' => 9000, 'notices' => [], 'findings' => [], 'findings_count' => 0,
        ]]);
        $path = "{$this->base}/imports/{$import->id}";
        self::assertCount(100, $this->api($this->ines, 'get', $path)->assertOk()->json('labels.skipped'));
        $this->api($this->ines, 'get', "{$path}/report?list=skipped&offset=200")->assertOk()->assertJson(['listed' => 250, 'total' => 9000, 'next' => null])->assertJsonPath('data.49.place', 'annotations[249]');
        $this->api($this->ines, 'get', "{$path}/report?list=skipped")->assertJson(['next' => 100]);
        $this->api($this->ines, 'get', "{$path}/report?list=all")->assertStatus(422);
    }
}
