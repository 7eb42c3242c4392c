<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\CloudStore;
use App\Intake\DeriveFiles;
use App\Intake\Outcome;
use App\Intake\TakeFiles;
use App\Looks\LookAtObjects;
use App\Models\Item;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Storage;
use Illuminate\Testing\TestResponse;
use Skeno\Core\Items\Wish;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Cloud\Clouds;
use Tests\TestCase;

/** Clouds from the door to the cuboids. */
final class CloudTest extends TestCase
{
    private Project $project;

    private User $manager;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project(document: ['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'bin', 'name' => 'Bin', 'shapes' => ['cuboid']],
            ['key' => 'post', 'name' => 'Post', 'shapes' => ['cuboid']],
            ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']],
        ]]);
        $this->manager = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
    }

    /**
     * A floor of 20 × 20 m with a box of 1.2 × 0.8 × 0.9 m on it.
     *
     * @return list<array{float, float, float}>
     */
    private static function scene(float $x = 4.0): array
    {
        $points = [];
        for ($i = 0; $i < 100; $i++) {
            for ($j = 0; $j < 100; $j++) {
                $points[] = [-10 + $i / 5, -10 + $j / 5, 0.0];
            }
        }
        for ($i = 0; $i <= 24; $i++) {
            for ($k = 0; $k <= 18; $k++) {
                $points[] = [$x - 0.6, 2 - 0.4 + $i / 30, $k / 20];
                $points[] = [$x - 0.6 + $i / 20, 2 - 0.4, $k / 20];
            }
        }

        return $points;
    }

    private function scan(string $name, float $x = 4.0): string
    {
        File::ensureDirectoryExists(dirname($file = $this->temporary()."/{$name}"));
        file_put_contents($file, Clouds::kitti(self::scene($x)));

        return $file;
    }

    private function cloud(string $path = 'row/0001.bin'): Item
    {
        $outcome = app(TakeFiles::class)->one($this->project, $this->scan(basename($path)), $path, false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    private function sequence(): Item
    {
        $folder = $this->temporary();
        foreach ([3.0, 4.0, 5.0] as $n => $x) {
            File::ensureDirectoryExists("{$folder}/north/pass");
            file_put_contents("{$folder}/north/pass/".(8 + $n).'.bin', Clouds::kitti(self::scene($x)));
        }
        $outcomes = [...app(TakeFiles::class)->all($this->project, $folder, false, wish: new Wish(frames: true))];
        self::assertSame([['taken', 'north/pass']], array_map(static fn (Outcome $outcome): array => [$outcome->state, $outcome->path], $outcomes), $outcomes[0]->reason);

        return Item::query()->findOrFail($outcomes[0]->item);
    }

    /** @return array<string, mixed> */
    private function next(): array
    {
        $this->assign($this->project, $this->manager, $this->mei, null);

        return $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label'])->assertOk()->json('packet');
    }

    /**
     * @param  array<string, mixed>  $body
     * @return array<string, mixed>
     */
    private function fit(int $turn, array $body): array
    {
        return $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/fit-cuboid", $body)->assertOk()->json();
    }

    public function test_a_cloud_goes_in_and_is_shown(): void
    {
        $item = $this->cloud();
        self::assertSame(['cloud', 1], [$item->kind, $item->places()]);
        self::assertTrue($item->extent()->isSpace);
        $packet = $this->next();
        self::assertSame(['cloud', 1, [10_950], [-10, -10, 0]], [$packet['item']['kind'], $packet['item']['cloud']['frames'], $packet['item']['cloud']['points'], $packet['item']['cloud']['least']]);
        $path = "/projects/{$this->project->id}/items/{$item->id}/cloud";
        $index = json_decode((string) file_get_contents($this->api($this->mei, 'get', "{$path}/index.json")->assertOk()->baseResponse->getFile()->getPathname()), true);
        self::assertSame(10_950, $index['frames'][0]['points']);
        self::assertSame(16 * 10_950, $this->api($this->mei, 'get', "{$path}/0.bin")->assertOk()->baseResponse->getFile()->getSize());
        foreach (['1.bin', '0.raw', 'index.php'] as $none) {
            self::assertSame(404, $this->api($this->mei, 'get', "{$path}/{$none}")->status(), $none);
        }
        self::assertStringStartsWith("\xFF\xD8", (string) file_get_contents($this->api($this->mei, 'get', "/projects/{$this->project->id}/items/{$item->id}/picture?size=thumb")->assertOk()->baseResponse->getFile()->getPathname()));
        // what is made of it can be made again
        $folder = dirname(app(CloudStore::class)->file($item->asset, 'index.json'));
        File::deleteDirectory($folder);
        Queue::fake();
        $this->api($this->mei, 'get', "{$path}/index.json")->assertStatus(409);
        $this->api($this->mei, 'get', "{$path}/index.json")->assertStatus(409);
        Queue::assertPushed(DeriveFiles::class, 1);
        $this->app->call([new DeriveFiles([$item->id]), 'handle']);
        $this->api($this->mei, 'get', "{$path}/index.json")->assertOk();
    }

    public function test_a_cuboid_is_fitted_kept_and_leaves_whole(): void
    {
        $item = $this->cloud();
        $turn = $this->next()['turn']['id'];
        $fitted = $this->fit($turn, ['frame' => 0, 'from' => [3.2, 1.3], 'to' => [4.9, 2.8]]);
        self::assertTrue($fitted['found']);
        self::assertGreaterThan(600, $fitted['points']);
        self::assertEqualsWithDelta([4.0, 2.0, 0.45], $fitted['geometry']['center'], 0.06);
        self::assertEqualsWithDelta([1.2, 0.8, 0.9], $fitted['geometry']['size'], 0.06);
        self::assertEqualsWithDelta(0.0, $fitted['geometry']['heading'], 1.5);
        $loose = ['center' => [4.05, 2.0, 0.5], 'size' => [1.4, 1.0, 1.1], 'heading' => 0];
        $tight = $this->fit($turn, ['frame' => 0, 'cuboid' => $loose]);
        self::assertEqualsWithDelta([1.2, 0.8, 0.9], $tight['geometry']['size'], 0.06);
        $nothing = $this->fit($turn, ['frame' => 0, 'cuboid' => ['center' => [-8, -8, 5], 'size' => [1, 1, 1], 'heading' => 0]]);
        self::assertSame([false, 0, [-8, -8, 5]], [$nothing['found'], $nothing['points'], $nothing['geometry']['center']]);

        $mark = $this->ulid();
        $data = ['class' => 'bin', 'kind' => 'cuboid', 'geometry' => $fitted['geometry'], 'place' => 0, 'stretches' => [[0, 0]], 'answers' => []];
        $results = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => $data]]])->assertOk()->json('results');
        self::assertSame(['applied'], array_column($results, 'outcome'));
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();
        self::assertSame(1, $item->refresh()->mark_count);
        // among the objects it has a portrait
        $object = $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?class=bin")->assertOk()->json('data.0');
        self::assertSame('cuboid', $object['kind'] ?? $object['mark']['kind'] ?? null);
        self::assertStringStartsWith("\xFF\xD8", (string) file_get_contents($this->api($this->manager, 'get', "/projects/{$this->project->id}/objects/{$mark}/crop")->assertOk()->baseResponse->getFile()->getPathname()));
    }

    public function test_in_a_cloud_nothing_but_cuboids_is_drawn_and_none_elsewhere(): void
    {
        $this->cloud();
        $turn = $this->next()['turn']['id'];
        $edit = fn (array $data): string => json_encode($this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => $data + ['place' => 0, 'stretches' => [[0, 0]], 'answers' => []]]]])->json(), JSON_THROW_ON_ERROR);
        self::assertStringContainsString('nothing else is drawn', $edit(['class' => 'leaf', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 2, 'height' => 2]]));
        self::assertStringContainsString('center', $edit(['class' => 'bin', 'kind' => 'cuboid', 'geometry' => ['center' => [1, 2], 'size' => [1, 1, 1], 'heading' => 0]]));
        self::assertStringContainsString('size[1]', $edit(['class' => 'bin', 'kind' => 'cuboid', 'geometry' => ['center' => [1, 2, 3], 'size' => [1, -1, 1], 'heading' => 0]]));
        self::assertStringContainsString('places from 0 to 0', $edit(['class' => 'bin', 'kind' => 'cuboid', 'geometry' => ['center' => [1, 2, 3], 'size' => [1, 1, 1], 'heading' => 0], 'stretches' => [[0, 4]]]));
        // one without a size is kept, and found
        self::assertStringContainsString('applied', $edit(['class' => 'leaf', 'kind' => 'cuboid', 'geometry' => ['center' => [1, 2, 3], 'size' => [1, 1, 0], 'heading' => 0]]));
        $refused = (string) $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertStatus(422)->baseResponse->getContent();
        self::assertStringContainsString('the cuboid has no size', $refused);
        self::assertStringContainsString('not drawn as a cuboid', $refused);
    }

    public function test_what_is_asked_for_with_nonsense_is_refused_by_name(): void
    {
        $this->cloud();
        $turn = $this->next()['turn']['id'];
        foreach ([
            'frame' => ['frame' => 7, 'from' => [0, 0], 'to' => [1, 1]],
            'to' => ['frame' => 0, 'from' => [0, 0], 'to' => [1000, 1]],
            'from' => ['frame' => 0, 'from' => [0], 'to' => [1, 1]],
            'typical' => ['frame' => 0, 'from' => [0, 0], 'to' => [1, 1], 'typical' => [1, 0, 1]],
            'cuboid' => ['frame' => 0, 'cuboid' => ['center' => [0, 0, 0], 'size' => [9000, 9000, 1], 'heading' => 0]],
        ] as $what => $body) {
            $said = (string) $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/fit-cuboid", $body)->assertStatus(422)->baseResponse->getContent();
            self::assertStringContainsString($what, $said);
        }
    }

    public function test_the_scans_of_a_folder_are_one_sequence_where_that_is_wished(): void
    {
        $item = $this->sequence();
        self::assertSame(['cloud', 3, 'frames'], [$item->kind, $item->places(), $item->asset->format]);
        $turn = $this->next()['turn']['id'];
        foreach ([3.0, 4.0, 5.0] as $frame => $x) {
            self::assertEqualsWithDelta($x, $this->fit($turn, ['frame' => $frame, 'from' => [$x - 0.9, 1.3], 'to' => [$x + 0.9, 2.8]])['geometry']['center'][0], 0.06);
        }
        // once more it is known
        File::deleteDirectory(dirname(app(CloudStore::class)->file($item->asset, 'index.json')));
        $this->app->call([new DeriveFiles([$item->id]), 'handle']);
        self::assertSame(3, count(app(CloudStore::class)->made($item->asset->sha256)->points));
    }

    public function test_what_is_no_cloud_is_refused_and_nothing_of_it_stays(): void
    {
        $folder = $this->temporary();
        File::ensureDirectoryExists("{$folder}/broken");
        file_put_contents("{$folder}/cut.pcd", "VERSION .7\nFIELDS x y z\nSIZE 4 4 4\nTYPE F F F\nCOUNT 1 1 1\nWIDTH 9\nHEIGHT 1\nPOINTS 9\nDATA binary\nabc");
        file_put_contents("{$folder}/huge.pcd", "VERSION .7\nFIELDS x y z\nSIZE 4 4 4\nTYPE F F F\nCOUNT 1 1 1\nWIDTH 1000000000\nHEIGHT 1\nPOINTS 1000000000\nDATA binary\nabc");
        file_put_contents("{$folder}/none.xyz", "nan nan nan\n");
        file_put_contents("{$folder}/points.csv", "x,y,z\n1,2,3\n4,5,6\n");
        file_put_contents("{$folder}/about.csv", "file,x,y,z\na.pcd,1,2,3\n");
        $made = static fn (): int => count(array_filter(Storage::disk('derived')->allFiles(), static fn (string $file): bool => str_ends_with($file, '-cloud/index.json')));
        $before = $made();
        $outcomes = [];
        foreach (app(TakeFiles::class)->all($this->project, $folder, false) as $outcome) {
            $outcomes[$outcome->path] = [$outcome->state, $outcome->reason];
        }
        self::assertSame('refused', $outcomes['cut.pcd'][0]);
        self::assertStringContainsString('cut off', $outcomes['cut.pcd'][1]);
        self::assertStringContainsString('1,000,000,000 points', $outcomes['huge.pcd'][1]);
        self::assertStringContainsString('none of its points', $outcomes['none.xyz'][1]);
        self::assertSame(['taken', 'passed'], [$outcomes['points.csv'][0], $outcomes['about.csv'][0]]);
        self::assertSame([], glob(storage_path('tmp/cloud-*')));
        self::assertSame(1, Item::query()->count());
        self::assertSame(1 + $before, $made());
    }

    public function test_cuboids_leave_as_a_table_and_come_back_onto_the_same_cloud(): void
    {
        $item = $this->sequence();
        $turn = $this->next()['turn']['id'];
        $mark = $this->ulid();
        $at = static fn (float $x): array => ['center' => [$x, 2, 0.45], 'size' => [1.24, 0.84, 0.94], 'heading' => 0];
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [
            ['id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => ['class' => 'bin', 'kind' => 'cuboid', 'geometry' => $at(3), 'place' => 0, 'stretches' => [[0, 2]], 'answers' => []]],
            ['id' => $this->ulid(), 'action' => 'key', 'mark' => $mark, 'base' => 0, 'data' => ['place' => 2, 'key' => ['geometry' => $at(5)]]],
        ]])->assertOk();
        $out = $this->temporary().'/out';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'cuboids', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        $lines = array_map(str_getcsv(...), explode("\n", trim((string) file_get_contents("{$out}/cuboids.csv"))));
        self::assertSame(['file', 'frame', 'track', 'class', 'x', 'y', 'z', 'length', 'width', 'height', 'qx', 'qy', 'qz', 'qw', 'points'], $lines[0]);
        self::assertSame([['north/pass', '0', '1', 'Bin', '3'], ['north/pass', '1', '1', 'Bin', '4'], ['north/pass', '2', '1', 'Bin', '5']], array_map(static fn (array $line): array => array_slice($line, 0, 5), array_slice($lines, 1)));
        foreach (array_slice($lines, 1) as $line) {
            // 950 of the box, 7 × 5 of the ground it stands on
            self::assertSame('985', $line[14]);
        }
        // onto another project with the same scans
        $other = $this->project(document: $this->project->codebookVersion()->codebook()->toArray(), name: 'another');
        $folder = $this->temporary();
        foreach ([3.0, 4.0, 5.0] as $n => $x) {
            File::ensureDirectoryExists("{$folder}/north/pass");
            file_put_contents("{$folder}/north/pass/".(8 + $n).'.bin', Clouds::kitti(self::scene($x)));
        }
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $folder, '--frames' => true, '--format' => 'cuboids', '--labels' => "{$out}/cuboids.csv", '--json' => true]), Artisan::output());
        $came = Item::query()->where('project_id', $other->id)->firstOrFail();
        self::assertSame([1, $item->asset_id], [$came->mark_count, $came->asset_id]);
        $row = $came->marks()->firstOrFail();
        self::assertSame([[0, 2]], json_decode((string) $row->getRawOriginal('stretches'), true));
        // the middle says nothing that the ends do not
        self::assertSame([0, 2], DB::table('mark_keys')->where('mark_id', $row->id)->orderBy('place')->pluck('place')->all());
    }

    public function test_a_cuboid_is_followed_by_its_points_and_its_keys_are_few(): void
    {
        $this->sequence();
        $turn = $this->next()['turn']['id'];
        $drawn = ['center' => [3, 2, 0.45], 'size' => [1.24, 0.84, 0.94], 'heading' => 0];
        $follow = fn (array $body): TestResponse => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/follow", $body + ['kind' => 'cuboid', 'from' => ['place' => 0, 'geometry' => $drawn], 'frames' => 16]);
        $answer = $follow([])->assertOk()->json();
        self::assertNull($answer['unsure']);
        self::assertSame([1, 2], array_column($answer['found'], 'place'));
        foreach ($answer['found'] as $n => $found) {
            self::assertEqualsWithDelta([4.0 + $n, 2.0, 0.45], $found['geometry']['center'], 0.06);
            self::assertSame([1.24, 0.84, 0.94], $found['geometry']['size']);
            self::assertGreaterThan(0.5, $found['certainty']);
        }
        // on from where it was found at last
        $on = $follow(['last' => ['place' => 1, 'geometry' => $answer['found'][0]['geometry']], 'frames' => 1])->assertOk()->json();
        self::assertEqualsWithDelta([5.0, 2.0, 0.45], $on['found'][0]['geometry']['center'], 0.06);
        // it went evenly: what lies between its ends says nothing
        $shapes = [['place' => 0, 'geometry' => $drawn], ...array_map(static fn (array $found): array => ['place' => $found['place'], 'geometry' => $found['geometry']], $answer['found'])];
        self::assertSame([0, 2], $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/thin", ['kind' => 'cuboid', 'shapes' => $shapes])->assertOk()->json('places'));

        $lost = $follow(['from' => ['place' => 0, 'geometry' => ['center' => [-8, -8, 3]] + $drawn]])->assertOk()->json();
        self::assertSame([], $lost['found']);
        self::assertSame('there are too few points in it', $lost['unsure']);
        self::assertSame([], $follow(['from' => ['place' => 2, 'geometry' => $drawn]])->assertOk()->json('found'), 'there is no frame after the last');
        foreach ([
            'kind' => ['kind' => 'box'],
            'from.place' => ['from' => ['place' => 3, 'geometry' => $drawn]],
            'from.geometry' => ['from' => ['place' => 0, 'geometry' => ['center' => [3, 2]]]],
            'from.geometry.size' => ['from' => ['place' => 0, 'geometry' => ['size' => [900, 900, 1]] + $drawn]],
            'last.place' => ['from' => ['place' => 1, 'geometry' => $drawn], 'last' => ['place' => 0, 'geometry' => $drawn]],
            'frames' => ['frames' => 0],
        ] as $said => $body) {
            self::assertStringContainsString($said, $follow($body)->assertStatus(422)->json('detail'));
        }
    }

    public function test_where_the_scanner_was_is_taken_from_what_came_with_the_scans(): void
    {
        // it stands two metres farther on at each frame, though the scans would say one
        $pose = static fn (float $x): array => [1, 0, 0, $x, 0, 1, 0, 0, 0, 0, 1, 0];
        $folder = $this->drive(['drive/poses.json' => json_encode(['poses' => [$pose(0), $pose(-1), $pose(-2)]], JSON_THROW_ON_ERROR)]);
        [$outcome] = [...app(TakeFiles::class)->all($this->project, $folder, false, wish: new Wish(frames: true))];
        self::assertSame('taken', $outcome->state, $outcome->reason);
        $item = Item::query()->with('asset')->findOrFail($outcome->item);
        self::assertArrayNotHasKey('poses', $item->asset->facts['rig']);
        self::assertSame(-2.0, app(CloudStore::class)->rig($item->asset->sha256)?->poses[2]->numbers[3]);
        $turn = $this->next()['turn']['id'];
        $found = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/follow", ['kind' => 'cuboid', 'from' => ['place' => 0, 'geometry' => ['center' => [3, 2, 0.45], 'size' => [1.24, 0.84, 0.94], 'heading' => 0]], 'frames' => 2])->assertOk()->json('found');
        self::assertEqualsWithDelta([4.0, 5.0], [$found[0]['geometry']['center'][0], $found[1]['geometry']['center'][0]], 0.03);

        $short = $this->drive(['drive/poses.json' => json_encode(['poses' => [$pose(0)]], JSON_THROW_ON_ERROR)]);
        [$outcome] = [...app(TakeFiles::class)->all($this->project, $short, false, wish: new Wish(frames: true))];
        self::assertSame('refused', $outcome->state);
        self::assertStringContainsString('one for each of the 3 frames', $outcome->reason);
    }

    /**
     * Three frames with pictures of a camera, as KITTI lays them out.
     *
     * @param  array<string, string>  $more  files by path
     */
    private function drive(array $more = [], string $calibration = "P2: 30 0 20 0 0 30 15 0 0 0 1 0\nTr_velo_to_cam: 0 -1 0 0 0 0 -1 1.5 1 0 0 0\n"): string
    {
        $folder = $this->temporary();
        foreach ([3.0, 4.0, 5.0] as $n => $x) {
            foreach (['velodyne', 'image_2', 'calib'] as $part) {
                File::ensureDirectoryExists("{$folder}/drive/{$part}");
            }
            file_put_contents("{$folder}/drive/velodyne/00000{$n}.bin", Clouds::kitti(self::scene($x)));
            file_put_contents("{$folder}/drive/calib/00000{$n}.txt", $calibration);
            if ($n !== 1) {
                $image = imagecreatetruecolor(40, 30);
                self::assertNotFalse($image);
                imagepng($image, "{$folder}/drive/image_2/00000{$n}.png");
            }
        }
        foreach ($more as $path => $bytes) {
            file_put_contents("{$folder}/{$path}", $bytes);
        }

        return $folder;
    }

    public function test_pictures_of_a_camera_come_with_their_frames_and_cuboids_leave_in_its_axes(): void
    {
        $folder = $this->drive();
        $outcomes = [...app(TakeFiles::class)->all($this->project, $folder, false, wish: new Wish(frames: true))];
        self::assertSame([['taken', 'drive']], array_map(static fn (Outcome $outcome): array => [$outcome->state, $outcome->path], $outcomes), $outcomes[0]->reason);
        $packet = $this->next();
        self::assertSame([['image_2', 40, 30, ['png', '', 'png']]], array_map(static fn (array $camera): array => [$camera['name'], $camera['width'], $camera['height'], $camera['pictures']], $packet['item']['cloud']['cameras']));
        $picture = $this->api($this->mei, 'get', preg_replace('#^/api/v1#', '', $packet['item']['cloud']['path']).'/2-0.png')->assertOk();
        self::assertSame('image/png', $picture->headers->get('Content-Type'));
        $this->api($this->mei, 'get', preg_replace('#^/api/v1#', '', $packet['item']['cloud']['path']).'/1-0.png')->assertNotFound();

        $turn = $packet['turn']['id'];
        $cuboid = $this->fit($turn, ['frame' => 0, 'from' => [2.2, 1.4], 'to' => [3.8, 2.6]])['geometry'];
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => ['class' => 'bin', 'kind' => 'cuboid', 'geometry' => $cuboid, 'place' => 0, 'stretches' => [[0, 0]], 'answers' => []]]]])->assertOk();
        $out = $this->temporary().'/out';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'kitti', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        self::assertFileExists("{$out}/drive/calib/000002.txt");
        $words = explode(' ', trim((string) file_get_contents("{$out}/drive/label_2/000000.txt")));
        self::assertSame('Bin', $words[0]);
        // 3 m ahead of the camera, 2 m to its left, 1.5 m under it
        self::assertEqualsWithDelta([0.9, 0.8, 1.2, -2.0, 1.5, 3.0], array_map(floatval(...), array_slice($words, 8, 6)), 0.1);

        $other = $this->project(document: $this->project->codebookVersion()->codebook()->toArray(), name: 'another');
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $folder, '--frames' => true, '--format' => 'kitti', '--labels' => $out, '--json' => true]), Artisan::output());
        $row = Item::query()->where('project_id', $other->id)->firstOrFail()->marks()->firstOrFail();
        self::assertSame(0, $row->place);
        self::assertEqualsWithDelta($cuboid['center'], json_decode((string) $row->getRawOriginal('geometry'), true)['center'], 0.01);
    }

    public function test_what_is_wrong_with_a_camera_is_named_and_nothing_of_the_sequence_is_taken(): void
    {
        foreach ([
            'drive/calib/000000.txt' => [$this->drive(calibration: "P2: 30 0 20\nTr_velo_to_cam: 0 -1 0 0 0 0 -1 1.5 1 0 0 0\n"), 'P2'],
            'drive/cameras.json' => [$this->drive(['drive/cameras.json' => '{"cameras": [']), 'JSON'],
            'drive/image_2/000000.png' => [$this->drive(['drive/image_2/000000.png' => 'no picture at all']), 'a JPEG or PNG'],
        ] as $path => [$folder, $why]) {
            [$outcome] = [...app(TakeFiles::class)->all($this->project, $folder, false, wish: new Wish(frames: true))];
            self::assertSame('refused', $outcome->state);
            self::assertStringContainsString($path, $outcome->reason);
            self::assertStringContainsString($why, $outcome->reason);
        }
        self::assertSame(0, Item::query()->where('project_id', $this->project->id)->count());
        self::assertSame([], glob(storage_path('tmp/sequence-*')) ?: []);
    }

    public function test_objects_are_narrowed_and_sorted_by_points_distance_and_length(): void
    {
        $this->cloud();
        $turn = $this->next()['turn']['id'];
        $ids = [];
        foreach (['full' => [[4, 2, 0.45], [1.24, 0.84, 0.94]], 'empty' => [[-8, 0, 5], [3, 1, 1]], 'far' => [[0, 60, 5], [0.4, 0.3, 1]]] as $name => [$center, $size]) {
            $ids[$name] = $this->ulid();
            $data = ['class' => 'bin', 'kind' => 'cuboid', 'geometry' => ['center' => $center, 'size' => $size, 'heading' => 0], 'place' => 0, 'stretches' => [[0, 0]], 'answers' => []];
            self::assertSame(['applied'], array_column($this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $ids[$name], 'base' => 0, 'data' => $data]]])->assertOk()->json('results'), 'outcome'));
        }
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        app(LookAtObjects::class)->run($this->project);
        $names = array_flip($ids);
        $found = fn (string $query): array => array_map(static fn (array $object): string => $names[$object['id']], $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?class=bin&{$query}")->assertOk()->json('data'));
        self::assertSame(['full'], $found('points=1-'));
        self::assertEqualsCanonicalizing(['empty', 'far'], $found('points=0-0'));
        self::assertSame(['empty'], $found('points=-0&distance=5-10'));
        self::assertSame(['far'], $found('length=-0.5'));
        self::assertSame(['full', 'empty', 'far'], $found('sort=distance'));
        self::assertSame(['empty', 'full', 'far'], $found('sort=length&order=desc'));
        self::assertSame('full', $found('sort=points&order=desc')[0]);
        $page = $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?class=bin&points=1-")->json();
        self::assertSame(1, $page['total']);
        self::assertEquals(['points' => 985, 'distance' => 4.472, 'length' => 1.24], $page['data'][0]['measures']);
        foreach (['points=some', 'distance=-', 'length=1e9-2', 'points=3'] as $wrong) {
            self::assertStringContainsString('from and to', $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?{$wrong}")->assertStatus(422)->json('detail'));
        }
    }

    public function test_a_pin_is_set_in_space(): void
    {
        $this->sequence();
        $tobias = $this->member($this->project, Role::Reviewer, 'Tobias');
        $this->assign($this->project, $this->manager, $this->mei, $tobias);
        $turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label'])->assertOk()->json('packet.turn.id');
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => true, 'anyway' => false])->assertOk();
        $review = $this->api($tobias, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'review'])->assertOk()->json('packet.turn.id');
        $pin = fn (array $at): TestResponse => $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", $at + ['text' => 'this one too']);
        self::assertSame([-3.5, 2, 1, null], array_values(array_intersect_key($pin(['x' => -3.5, 'y' => 2, 'place' => 1])->assertStatus(201)->json(), array_flip(['x', 'y', 'place', 'mark']))));
        self::assertSame('place', $pin(['x' => 1, 'y' => 1])->assertStatus(422)->json('field'));
        self::assertSame('place', $pin(['x' => 1, 'y' => 1, 'place' => 3])->assertStatus(422)->json('field'));
        self::assertSame('x', $pin(['x' => 1e12, 'y' => 1, 'place' => 0])->assertStatus(422)->json('field'));
    }
}
