<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\AssetStore;
use App\Files\VolumeStore;
use App\Intake\DeriveFiles;
use App\Intake\Outcome;
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
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tests\Volume\Dicoms;
use Skeno\Core\Tests\Volume\Scans;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\VolumeLimits;
use Tests\TestCase;

/** Volumes from the door to the label map. */
final class VolumeTest extends TestCase
{
    private const SIZES = [10, 8, 6];

    /** To the right, to the front, up: on the sheet x and y are turned over. */
    private const AFFINE = [0.5, 0.0, 0.0, 1.0, 0.0, 0.5, 0.0, 2.0, 0.0, 0.0, 2.0, 3.0];

    private Project $project;

    private User $manager;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project(document: ['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'core', 'name' => 'Core', 'shapes' => ['mask']],
            ['key' => 'bruise', 'name' => 'Bruise', 'shapes' => ['mask', 'polygon', 'box']],
        ], 'attributes' => [['key' => 'sharp', 'name' => 'Sharp', 'type' => 'yesno', 'scope' => 'frame', 'required' => true]]]);
        $this->manager = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
    }

    private function file(string $name = 'a.nii.gz'): string
    {
        // a bright block of 3 × 3 × 3 voxels in the dark
        $values = [];
        for ($k = 0; $k < 6; $k++) {
            for ($j = 0; $j < 8; $j++) {
                for ($i = 0; $i < 10; $i++) {
                    $values[] = $i >= 2 && $i < 5 && $j >= 2 && $j < 5 && $k >= 1 && $k < 4 ? 900 + $i : 10 + $k;
                }
            }
        }

        return Scans::nifti($this->temporary()."/{$name}", self::SIZES, $values, Scalar::Int16, sform: self::AFFINE);
    }

    private function volume(string $path = 'ct/a.nii.gz'): Item
    {
        $outcome = app(TakeFiles::class)->one($this->project, $this->file(basename($path)), $path, false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    /** @return array<string, mixed> */
    private function next(): array
    {
        $this->assign($this->project, $this->manager, $this->mei, null);

        return $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label'])->assertOk()->json('packet');
    }

    /** @return array<string, mixed> */
    private static function square(int $from, int $to): array
    {
        return Mask::ofColumns(10, 8, array_fill_keys(range($from, $to - 1), [$from, $to]))->toArray();
    }

    public function test_a_volume_goes_in_is_segmented_and_leaves_as_a_label_map(): void
    {
        $item = $this->volume();
        self::assertSame(['volume', 6], [$item->kind, $item->places()]);
        $packet = $this->next();
        self::assertSame(['volume', 6, ['L', 'P', 'S'], [0.5, 0.5, 2]], [$packet['item']['kind'], $packet['item']['volume']['slices'], $packet['item']['volume']['letters'], $packet['item']['volume']['spacing']]);
        $turn = $packet['turn']['id'];
        $mark = $this->ulid();
        $edits = [
            ['id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => ['class' => 'bruise', 'kind' => 'mask', 'geometry' => self::square(2, 4), 'place' => 1, 'stretches' => [[1, 3]], 'answers' => []]],
            ['id' => $this->ulid(), 'action' => 'key', 'mark' => $mark, 'base' => 0, 'data' => ['place' => 3, 'key' => ['geometry' => self::square(2, 8)]]],
        ];
        $said = ['id' => $this->ulid(), 'action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => 'item', 'answers' => [], 'tags' => [], 'stretches' => [['question' => 'sharp', 'answer' => ['value' => true], 'first' => 0, 'last' => 5]]]];
        $results = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => $edits])->assertOk()->json('results');
        self::assertSame(['applied', 'applied'], array_column($results, 'outcome'));
        $refused = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertStatus(422);
        self::assertStringContainsString('from slice 1 to 6', (string) $refused->baseResponse->getContent());
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [$said]])->assertOk();
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();

        $out = $this->temporary().'/nifti';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'nifti', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        $map = Nifti::open("{$out}/ct/a.nii.gz", new VolumeLimits);
        self::assertSame(Nifti::open($this->file(), new VolumeLimits)->grid()->affine, $map->grid()->affine);
        self::assertSame("Core\nBruise\n", File::get("{$out}/labels.txt"));
        $slices = iterator_to_array($map->slices());
        // x and y of the sheet count from the other end of the file's
        for ($j = 0; $j < 8; $j++) {
            for ($i = 0; $i < 10; $i++) {
                self::assertSame(9 - $i >= 2 && 9 - $i < 4 && 7 - $j >= 2 && 7 - $j < 4 ? 2 : 0, $slices[1][$i + 10 * $j]);
                self::assertSame(9 - $i >= 2 && 9 - $i < 8 && 7 - $j >= 2 && 7 - $j < 8 ? 2 : 0, $slices[3][$i + 10 * $j]);
            }
        }
        self::assertSame([0, 0, 0], [array_sum($slices[0]), array_sum($slices[4]), array_sum($slices[5])]);
        self::assertGreaterThan(8, array_sum($slices[2]));

        // and back in, onto another project: the scans under images/, the maps are no items
        $other = $this->project('Other', json_decode($this->project->codebookVersion()->body, true));
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $other->id, 'path' => $out, '--format' => 'nifti', '--labels' => $out, '--json' => true]), $said = Artisan::output());
        $report = json_decode($said, true);
        self::assertSame([1, 1, 0], [$report['taken'], $report['labels']['objects'], $report['labels']['skipped_count']]);
        $second = $this->temporary().'/nifti';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $other->id, '--format' => 'nifti', '--out' => $second, '--states' => 'any', '--json' => true]), Artisan::output());
        self::assertFileEquals("{$out}/ct/a.nii.gz", "{$second}/images/ct/a.nii.gz");
    }

    public function test_slices_become_pictures_with_masks_in_the_formats_of_pictures(): void
    {
        $this->volume();
        $turn = $this->next()['turn']['id'];
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => ['class' => 'core', 'kind' => 'mask', 'geometry' => self::square(1, 3), 'place' => 2, 'stretches' => [[2, 2]], 'answers' => []]]]])->assertOk();
        $out = $this->temporary().'/masks';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'masks', '--frames' => 'list:2,4', '--out' => $out, '--states' => 'any', '--json' => true]), Artisan::output());
        $picture = imagecreatefrompng("{$out}/images/ct/a/000002.png");
        self::assertNotFalse($picture);
        self::assertSame([10, 8], [imagesx($picture), imagesy($picture)]);
        // the block of the file lies on the sheet from 5 to 8 across and from 3 to 6 down
        $grey = static fn (int $x, int $y): int => imagecolorsforindex($picture, (int) imagecolorat($picture, $x, $y))['red'];
        self::assertGreaterThan(100, $grey(6, 4));
        self::assertLessThan(50, $grey(2, 4));
        $mask = imagecreatefrompng("{$out}/classes/ct/a/000002.png");
        self::assertNotFalse($mask);
        self::assertSame([1, 0], [imagecolorat($mask, 1, 1), imagecolorat($mask, 3, 3)]);
        self::assertFileExists("{$out}/classes/ct/a/000004.png");
    }

    public function test_what_is_said_of_slices_is_found_counted_and_swept(): void
    {
        $item = $this->volume();
        $turn = $this->next()['turn']['id'];
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => 'item', 'answers' => [], 'tags' => [], 'stretches' => [['question' => 'sharp', 'answer' => ['value' => true], 'first' => 0, 'last' => 2]]]]]])->assertOk();
        $found = fn (string $condition): int => count($this->api($this->manager, 'get', "/projects/{$this->project->id}/items?".http_build_query(['f' => [$condition]]))->assertOk()->json('data'));
        self::assertSame([1, 0, 1], [$found('answer:sharp=yes'), $found('answer:sharp=no'), $found('answer:sharp=open')]);
        // half of its slices are answered
        self::assertSame([1, 0], [$found('answered:>=50'), $found('answered:>=51')]);
        $swept = $this->api($this->manager, 'get', "/projects/{$this->project->id}/stretches?question=sharp")->assertOk()->json('data');
        self::assertSame([[0, 2], [3, 5]], array_map(static fn (array $stretch): array => [$stretch['first'], $stretch['last']], $swept));
        self::assertSame($item->id, $swept[0]['item']['id'] ?? $swept[0]['item_id'] ?? 0);
    }

    public function test_its_planes_are_sent_in_ranges_to_who_may_see_it(): void
    {
        $item = $this->volume();
        $path = "/api/v1/projects/{$this->project->id}/items/{$item->id}/volume";
        $index = $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/volume/index.json")->assertOk();
        self::assertInstanceOf(\Symfony\Component\HttpFoundation\BinaryFileResponse::class, $index->baseResponse);
        $index = json_decode($index->baseResponse->getFile()->getContent(), true);
        self::assertSame([[10, 8, 6], ['L', 'P', 'S']], [$index['sizes'], $index['letters']]);
        $lengths = $index['planes']['xy']['lengths'];
        $range = $this->actingAs($this->manager, 'web')->call('GET', "{$path}/xy.bin", [], [], [], ['HTTP_RANGE' => "bytes={$lengths[0]}-".($lengths[0] + $lengths[1] - 1), 'HTTP_ACCEPT' => '*/*']);
        self::assertSame(206, $range->getStatusCode());
        $plane = array_values((array) unpack('v*', (string) gzinflate($range->streamedContent())));
        self::assertCount(80, $plane);
        // (on the sheet) x 5, y 3 of the second slice is a voxel of the block
        self::assertEquals(904, $plane[5 + 10 * 3] * $index['stored']['slope'] + $index['stored']['intercept']);
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/volume/rows")->assertNotFound();
        $this->api($this->person('Stranger'), 'get', "/projects/{$this->project->id}/items/{$item->id}/volume/index.json")->assertNotFound();
    }

    public function test_a_region_is_grown_and_says_how_large_it_is(): void
    {
        $this->volume();
        $turn = $this->next()['turn']['id'];
        $grow = fn (array $wish) => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/grow", $wish);
        $grown = $grow(['seed' => [6, 4, 2], 'low' => 800, 'high' => 1000, 'distance' => 50])->assertOk()->json();
        self::assertSame([27, 0.0135, false, [1, 2, 3]], [$grown['voxels'], $grown['ml'], $grown['cut'], array_column($grown['slices'], 'place')]);
        self::assertSame(Mask::ofColumns(10, 8, [5 => [3, 6], 6 => [3, 6], 7 => [3, 6]])->toArray(), $grown['slices'][0]['geometry']);
        // by distance: half a mm to each side, two to the next slice
        self::assertSame(9, $grow(['seed' => [6, 4, 2], 'low' => 800, 'high' => 1000, 'distance' => 1.0])->assertOk()->json('voxels'));
        self::assertSame('seed', $grow(['seed' => [6, 4, 2], 'low' => 0, 'high' => 100, 'distance' => 9])->assertStatus(422)->json('field'));
        self::assertSame('seed[2]', $grow(['seed' => [6, 4, 6], 'low' => 0, 'high' => 100, 'distance' => 9])->assertStatus(422)->json('field'));
        self::assertSame('seed', $grow(['seed' => [6, 4], 'low' => 0, 'high' => 100, 'distance' => 9])->assertStatus(422)->json('field'));
        self::assertSame('high', $grow(['seed' => [6, 4, 2], 'low' => 0, 'distance' => 9])->assertStatus(422)->json('field'));
        self::assertSame('distance', $grow(['seed' => [6, 4, 2], 'low' => 0, 'high' => 1000, 'distance' => -1])->assertStatus(422)->json('field'));
    }

    public function test_what_looks_at_the_picture_looks_at_planes_that_stand_on_the_slices_too(): void
    {
        // a bright block of 14 × 10 × 8 voxels in a dark that is not quite even
        $values = [];
        for ($k = 0; $k < 24; $k++) {
            for ($j = 0; $j < 32; $j++) {
                for ($i = 0; $i < 40; $i++) {
                    $values[] = $i >= 10 && $i < 24 && $j >= 8 && $j < 18 && $k >= 6 && $k < 14 ? 900 + ($i + $j) % 7 : 60 + ($i * 7 + $j * 3 + $k) % 23;
                }
            }
        }
        $file = Scans::nifti($this->temporary().'/b.nii', [40, 32, 24], $values, Scalar::Int16, sform: self::AFFINE);
        self::assertSame('taken', app(TakeFiles::class)->one($this->project, $file, 'b.nii', false)->state);
        $turn = $this->next()['turn']['id'];
        $ask = fn (array $body): TestResponse => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/cut-out", $body + ['box' => ['x' => 12, 'y' => 32, 'width' => 20, 'height' => 48], 'as' => 'mask']);
        // on the sheet it is at x 16 to 29; its slices 6 to 13 are four pixels high each, the last of 24 uppermost
        $found = $ask(['plane' => 'xz-18'])->assertOk()->json('geometry');
        self::assertSame([96, 40], $found['size']);
        $mask = Mask::fromFields(\Skeno\Core\Fields::of($found), 'geometry');
        $bounds = $mask->bounds();
        self::assertEqualsWithDelta([16, 40, 14, 32], [$bounds->x, $bounds->y, $bounds->width, $bounds->height], 1.01);
        self::assertEqualsWithDelta(14 * 32, $mask->area(), 50);
        // nothing bright lies on that one
        self::assertNotSame($found, $ask(['plane' => 'xz-0'])->assertOk()->json('geometry'));

        $patches = fn (string $more): TestResponse => $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$turn}/patches?side=9&x=0&y=0&width=40&height=96&step=1&{$more}");
        $patches('plane=xz-18')->assertOk();
        // as large as that plane, and no slice is
        $patches('place=1')->assertStatus(422);
        foreach (['plane' => ['plane' => 'xz-32'], 'as xz-12' => ['plane' => 'front']] as $said => $body) {
            self::assertStringContainsString($said, $ask($body)->assertStatus(422)->json('detail'));
        }
    }

    public function test_an_object_is_worked_on_as_one_body(): void
    {
        $this->volume();
        $turn = $this->next()['turn']['id'];
        $rework = fn (string $op, array $slices) => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/solid", ['op' => $op, 'slices' => array_map(static fn (int $place, array $columns): array => ['place' => $place, 'geometry' => Mask::ofColumns(10, 8, $columns)->toArray()], array_keys($slices), $slices)]);
        $two = [1 => [2 => [2, 5], 3 => [2, 5]], 2 => [2 => [2, 4], 8 => [6, 8]]];
        $largest = $rework('largest', $two)->assertOk()->json();
        self::assertSame(2, $largest['parts']);
        self::assertSame([['place' => 1, 'geometry' => Mask::ofColumns(10, 8, $two[1])->toArray()], ['place' => 2, 'geometry' => Mask::ofColumns(10, 8, [2 => [2, 4]])->toArray()]], $largest['slices']);
        // a block of 5 × 5 × 3 with nothing in its middle
        $ring = array_fill_keys(range(1, 5), [1, 6]);
        $hollow = [1 => $ring, 2 => [3 => [1, 3, 4, 6]] + $ring, 3 => $ring];
        ksort($hollow[2]);
        self::assertSame(Mask::ofColumns(10, 8, $ring)->toArray(), $rework('fill', $hollow)->assertOk()->json('slices.1.geometry'));
        // the corners of the block go
        self::assertLessThan(75, array_sum(array_map(static fn (array $slice): float => Mask::fromFields(\Skeno\Core\Fields::of($slice['geometry']))->area(), $rework('smooth', array_fill(1, 3, $ring))->assertOk()->json('slices'))));
        self::assertSame('op', $rework('melt', $two)->assertStatus(422)->json('field'));
        self::assertSame('slices', $rework('fill', [])->assertStatus(422)->json('field'));
        self::assertSame('place', basename(str_replace('.', '/', (string) $rework('fill', [9 => $ring])->assertStatus(422)->json('field'))));
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/solid", ['op' => 'fill', 'slices' => [['place' => 0, 'geometry' => Mask::ofColumns(9, 8, [1 => [0, 1]])->toArray()]]])->assertStatus(422)->assertJson(['field' => 'slices[0].geometry.size']);
    }

    public function test_a_dicom_series_becomes_one_volume_and_nothing_of_a_patient_is_kept(): void
    {
        $folder = $this->temporary();
        mkdir("{$folder}/scans/one", 0o770, true);
        // names without an ending, in no order; a second series beside; a file that is none
        foreach ([4.0, 0.0, 2.0] as $n => $z) {
            Dicoms::slice("{$folder}/scans/one/IM{$n}", $z, range(100 * (int) $z, 100 * (int) $z + 11));
            Dicoms::slice("{$folder}/scans/one/other-{$n}.dcm", $z, range(0, 11), [0x0020_000E => ['UI', '1.9.9']]);
        }
        exec('gdcmconv --jpegls '.escapeshellarg("{$folder}/scans/one/IM0").' '.escapeshellarg("{$folder}/scans/one/IM0").' 2>&1');
        file_put_contents("{$folder}/scans/one/VERSION", 'no slice');
        self::assertSame(1, Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $folder, '--json' => true]), $said = Artisan::output());
        $report = json_decode($said, true);
        self::assertSame(2, $report['taken']);
        self::assertSame(['scans/one/VERSION'], array_column($report['refused'], 'file'));
        $items = Item::query()->orderBy('path')->with('asset')->get();
        self::assertSame(['scans/one-1.nii.gz', 'scans/one-2.nii.gz'], $items->pluck('path')->all());
        self::assertSame([4, 3, 3], $items[0]->asset->facts['scan']['grid']['sizes']);
        $planes = app(VolumeStore::class)->planes($items[0]->asset);
        self::assertSame(-1024.0 + 200, $planes->stored->measured(((array) unpack('v', $planes->plane('xy', 1)))[1]));
        self::assertSame('as scanned', $planes->window()->name);
        foreach ($items as $item) {
            self::assertStringNotContainsString('DOE', (string) gzdecode((string) file_get_contents(app(AssetStore::class)->file($item->asset))));
        }
        self::assertStringNotContainsString('DOE', (string) json_encode(DB::table('assets')->get()));
        self::assertSame([], glob(storage_path('tmp/series-*')));
        self::assertSame([], glob(storage_path('tmp/scan-*')));
        // a zip of it is known
        exec('cd '.escapeshellarg($folder).' && zip -qr all.zip scans');
        self::assertSame(['known', 'known', 'refused'], array_map(static fn (Outcome $outcome): string => $outcome->state, iterator_to_array(app(TakeFiles::class)->all($this->project, "{$folder}/all.zip", false), false)));
    }

    public function test_slices_that_come_one_by_one_wait_for_the_others(): void
    {
        $import = $this->api($this->manager, 'post', "/projects/{$this->project->id}/imports", [])->assertCreated()->json('id');
        foreach ([0.0, 2.0, 4.0] as $n => $z) {
            $this->send($import, "head/{$n}.dcm", (string) file_get_contents(Dicoms::slice($this->temporary().'/x', $z, range(0, 11))));
        }
        $this->send($import, 'lonely', (string) file_get_contents(Dicoms::slice($this->temporary().'/x', 0.0, range(0, 11))));
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/imports/{$import}/finish")->assertSuccessful();
        self::assertSame(['head.nii.gz'], Item::query()->pluck('path')->all());
        $files = DB::table('import_files')->where('import_id', $import)->pluck('reason', 'path');
        self::assertSame('of "head.nii.gz"', $files['head/1.dcm']);
        self::assertStringContainsString('a slice of a DICOM series by itself', $files['lonely']);
        self::assertSame('done', DB::table('imports')->where('id', $import)->value('state'));
    }

    public function test_pictures_of_a_folder_are_the_slices_of_a_volume_where_one_says_so(): void
    {
        $folder = $this->temporary();
        mkdir("{$folder}/stack");
        foreach ([1, 2, 10] as $n) {
            $picture = imagecreatetruecolor(6, 5);
            imagefill($picture, 0, 0, (int) imagecolorallocate($picture, $n, $n, $n));
            imagepng($picture, "{$folder}/stack/{$n}.png");
        }
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $folder, '--slices' => '0.5,0.5,2', '--json' => true]), Artisan::output());
        $item = Item::query()->with('asset')->sole();
        self::assertSame(['stack.nii.gz', 'volume', 3], [$item->path, $item->kind, $item->places()]);
        self::assertEquals([0.5, 0.5, 2], $item->asset->facts['spacing']);
        $planes = app(VolumeStore::class)->planes($item->asset);
        // 2.png before 10.png
        self::assertSame([1.0, 2.0, 10.0], array_map(static fn (int $z): float => $planes->stored->measured(((array) unpack('v', $planes->plane('xy', $z)))[1]), [0, 1, 2]));
        self::assertSame(2, Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $folder, '--slices' => '0.5,2', '--json' => true]));
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/imports", ['files' => ['slices' => [1, 1, 0]]])->assertStatus(422)->assertJson(['field' => 'files.slices[2]']);
    }

    private function send(int $import, string $path, string $bytes): void
    {
        $file = $this->api($this->manager, 'post', "/projects/{$this->project->id}/imports/{$import}/files", ['path' => $path, 'bytes' => strlen($bytes)])->assertStatus(201)->json('id');
        $this->api($this->manager, 'put', "/projects/{$this->project->id}/imports/{$import}/files/{$file}?offset=0", $bytes)->assertOk();
    }

    public function test_what_lies_and_what_is_cut_off_is_refused_by_name_and_leaves_nothing(): void
    {
        $take = app(TakeFiles::class);
        $before = Storage::disk('derived')->allFiles();
        $whole = (string) file_get_contents($this->file('whole.nii'));
        foreach ([
            'cut.nii' => [substr($whole, 0, 900), 'slice 4 of 6 is missing'],
            'head.nii' => [substr($whole, 0, 100), 'no NIfTI file'],
            'huge.nii' => [substr_replace($whole, pack('v3', 30000, 30000, 30000), 42, 6), '30000 × 30000 × 30000 voxels'],
            'flat.nii' => [substr_replace($whole, pack('g12', 1, 0, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0), 280, 48), 'singular'],
        ] as $name => [$bytes, $why]) {
            file_put_contents($file = $this->temporary()."/{$name}", $bytes);
            $outcome = $take->one($this->project, $file, $name, false);
            self::assertSame('refused', $outcome->state, $name);
            self::assertStringContainsString($why, $outcome->reason);
        }
        self::assertSame(0, Item::query()->count());
        self::assertSame(0, DB::table('assets')->count());
        self::assertSame([], glob(storage_path('tmp/volume-*')));
        self::assertSame($before, Storage::disk('derived')->allFiles());
    }

    public function test_what_was_made_is_made_again_from_the_original(): void
    {
        $item = $this->volume();
        $made = dirname(app(VolumeStore::class)->file($item->asset, 'index.json'));
        $before = array_map(md5_file(...), (array) glob("{$made}/*"));
        File::deleteDirectory($made);
        Queue::fake();
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/volume/index.json")->assertStatus(409)->assertJson(['code' => 'volume_not_made']);
        Queue::assertPushed(DeriveFiles::class, 1);
        $this->app->call([new DeriveFiles([$item->id]), 'handle']);
        self::assertSame($before, array_map(md5_file(...), (array) glob("{$made}/*")));
        $thumb = $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}/picture?size=thumb")->assertOk();
        self::assertSame('image/jpeg', $thumb->headers->get('Content-Type'));
        self::assertFileExists(app(AssetStore::class)->file($item->asset));
    }

    public function test_a_mask_of_another_size_or_a_slice_that_is_none_is_refused(): void
    {
        $this->volume();
        $turn = $this->next()['turn']['id'];
        $send = fn (array $geometry, int $place, array $stretches): array => $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => ['class' => 'core', 'kind' => 'mask', 'geometry' => $geometry, 'place' => $place, 'stretches' => $stretches, 'answers' => []]]]])->assertOk()->json('results.0');
        self::assertSame('refused', $send(Mask::ofColumns(9, 8, [1 => [0, 1]])->toArray(), 0, [[0, 0]])['outcome']);
        self::assertSame('refused', $send(self::square(1, 2), 6, [[6, 6]])['outcome']);
        self::assertSame('applied', $send(self::square(1, 2), 5, [[5, 5]])['outcome']);
    }
}
