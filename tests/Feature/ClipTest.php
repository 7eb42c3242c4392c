<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\ClipStore;
use App\Intake\DeriveFiles;
use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Storage;
use Illuminate\Testing\TestResponse;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Clip\NumberedClip;
use Tests\TestCase;

/** Clips from the door to the dataset. */
final class ClipTest extends TestCase
{
    private const FRAMES = 40;

    private Project $project;

    private User $manager;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->manager = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
    }

    private function file(string $name = 'a.mp4', bool $sound = true): string
    {
        $file = $this->temporary()."/{$name}";
        NumberedClip::write($file, self::FRAMES, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-bf', '2'], $sound);

        return $file;
    }

    private function clip(string $path = 'row/a.mp4', bool $sound = true): Item
    {
        $outcome = app(TakeFiles::class)->one($this->project, $this->file(basename($path), $sound), $path, false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    private function range(User $user, string $path, string $range): TestResponse
    {
        $this->app['auth']->forgetGuards();
        $this->flushSession();
        $this->actingAs($user->fresh(), 'web');

        return $this->call('GET', $path, [], [], [], ['HTTP_RANGE' => $range, 'HTTP_ACCEPT' => '*/*']);
    }

    /** @return array<string, mixed> the packet of the next turn */
    private function next(User $user): array
    {
        return $this->api($user, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label'])->assertOk()->json('packet');
    }

    /**
     * @param  list<array<string, mixed>>  $edits
     * @return list<array<string, mixed>>
     */
    private function send(User $user, int $turn, array $edits): array
    {
        return $this->api($user, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => $edits])->assertOk()->json('results');
    }

    /** @param  list<array{int, int}>  $stretches */
    private function track(string $mark, int $place = 0, array $stretches = [[0, self::FRAMES - 1]]): array
    {
        return ['id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => $this->box(10, 20), 'place' => $place, 'stretches' => $stretches, 'answers' => ['ripeness' => ['value' => 'ripe']]]];
    }

    /** @return array<string, int> */
    private function box(int $x, int $y, int $width = 30, int $height = 30): array
    {
        return ['x' => $x, 'y' => $y, 'width' => $width, 'height' => $height];
    }

    /** @param  ?array<string, mixed>  $key */
    private function key(string $mark, int $place, int $base, ?array $key): array
    {
        return ['id' => $this->ulid(), 'action' => 'key', 'mark' => $mark, 'base' => $base, 'data' => ['place' => $place, 'key' => $key]];
    }

    public function test_a_clip_goes_in_is_tracked_and_leaves_as_mot(): void
    {
        $item = $this->clip();
        self::assertSame(['clip', self::FRAMES], [$item->kind, $item->places()]);
        self::assertSame([NumberedClip::WIDTH, NumberedClip::HEIGHT], [$item->asset->width, $item->asset->height]);
        $item->update(['facts' => ['row' => '7']]);
        $this->assign($this->project, $this->manager, $this->mei, null);
        $packet = $this->next($this->mei);
        self::assertSame(['row' => '7'], $packet['facts']);
        self::assertSame(['clip', self::FRAMES, true], [$packet['item']['kind'], $packet['item']['clip']['frames'], $packet['item']['clip']['sound']]);
        $turn = $packet['turn']['id'];
        $mark = $this->ulid();
        $results = $this->send($this->mei, $turn, [$this->track($mark), $this->key($mark, 20, 0, ['geometry' => $this->box(110, 20)]), $this->key($mark, 30, 0, ['geometry' => $this->box(110, 60), 'hidden' => true, 'source' => 'followed'])]);
        self::assertSame(['applied', 'applied', 'applied'], array_column($results, 'outcome'));
        self::assertSame([20, 1, false], [$results[1]['key']['place'], $results[1]['key']['revision'], $results[1]['key']['deleted']]);
        $again = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$turn}")->assertOk()->json();
        self::assertSame([[0, self::FRAMES - 1]], $again['marks'][0]['stretches']);
        self::assertSame([[0, 'hand', false], [20, 'hand', false], [30, 'followed', true]], array_map(static fn (array $key): array => [$key['place'], $key['source'], $key['hidden']], $again['keys']));
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();

        $out = $this->temporary().'/mot';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'mot', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        $lines = file("{$out}/row/a/gt/gt.txt", FILE_IGNORE_NEW_LINES) ?: [];
        self::assertCount(self::FRAMES, $lines);
        self::assertSame(['1,1,11,21,30,30,1,1,1', '2,1,16,21,30,30,1,1,1', '21,1,111,21,30,30,1,1,1', '31,1,111,61,30,30,1,1,0', '40,1,111,61,30,30,1,1,0'], [$lines[0], $lines[1], $lines[20], $lines[30], $lines[39]]);
        self::assertFileEquals("{$out}/row/a.mp4", app(\App\Files\AssetStore::class)->file($item->asset));

        // and back in, onto another project with the same clip
        $other = $this->project('Other');
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $out, '--format' => 'mot', '--labels' => $out, '--json' => true]));
        $report = json_decode(Artisan::output(), true);
        self::assertSame([1, 0], [$report['labels']['objects'], $report['labels']['skipped_count']]);
        self::assertSame([0, 20, 29, 30, 39], DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->where('marks.project_id', $other->id)->orderBy('mark_keys.place')->pluck('mark_keys.place')->all());
        // a second time it is known
        Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $out, '--format' => 'mot', '--labels' => $out, '--json' => true]);
        $report = json_decode(Artisan::output(), true);
        self::assertSame([0, 1], [$report['labels']['objects'], $report['labels']['known']]);
        $second = $this->temporary().'/mot';
        Artisan::call('skeno:release', ['project' => (string) $other->id, '--format' => 'mot', '--out' => $second, '--states' => 'any', '--json' => true]);
        self::assertFileEquals("{$out}/row/a/gt/gt.txt", "{$second}/row/a/gt/gt.txt");
    }

    public function test_pictures_of_its_frames_leave_in_the_formats_of_pictures(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $this->send($this->mei, $turn, [$this->track($mark), $this->key($mark, 20, 0, ['geometry' => $this->box(110, 20)])]);
        foreach (['keys' => [0, 20], 'every:15' => [0, 15, 30], 'list:3,7' => [3, 7]] as $choice => $frames) {
            $out = $this->temporary().'/yolo';
            self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'yolo', '--frames' => $choice, '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
            $pictures = array_values(array_filter(array_map(static fn (\SplFileInfo $file): string => $file->getPathname(), File::allFiles($out)), static fn (string $file): bool => str_ends_with($file, '.png')));
            sort($pictures);
            self::assertSame($frames, array_map(static fn (string $file): int => NumberedClip::read($file), $pictures), $choice);
            self::assertSame($frames, array_map(static fn (string $file): int => (int) basename($file, '.png'), $pictures));
        }
        self::assertSame(2, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'yolo', '--frames' => 'some', '--out' => $this->temporary().'/x', '--json' => true]));
    }

    public function test_two_hands_on_different_keys_do_not_meet_and_on_one_they_are_told(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $this->send($this->mei, $turn, [$this->track($mark), $this->key($mark, 10, 0, ['geometry' => $this->box(50, 50)])]);
        // another tab, which knows of neither of these
        self::assertSame(['applied', 'applied'], array_column($this->send($this->mei, $turn, [$this->key($mark, 20, 0, ['geometry' => $this->box(60, 60)]), $this->key($mark, 10, 1, ['geometry' => $this->box(52, 50)])]), 'outcome'));
        $stale = $this->send($this->mei, $turn, [$edit = $this->key($mark, 10, 1, ['geometry' => $this->box(99, 99)]), $this->key($mark, 10, 2, ['geometry' => $this->box(98, 98)]), $this->key($mark, 30, 0, ['geometry' => $this->box(70, 70)])]);
        // what was done on top of the one that was not taken is not taken either; another key is
        self::assertSame(['conflict', 'conflict', 'applied'], array_column($stale, 'outcome'));
        self::assertSame([52, 2], [$stale[0]['key']['geometry']['x'], $stale[0]['key']['revision']]);
        // taken away and brought back on top of that
        self::assertSame(['applied', 'conflict', 'applied'], array_column($this->send($this->mei, $turn, [$gone = $this->key($mark, 20, 1, null), $this->key($mark, 5, 0, null), $this->key($mark, 20, 2, ['geometry' => $this->box(61, 60)])]), 'outcome'));
        self::assertSame(['repeated'], array_column($this->send($this->mei, $turn, [$gone]), 'outcome'));
        $history = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$turn}/marks/{$mark}/history")->assertOk()->json('data');
        self::assertContains('key', array_column($history, 'action'));
        // the face of a track is the key where it is seen best
        $this->send($this->mei, $turn, [$this->key($mark, 25, 0, ['geometry' => $this->box(0, 0, 200, 100)]), $this->key($mark, 26, 0, ['geometry' => $this->box(0, 0, 300, 150), 'hidden' => true])]);
        self::assertSame(25, DB::table('marks')->where('id', $mark)->value('place'));
        $this->send($this->mei, $turn, [$this->key($mark, 25, 1, null)]);
        self::assertNotSame(25, DB::table('marks')->where('id', $mark)->value('place'));
    }

    public function test_what_can_not_be_on_a_clip_is_refused_by_name(): void
    {
        $item = $this->clip();
        $this->items($this->project, 1);
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $plain = $this->create($this->ulid());
        $results = $this->send($this->mei, $turn, [
            $plain, $this->track($this->ulid(), 0, [[0, self::FRAMES]]), $this->track($this->ulid(), self::FRAMES), $this->track($this->ulid(), 0, []), $this->track($mark, 0, [[5, 9], [0, 3]]),
            $this->key($mark, self::FRAMES, 0, ['geometry' => $this->box(1, 1)]), $this->key($mark, 3, 0, ['geometry' => ['rings' => [[1, 1, 5, 5, 1, 5]]]]), $this->key($mark, -1, 0, ['geometry' => $this->box(1, 1)]),
            $this->key($this->ulid(), 2, 0, ['geometry' => $this->box(1, 1)]), $this->key($mark, 2, 0, []), $this->key($mark, 2, 0, ['geometry' => $this->box(1, 1), 'source' => 'guessed']),
        ]);
        self::assertSame(['refused', 'refused', 'refused', 'refused', 'applied', 'refused', 'refused', 'refused', 'conflict', 'refused', 'conflict'], array_column($results, 'outcome'));
        self::assertStringContainsString('stretches', $results[0]['reason']);
        self::assertSame([[0, 3], [5, 9]], $results[4]['mark']['stretches']);
        $this->api($this->mei, 'get', "/projects/{$this->project->id}/items/{$item->id}/picture?size=screen&place=".self::FRAMES)->assertStatus(422);
        // nor has a picture an axis
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        $packet = $this->next($this->mei);
        self::assertSame(['picture', null], [$packet['item']['kind'], $packet['item']['clip']]);
        self::assertSame('refused', $this->send($this->mei, $packet['turn']['id'], [$this->track($this->ulid())])[0]['outcome']);
    }

    public function test_what_is_said_along_a_clip_is_kept_checked_and_leaves(): void
    {
        $this->project = $this->project('Rows', [
            'skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']]],
            'attributes' => [['key' => 'wind', 'name' => 'Wind', 'type' => 'one', 'scope' => 'frame', 'required' => true, 'options' => [['key' => 'calm', 'name' => 'Calm'], ['key' => 'gust', 'name' => 'Gust']]]],
            'tags' => [['key' => 'blocked', 'name' => 'View blocked', 'scope' => 'stretch']],
        ]);
        foreach ([[$this->manager, Role::Manager], [$this->mei, Role::Labeller]] as [$user, $role]) {
            \App\Models\Membership::query()->create(['project_id' => $this->project->id, 'user_id' => $user->id, 'role' => $role]);
        }
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $packet = $this->next($this->mei);
        $turn = $packet['turn']['id'];
        self::assertSame([], $packet['said']['stretches']);
        $say = fn (int $base, array $stretches): array => ['id' => $this->ulid(), 'action' => $base === 0 ? 'create' : 'change', 'mark' => null, 'base' => $base, 'data' => ['kind' => 'item', 'answers' => [], 'tags' => [], 'stretches' => $stretches]];
        $calm = ['question' => 'wind', 'answer' => ['value' => 'calm'], 'first' => 0, 'last' => 29];
        $results = $this->send($this->mei, $turn, [$say(0, [$calm, ['tag' => 'blocked', 'first' => 10, 'last' => 12]]), $say(1, [['tag' => 'blocked', 'first' => 10, 'last' => self::FRAMES]])]);
        self::assertSame(['applied', 'refused'], array_column($results, 'outcome'));
        $refused = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => true, 'anyway' => true])->assertStatus(422);
        self::assertStringContainsString('Wind is not answered from frame 31 to 40', (string) $refused->json('detail'));
        self::assertSame(30, $refused->json('findings.0.place'));
        $this->send($this->mei, $turn, [$say(1, [$calm, ['question' => 'wind', 'answer' => ['value' => 'gust'], 'first' => 30, 'last' => 39], ['tag' => 'blocked', 'first' => 10, 'last' => 12]])]);
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => true, 'anyway' => true])->assertOk();
        $out = $this->temporary().'/csv';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'csv', '--out' => $out, '--states' => 'any', '--no-pictures' => true, '--json' => true]));
        $lines = file("{$out}/stretches.csv", FILE_IGNORE_NEW_LINES) ?: [];
        self::assertSame(['row/a.mp4,answer,wind,Wind,calm,0,29,0,1.2', 'row/a.mp4,tag,blocked,View blocked,,10,12,0.4,0.52', 'row/a.mp4,answer,wind,Wind,gust,30,39,1.2,1.6'], array_map(trim(...), array_slice($lines, 1)));
    }

    public function test_its_files_come_in_ranges_to_those_it_concerns(): void
    {
        $item = $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $short = "/projects/{$this->project->id}/items/{$item->id}/clip";
        $path = "/api/v1{$short}";
        $index = json_decode((string) file_get_contents(app(ClipStore::class)->file($item->asset, 'index.json')), true);
        foreach (['full.mp4', 'sound.m4a', 'wave.bin'] as $name) {
            $response = $this->range($this->mei, "{$path}/{$name}", 'bytes=100-199');
            $response->assertStatus(206)->assertHeader('Content-Range', 'bytes 100-199/'.filesize(app(ClipStore::class)->file($item->asset, $name)));
        }
        $group = $this->range($this->mei, "{$path}/full.mp4", "bytes={$index['full']['offset']}-".($index['full']['offset'] + 3));
        self::assertSame(4, strlen($group->streamedContent()));
        $this->api($this->mei, 'get', "{$short}/index.json")->assertOk();
        $this->api($this->mei, 'get', "{$short}/small.mp4")->assertNotFound();
        $this->api($this->mei, 'get', "{$short}/frames.json")->assertNotFound();
        $this->api($this->member($this->project, Role::Labeller, 'Ravi'), 'get', "{$short}/full.mp4")->assertNotFound();
        foreach ([0, 1, 12, 39] as $place) {
            $picture = $this->api($this->mei, 'get', "/projects/{$this->project->id}/items/{$item->id}/picture?size=screen&place={$place}")->assertOk();
            self::assertSame($place, NumberedClip::read($picture->baseResponse->getFile()->getPathname()));
        }
    }

    public function test_exact_frames_are_written_by_command(): void
    {
        $item = $this->clip();
        foreach ([['--frames' => '17,0,39'], ['--every' => '13']] as $choice) {
            $out = $this->temporary().'/frames';
            self::assertSame(0, Artisan::call('skeno:frames', ['project' => (string) $this->project->id, 'item' => $item->path, '--out' => $out, '--json' => true] + $choice));
            $expected = isset($choice['--every']) ? [0, 13, 26, 39] : [0, 17, 39];
            $files = glob("{$out}/*") ?: [];
            self::assertSame(array_map(static fn (int $k): string => sprintf('%06d.png', $k), $expected), array_map(basename(...), $files));
            self::assertSame($expected, array_map(static fn (string $file): int => NumberedClip::read($file), $files));
        }
        foreach ([['--frames' => '40'], ['--frames' => '-1'], ['--frames' => '1', '--every' => '2'], [], ['--every' => '0']] as $wrong) {
            $out = $this->temporary().'/none';
            self::assertSame(2, Artisan::call('skeno:frames', ['project' => (string) $this->project->id, 'item' => (string) $item->id, '--out' => $out, '--json' => true] + $wrong));
            self::assertDirectoryDoesNotExist($out);
        }
    }

    public function test_frames_of_a_clip_become_pictures_that_know_it(): void
    {
        $item = $this->clip();
        $path = "/projects/{$this->project->id}/items/{$item->id}/frames";
        $other = $this->project('Stills');
        $begin = fn (array $body): \App\Models\Chore => \App\Models\Chore::query()->findOrFail($this->api($this->manager, 'post', $path, $body)->assertStatus(202)->json('chore'));
        Queue::fake();
        foreach ([['frames' => 'every:10'], ['frames' => 'stretch:19-21'], ['frames' => 'list:39,20']] as $body) {
            app(\App\Chores\Chores::class)->run($begin($body));
        }
        $pictures = Item::query()->where('project_id', $this->project->id)->where('kind', 'picture')->with('asset')->orderBy('path')->get();
        self::assertSame([0, 10, 19, 20, 21, 30, 39], $pictures->map(static fn (Item $one): int => (int) $one->facts['frame'])->all());
        foreach ($pictures as $one) {
            self::assertSame((int) $one->facts['frame'], NumberedClip::read(app(\App\Files\AssetStore::class)->file($one->asset)));
            self::assertSame(['row/a.mp4', sprintf('row/a/%06d.png', (int) $one->facts['frame'])], [$one->facts['clip'], $one->path]);
        }
        // the clip and its frames go to one part of a split
        $this->clip('row/b.mp4', false);
        $split = \Skeno\Core\Release\Recipe::fromArray(['states' => 'any', 'with_unlabelled' => true, 'split' => ['train' => 50, 'val' => 25, 'test' => 25, 'seed' => 3]], $this->project->codebookVersion()->codebook());
        $parts = app(\App\Releases\Parts::class)->of($this->project, $split, 1);
        self::assertCount(9, $parts);
        self::assertCount(1, array_unique(array_map(static fn ($part): string => $part->value, array_intersect_key($parts, array_flip([...$pictures->pluck('path')->all(), 'row/a.mp4'])))));
        // into another project only by one who manages it
        $this->api($this->manager, 'post', $path, ['frames' => 'every:20', 'project' => $other->id])->assertStatus(422)->assertJsonPath('field', 'project');
        \App\Models\Membership::query()->create(['project_id' => $other->id, 'user_id' => $this->manager->id, 'role' => Role::Manager]);
        app(\App\Chores\Chores::class)->run($begin(['frames' => 'every:20', 'project' => $other->id]));
        self::assertSame(['row/a/000000.png', 'row/a/000020.png'], Item::query()->where('project_id', $other->id)->orderBy('path')->pluck('path')->all());
        // those that differ most: as many as are asked for, and the same ones when it is tried again
        $stills = $this->project('Different');
        \App\Models\Membership::query()->create(['project_id' => $stills->id, 'user_id' => $this->manager->id, 'role' => Role::Manager]);
        foreach ([['taken' => 5, 'known' => 0], ['taken' => 0, 'known' => 5]] as $report) {
            $chore = $begin(['frames' => 'different:5', 'project' => $stills->id]);
            self::assertSame(5, $chore->total);
            app(\App\Chores\Chores::class)->run($chore);
            self::assertSame($report, $chore->refresh()->report);
        }
        self::assertSame(5, Item::query()->where('project_id', $stills->id)->count());
        // a try that broke off after a picture was taken: the next one makes up for what is missing
        $half = Item::query()->where('project_id', $stills->id)->orderBy('id')->with('asset')->firstOrFail();
        $facts = $half->facts;
        $half->update(['facts' => []]);
        DB::table('item_files')->where('item_id', $half->id)->delete();
        $half->asset->update(['derived_at' => null]);
        app(\App\Chores\Chores::class)->run($begin(['frames' => 'different:5', 'project' => $stills->id]));
        self::assertSame($facts, $half->refresh()->facts);
        self::assertSame(1, DB::table('item_files')->where('item_id', $half->id)->where('role', 'clip')->count());
        Queue::assertPushed(DeriveFiles::class, static fn (DeriveFiles $job): bool => str_contains(serialize($job), "i:{$half->id};"));
        // looking at them can be stopped
        $seen = 0;
        try {
            app(\App\Intake\TakeFrames::class)->chosen($item, 'different:5', static function () use (&$seen): void {
                if (++$seen === 3) {
                    throw new \App\Support\Cancelled('stop');
                }
            });
            self::fail('it was not stopped');
        } catch (\App\Support\Cancelled) {
            self::assertSame(3, $seen);
        }
        foreach (['every:0', 'list:40', 'stretch:5-4', 'keys', 'list:', 'different:0', 'different:1001'] as $wrong) {
            $this->api($this->manager, 'post', $path, ['frames' => $wrong])->assertStatus(422);
        }
        $this->api($this->mei, 'post', $path, ['frames' => 'every:20'])->assertStatus(403);
    }

    public function test_a_faulty_key_is_told_while_drawing_and_at_submit(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $edits = fn (array $edits): array => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => $edits])->assertOk()->json('findings');
        self::assertSame([], array_values(array_filter($edits([$this->track($mark)]), static fn (array $finding): bool => $finding['code'] === 'outside')));
        $found = $edits([$this->key($mark, 10, 0, ['geometry' => $this->box(-20, 50)]), $this->key($mark, 12, 0, ['geometry' => $this->box(20, 50)]), $this->key($mark, 14, 0, ['geometry' => $this->box(-20, 50)])]);
        self::assertSame([10, 'outside'], [$found[0]['place'], $found[0]['code']]);
        self::assertStringContainsString('and 1 more', $found[0]['message']);
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertStatus(422)->assertJsonPath('findings.0.place', 10);
        // put right they are told no more; beyond its end neither
        $found = $edits([$this->key($mark, 10, 1, ['geometry' => $this->box(20, 50)]), ['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['stretches' => [[0, 13]]]]]);
        self::assertSame([], array_values(array_filter($found, static fn (array $finding): bool => $finding['code'] === 'outside')));
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
    }

    public function test_a_returned_clip_comes_back_with_its_keys_and_a_changed_codebook_takes_them_along(): void
    {
        $tobias = $this->member($this->project, Role::Reviewer, 'Tobias');
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, $tobias);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $this->send($this->mei, $turn, [$this->track($mark), $this->key($mark, 10, 0, ['geometry' => $this->box(50, 50)])]);
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        $review = $this->decisionOf($turn);
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/take")->assertOk();
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", ['x' => 60, 'y' => 60, 'text' => 'loose'])->assertStatus(422);
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", ['x' => 60, 'y' => 60, 'place' => 10, 'mark' => $mark, 'text' => 'loose'])->assertStatus(201)->assertJsonPath('place', 10);
        \Illuminate\Support\Carbon::setTestNow(now()->addMinutes(2));
        \Carbon\CarbonImmutable::setTestNow(now());
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/decision", ['decision' => 'return', 'reason' => 'tighter'])->assertOk();
        \Illuminate\Support\Carbon::setTestNow(now()->addMinutes(2));
        \Carbon\CarbonImmutable::setTestNow(now());
        $again = $this->next($this->mei);
        self::assertSame([0, 10], array_column($again['keys'], 'place'));
        self::assertSame(10, $again['pins'][0]['place']);
        $this->send($this->mei, $again['turn']['id'], [$this->key($mark, 10, 1, ['geometry' => $this->box(51, 51)]), $this->key($mark, 15, 0, ['geometry' => $this->box(60, 50)])]);
        $earlier = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$again['turn']['id']}/earlier")->assertOk()->json();
        self::assertSame([$mark], array_column($earlier['marks'], 'id'));
        self::assertSame([[0, self::FRAMES - 1]], $earlier['marks'][0]['stretches']);
        // its keys as they were: one was changed since, one has come
        $keys = static fn (array $earlier): array => array_map(static fn (array $key): array => [$key['place'], $key['geometry']['x']], $earlier['keys']);
        self::assertEquals([[0, 10], [10, 50]], $keys($earlier));
        // also when one is gone, and where it is there was changed
        $this->send($this->mei, $again['turn']['id'], [$this->key($mark, 10, 2, null), $this->key($mark, 0, 1, ['geometry' => $this->box(7, 7)]), ['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['stretches' => [[0, 20]]]]]);
        $earlier = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$again['turn']['id']}/earlier")->assertOk()->json();
        self::assertEquals([[0, 10], [10, 50]], $keys($earlier));
        self::assertSame([[0, self::FRAMES - 1]], $earlier['marks'][0]['stretches']);
        \Illuminate\Support\Carbon::setTestNow();
        \Carbon\CarbonImmutable::setTestNow();
    }

    public function test_an_object_is_followed_some_frames_at_a_time_and_leaves_few_keys(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $path = "/projects/{$this->project->id}/turns/{$turn}";
        // the bar with some ground beside it: it moves 7 px a frame
        $from = ['place' => 3, 'geometry' => $this->box(13, 50, 40, 120)];
        $seen = [$from];
        $last = null;
        while (count($seen) < 31) {
            $answer = $this->api($this->mei, 'post', "{$path}/follow", ['kind' => 'box', 'from' => $from, 'frames' => 12] + ($last === null ? [] : ['last' => $last]))->assertOk()->json();
            self::assertNull($answer['unsure']);
            self::assertCount(12, $answer['found']);
            foreach ($answer['found'] as $found) {
                self::assertEqualsWithDelta(13 + 7 * ($found['place'] - 3), $found['geometry']['x'], 1.5, "frame {$found['place']}");
                $seen[] = $last = ['place' => $found['place'], 'geometry' => $found['geometry']];
            }
        }
        $places = $this->api($this->mei, 'post', "{$path}/thin", ['kind' => 'box', 'shapes' => $seen])->assertOk()->json('places');
        self::assertLessThanOrEqual(4, count($places));
        self::assertSame([3, $last['place']], [$places[0], end($places)]);
        // at the end there is nothing more, and what is even can't be followed
        self::assertSame([], $this->api($this->mei, 'post', "{$path}/follow", ['kind' => 'box', 'from' => ['place' => 39, 'geometry' => $from['geometry']], 'frames' => 5])->assertOk()->json('found'));
        $this->api($this->mei, 'post', "{$path}/follow", ['kind' => 'box', 'from' => ['place' => 3, 'geometry' => $this->box(200, 44, 14, 14)], 'frames' => 5])->assertStatus(422);
        $this->api($this->mei, 'post', "{$path}/follow", ['kind' => 'box', 'from' => $from, 'frames' => 500])->assertStatus(422);
        $this->api($this->mei, 'post', "{$path}/follow", ['kind' => 'box', 'from' => ['place' => 40, 'geometry' => $from['geometry']], 'frames' => 5])->assertStatus(422);
        // between two outlines
        $shapes = $this->api($this->mei, 'post', "{$path}/between", ['kind' => 'polygon', 'from' => ['place' => 0, 'geometry' => ['rings' => [[0, 0, 10, 0, 10, 10, 0, 10]]]], 'to' => ['place' => 10, 'geometry' => ['rings' => [[100, 0, 110, 0, 110, 10, 100, 10]]]], 'first' => 5, 'last' => 6])->assertOk()->json('shapes');
        self::assertCount(2, $shapes);
        self::assertEqualsWithDelta(50, min(array_map(static fn (array $ring): float => (float) min($ring[0], $ring[2], $ring[4], $ring[6]), $shapes[0]['rings'])), 0.01);
        $this->api($this->mei, 'post', "{$path}/between", ['kind' => 'polygon', 'from' => ['place' => 9, 'geometry' => ['rings' => [[0, 0, 10, 0, 10, 10]]]], 'to' => ['place' => 3, 'geometry' => ['rings' => [[0, 0, 10, 0, 10, 10]]]], 'first' => 5, 'last' => 6])->assertStatus(422);
    }

    public function test_an_object_is_cut_out_again_on_every_nth_frame(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $again = fn (array $with) => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/cut-again", $with + ['kind' => 'polygon', 'from' => ['place' => 3, 'geometry' => ['rings' => [NumberedClip::bar(3)]]], 'to' => 14, 'every' => 4]);
        $answer = $again([])->assertOk()->json();
        self::assertSame([7, 11, 14], array_column($answer['found'], 'place'));
        self::assertNull($answer['unsure']);
        foreach ($answer['found'] as ['place' => $place, 'geometry' => $geometry]) {
            $wanted = NumberedClip::bar($place);
            $xs = array_map(static fn (array $point): float => $point[0], array_chunk($geometry['rings'][0], 2));
            self::assertEqualsWithDelta($wanted[0], min($xs), 2.5, "frame {$place}");
            self::assertEqualsWithDelta($wanted[2], max($xs), 2.5, "frame {$place}");
        }
        foreach (['to' => ['to' => 3], 'every' => ['every' => 1], 'kind' => ['kind' => 'box', 'from' => ['place' => 3, 'geometry' => $this->box(13, 50, 40, 120)]]] as $field => $wrong) {
            $again($wrong)->assertStatus(422)->assertJsonPath('field', $field);
        }
    }

    public function test_frames_in_coco_come_back_in_as_the_tracks_they_were(): void
    {
        $item = $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $this->send($this->mei, $turn, [$this->track($mark, 0, [[0, 29]]), $this->key($mark, 20, 0, ['geometry' => $this->box(110, 20)])]);
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();
        $out = $this->temporary().'/coco';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'coco', '--frames' => 'all', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        $other = $this->project('Other');
        $file = $this->file();
        app(TakeFiles::class)->one($other, $file, $item->path, false);
        // only the labels come in: with its pictures the frames would be items of their own
        $import = fn (): array => [Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $file, '--format' => 'coco', '--labels' => "{$out}/annotations", '--json' => true]), json_decode(Artisan::output(), true)];
        [$code, $report] = $import();
        self::assertSame(0, $code, json_encode($report));
        self::assertSame([1, 0], [$report['labels']['objects'], $report['labels']['skipped_count']]);
        $clip = Item::query()->where('project_id', $other->id)->where('kind', 'clip')->sole();
        self::assertSame([1, [[0, 29]]], [$clip->mark_count, $clip->marks()->sole()->stretches]);
        // every frame was listed; those that say the same are no keys
        self::assertSame([0, 20, 29], DB::table('mark_keys')->where('mark_id', $clip->marks()->sole()->id)->orderBy('place')->pluck('place')->all());
        self::assertSame([0, 1], [$import()[1]['labels']['objects'], $import()[1]['labels']['known']]);
    }

    public function test_the_frame_at_which_a_track_fits_worst_is_found_with_where_it_would_fit(): void
    {
        $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $path = "/projects/{$this->project->id}/turns/{$turn}/fit";
        // the bar moves 7 px a frame; between these keys it is taken to hurry ahead and wait
        $key = fn (int $place, int $x): array => ['place' => $place, 'geometry' => $this->box($x, 50, 40, 120)];
        $ask = ['kind' => 'box', 'stretches' => [[0, 39]], 'first' => 0, 'last' => 39];
        $true = [$key(3, 13), $key(33, 13 + 7 * 30)];
        $answer = $this->api($this->mei, 'post', $path, ['keys' => $true] + $ask)->assertOk()->json();
        self::assertGreaterThan(30, $answer['judged']);
        $inside = $this->api($this->mei, 'post', $path, ['keys' => $true, 'first' => 4, 'last' => 32] + $ask)->assertOk()->json();
        self::assertLessThan(0.1, $inside['worst']['misfit']);
        $wrong = [$key(3, 13), $key(18, 13 + 7 * 15 + 28), $key(33, 13 + 7 * 30)];
        // (the key itself is wrong, so it is no example of what it looks like; where it is not there nothing is judged)
        $found = $this->api($this->mei, 'post', $path, ['keys' => [$wrong[0], ['hidden' => true] + $wrong[1], $wrong[2]], 'first' => 4, 'last' => 32] + $ask)->assertOk()->json();
        self::assertSame([14, true], [$found['judged'], $found['worst']['place'] >= 10 && $found['worst']['place'] <= 17]);
        self::assertEqualsWithDelta(13 + 7 * ($found['worst']['place'] - 3), $found['worst']['geometry']['x'], 2, 'where the bar is');
        self::assertGreaterThan(2 * $inside['worst']['misfit'], $found['worst']['misfit']);
        $ring = array_merge(...array_map(static fn (int $i): array => [100 + 50 * cos($i / 4000), 100 + 50 * sin($i / 4000)], range(0, 25_000)));
        $this->api($this->mei, 'post', $path, ['kind' => 'polygon', 'keys' => [['place' => 3, 'geometry' => ['rings' => [$ring]]]]] + $ask)->assertStatus(422)->assertJsonPath('field', 'keys');
        foreach ([['last' => 40], ['last' => 20, 'first' => 21], ['kind' => 'cube'], ['keys' => [$key(3, 13), $key(3, 13)]], ['stretches' => [[0, 1]]]] as $bad) {
            $this->api($this->mei, 'post', $path, $bad + ['keys' => $true] + $ask)->assertStatus(422);
        }
    }

    public function test_what_was_made_of_a_clip_can_be_made_again(): void
    {
        $item = $this->clip();
        File::deleteDirectory(Storage::disk('derived')->path(''), true);
        Queue::fake();
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/clip/index.json")->assertStatus(409)->assertJsonPath('code', 'clip_not_made');
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/clip/index.json")->assertStatus(409);
        Queue::assertPushed(DeriveFiles::class, 1);
        app()->call([new DeriveFiles([$item->id]), 'handle']);
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/clip/index.json")->assertOk();
        self::assertSame(self::FRAMES, app(ClipStore::class)->table($item->asset)->count());
    }

    public function test_a_bad_clip_is_refused_and_the_rest_comes_in(): void
    {
        $folder = $this->temporary();
        rename($this->file(), "{$folder}/good.mp4");
        file_put_contents("{$folder}/cut.mp4", substr((string) file_get_contents("{$folder}/good.mp4"), 0, 5000));
        file_put_contents("{$folder}/text.mov", 'no clip');
        $noise = substr((string) file_get_contents("{$folder}/good.mp4"), 0, 40).random_bytes(5000);
        file_put_contents("{$folder}/noise.mp4", $noise);
        self::assertSame(1, Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $folder, '--json' => true]));
        $report = json_decode(Artisan::output(), true);
        self::assertSame(1, $report['taken']);
        self::assertSame(['cut.mp4', 'noise.mp4', 'text.mov'], array_column($report['refused'], 'file'));
        self::assertSame([], File::directories(storage_path('tmp')) === [] ? [] : array_values(array_filter(File::directories(storage_path('tmp')), static fn (string $path): bool => str_contains($path, 'clip-'))));
        // the same bytes once more
        Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => "{$folder}/good.mp4", '--json' => true]);
        self::assertSame(1, json_decode(Artisan::output(), true)['known']);
    }

    public function test_a_draft_pass_carries_keys_there_and_back(): void
    {
        $item = $this->clip();
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $this->send($this->mei, $turn, [$this->track($mark), $this->key($mark, 10, 0, ['geometry' => $this->box(50, 50)]), $this->key($mark, 20, 0, ['geometry' => $this->box(60, 50)])]);
        $draft = \App\Items\Layers::ensure($item, \Skeno\Core\Marks\LayerKind::Blind, DB::table('assignments')->value('id'), 1);
        $agreed = \App\Items\Layers::agreed($item->id);
        $ids = \App\Items\LayerCopy::marks(\App\Models\MarkRow::query()->where('layer_id', $agreed->id)->get(), $draft, 'copy', null, true);
        $copy = \App\Models\MarkRow::query()->findOrFail($ids[$mark]);
        self::assertSame([0, 10, 20], DB::table('mark_keys')->where('mark_id', $copy->id)->orderBy('place')->pluck('place')->all());
        $key = \App\Items\Keys::at($copy, 10) ?? self::fail();
        \App\Items\Keys::write($copy, [\Skeno\Core\Tracks\Key::of(10, \Skeno\Core\Geometry\Box::of(1, 2, 3, 4), revision: 2), \Skeno\Core\Tracks\Key::of(15, $key->geometry)], null);
        \App\Items\Keys::remove($copy, 20, 2, null);
        \App\Items\LayerCopy::merge($draft->refresh(), $agreed->refresh(), 'accept', null);
        $row = \App\Models\MarkRow::query()->findOrFail($mark);
        self::assertSame([0, 10, 15], array_map(static fn ($key): int => $key->place, \App\Items\Keys::ofMarks([$mark])[$mark]));
        self::assertEquals(\Skeno\Core\Geometry\Box::of(1, 2, 3, 4), \App\Items\Keys::at($row, 10)?->geometry);
        self::assertSame(2, \App\Items\Keys::revision($mark, 10));
    }
}
