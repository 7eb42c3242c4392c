<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Release\ChosenFrames;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tests\Volume\Scans;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\VolumeLimits;

/** Objects of volumes out into files and back in. */
final class VolumeFormatsTest extends TestCase
{
    private const SIZES = [12, 10, 8];

    /** To the right, to the front, from above: on the sheet x and z are turned over. */
    private const AFFINE = [0.5, 0.0, 0.0, 1.0, 0.0, -0.5, 0.0, 2.0, 0.0, 0.0, -2.0, 3.0];

    private static function scan(string $file): Scan
    {
        $nifti = Nifti::open($file, new VolumeLimits);

        return Scan::of($nifti->grid(), $nifti->header);
    }

    /** A mask with a key on two slices, the ones between worked out; a polygon on one; a box that covers some of both; a line. */
    private static function volume(Scan $scan, string $path = 'ct/apple.nii.gz'): DatasetItem
    {
        $square = static fn (int $from, int $to): Mask => Mask::ofColumns(12, 10, array_fill_keys(range($from, $to - 1), [$from, $to]));

        return new DatasetItem($path, 12, 10, str_repeat('b', 64), Labelled::Objects, [
            Mark::along(Samples::id(1), 'pest', [Key::of(1, $square(2, 4)), Key::of(5, $square(2, 8))], Places::stretch(1, 5)),
            Mark::along(Samples::id(2), 'scab', [Key::of(3, Polygon::of([[1, 1, 6, 1, 6, 5, 1, 5]]))], Places::stretch(3, 3)),
            Mark::along(Samples::id(3), 'stem', [Key::of(0, Box::of(9, 7, 2, 2))], Places::fromArray([[0, 0]])),
        ], scan: $scan);
    }

    private static function codebook(): Codebook
    {
        return Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'stem', 'name' => 'Stem', 'shapes' => ['box']],
            ['key' => 'pest', 'name' => 'Pest', 'shapes' => ['mask']],
            ['key' => 'scab', 'name' => 'Scab', 'shapes' => ['polygon', 'mask']],
        ]]);
    }

    private static function recipe(Codebook $codebook): Recipe
    {
        return Recipe::fromArray([], $codebook);
    }

    private static function file(string $folder): string
    {
        return Scans::nifti("{$folder}/scan.nii.gz", self::SIZES, range(0, 959), Scalar::Int16, sform: self::AFFINE);
    }

    /** @return list<int> of a map, first axis fastest */
    private static function voxels(string $file): array
    {
        return array_merge(...array_map(static fn (array $slice): array => array_map(intval(...), $slice), iterator_to_array(Nifti::open($file, new VolumeLimits)->slices())));
    }

    public function test_label_maps_hold_every_voxel_with_what_lies_between_worked_out(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $item = self::volume($scan);
        $codebook = self::codebook();
        $report = Format::Nifti->writer($codebook)->write(Samples::dataset([$item], $codebook), $folder, false)->toArray();
        self::assertSame(['ct/apple.nii.gz', 'labels.txt', 'objects.csv', 'objects/ct/apple.nii.gz/0001.nii.gz', 'objects/ct/apple.nii.gz/0002.nii.gz', 'objects/ct/apple.nii.gz/0003.nii.gz'], self::sorted($folder->files()));
        self::assertSame("Stem\nPest\nScab\n", $folder->read('labels.txt'));
        $read = self::voxels($folder->file('ct/apple.nii.gz'));
        // every voxel by hand: x of the file counts from the other end, and so does the slice
        $at = static fn (int $x, int $y, int $z): int => $read[(11 - $x) + 12 * $y + 120 * (7 - $z)];
        foreach ([1 => [2, 4], 5 => [2, 8]] as $z => [$from, $to]) {
            for ($x = 0; $x < 12; $x++) {
                for ($y = 0; $y < 10; $y++) {
                    self::assertSame($x >= $from && $x < $to && $y >= $from && $y < $to ? 2 : 0, $at($x, $y, $z), "{$x} {$y} {$z}");
                }
            }
        }
        // half way it is half as large, where the polygon does not lie on it
        $middle = $item->marks[0]->track()->shape(3);
        self::assertInstanceOf(Mask::class, $middle);
        self::assertGreaterThan(9, $middle->area());
        self::assertLessThan(36, $middle->area());
        self::assertSame([3, 3, 0], [$at(1, 1, 3), $at(5, 4, 3), $at(6, 1, 3)]);
        self::assertSame([1, 1, 0], [$at(9, 7, 0), $at(10, 8, 0), $at(11, 8, 0)]);
        $objects = array_map(static fn (string $line): array => str_getcsv($line, ',', '"', ''), explode("\n", trim($folder->read('objects.csv'))));
        self::assertSame(['volume', 'file', 'class', 'value', 'voxels', 'ml'], $objects[0]);
        // a voxel is half by half by two mm
        self::assertSame(['ct/apple.nii.gz', 'objects/ct/apple.nii.gz/0002.nii.gz', 'Scab', '3', '20', '0.01'], $objects[2]);
        $whole = self::voxels($folder->file('objects/ct/apple.nii.gz/0001.nii.gz'));
        self::assertSame((int) $objects[1][4], array_sum($whole));
        self::assertContains('voxels under more than one mark were given to the one highest in the stack (label maps)', array_column($report, 'what'));
        self::assertContains('of a box the voxels in it are held', array_column($report, 'what'));
    }

    /** @param  list<string>  $files @return list<string> */
    private static function sorted(array $files): array
    {
        sort($files);

        return $files;
    }

    public function test_what_is_written_reads_back_and_damage_is_seen(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        foreach ([Format::Nifti, Format::Skeno] as $format) {
            $codebook = self::codebook();
            $dataset = Samples::dataset([self::volume($scan), self::volume($scan, 'ct/apple.nii'), new DatasetItem('ct/none.nii', 12, 10, str_repeat('c', 64), Labelled::Nothing, [], scan: $scan)], $codebook);
            $folder = new Folder(Samples::temporaryFolder());
            $writer = $format->writer($codebook);
            $back = new ReadBack($dataset, $format, $writer);
            $writer->write($back->watched(), $folder, false);
            self::assertSame([], $back->compare($folder)['differences'], $format->value);
            if ($format === Format::Nifti) {
                $map = $folder->file('objects/ct/apple.nii.gz/0002.nii.gz');
                $bytes = (string) gzdecode((string) file_get_contents($map));
                $at = (int) strpos($bytes, "\1", 352);
                $bytes[$at] = "\0";
                file_put_contents($map, gzencode($bytes));
                self::assertNotSame([], $back->compare($folder)['differences']);
            }
        }
    }

    public function test_more_objects_than_are_written_beside_each_other_are_all_there(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $codebook = self::codebook();
        $marks = [];
        for ($n = 0; $n < 70; $n++) {
            $marks[] = Mark::along(Samples::id($n + 1), 'pest', [Key::of($n % 7, Mask::ofColumns(12, 10, [intdiv($n, 7) => [3, 4]]))], Places::stretch($n % 7, $n % 7));
        }
        $dataset = Samples::dataset([new DatasetItem('ct/apple.nii.gz', 12, 10, str_repeat('b', 64), Labelled::Objects, $marks, scan: $scan)], $codebook);
        $folder = new Folder(Samples::temporaryFolder());
        $writer = Format::Nifti->writer($codebook);
        $back = new ReadBack($dataset, Format::Nifti, $writer);
        $writer->write($back->watched(), $folder, false);
        self::assertSame([], $back->compare($folder)['differences']);
        self::assertSame(71, count(file($folder->file('objects.csv')) ?: []));
        self::assertSame(140, array_sum(self::voxels($folder->file('ct/apple.nii.gz'))));
    }

    public function test_our_own_json_keeps_where_a_volume_lies(): void
    {
        $item = self::volume(self::scan(self::file(Samples::temporaryFolder())));
        $again = DatasetItem::fromArray(json_decode((string) json_encode($item->toArray(), JSON_PRESERVE_ZERO_FRACTION), true), 'item');
        self::assertSame($item->toArray(), $again->toArray());
        self::assertSame($item->scan?->header, $again->scan?->header);
        self::assertSame(8, $again->places());
    }

    public function test_of_a_map_alone_each_class_is_one_mark_by_the_list_of_classes(): void
    {
        $folder = Samples::temporaryFolder();
        $scan = self::scan(self::file($folder));
        $values = array_fill(0, 960, 0);
        // two blobs of value 7 and one voxel of value 2, on the first and third slice of the file
        foreach ([0, 1, 12, 245, 9] as $at) {
            $values[$at] = $at === 9 ? 2 : 7;
        }
        $maps = Samples::temporaryFolder();
        Scans::nifti("{$maps}/apple.nii", self::SIZES, $values, Scalar::UInt8, sform: self::AFFINE);
        file_put_contents("{$maps}/labels.txt", "# by hand\n2 scab\n7: Pest\n");
        $read = self::read($maps, $scan);
        $labels = $read[2];
        self::assertInstanceOf(ReadLabels::class, $labels);
        self::assertSame(['scab', 'pest'], array_map(static fn (Mark $mark): string => $mark->class, $labels->marks));
        self::assertInstanceOf(Notice::class, $read[0]);
        $pest = $labels->marks[1];
        // slices of the file count from above
        self::assertSame([[5, 5], [7, 7]], $pest->there?->toArray());
        $mask = $pest->keys[1]->geometry;
        self::assertInstanceOf(Mask::class, $mask);
        self::assertSame([10 => [0, 1], 11 => [0, 2]], $mask->columns());
        // without a list the classes are numbered as the codebook has them; it has no seventh
        unlink("{$maps}/labels.txt");
        $read = self::read($maps, $scan);
        self::assertInstanceOf(Skipped::class, $read[1]);
        self::assertSame('the list of classes has no such value', $read[1]->reason);
    }

    public function test_a_map_that_does_not_fit_is_passed_over_with_the_reason(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $tell = static function (callable $write) use ($scan): string {
            $maps = Samples::temporaryFolder();
            $write($maps);
            $read = self::read($maps, $scan);

            return $read[0] instanceof Skipped ? $read[0]->reason : $read[0]::class;
        };
        $none = array_fill(0, 960, 0);
        $ones = array_fill(0, 960, 1);
        self::assertStringContainsString('it has 12 × 8 × 10 voxels', $tell(static fn (string $to) => Scans::nifti("{$to}/apple.nii", [12, 8, 10], $none, Scalar::UInt8)));
        self::assertStringContainsString('it lies elsewhere', $tell(static fn (string $to) => Scans::nifti("{$to}/apple.nii", self::SIZES, $none, Scalar::UInt8, sform: [1.0] + self::AFFINE)));
        self::assertStringContainsString('holds 1.5; labels are whole numbers', $tell(static fn (string $to) => Scans::nifti("{$to}/apple.nii", self::SIZES, array_map(static fn (int $n): float => $n * 1.5, $ones), Scalar::Float32)));
        self::assertStringContainsString('holds -1;', $tell(static fn (string $to) => Scans::nifti("{$to}/apple.nii", self::SIZES, array_map(static fn (int $n): int => -$n, $ones), Scalar::Int16)));
        self::assertStringContainsString('not in the project', $tell(static fn (string $to) => Scans::nifti("{$to}/pear.nii", self::SIZES, $none, Scalar::UInt8)));
        self::assertStringContainsString('is missing', $tell(static fn (string $to) => file_put_contents("{$to}/apple.nii", substr((string) file_get_contents(Scans::nifti("{$to}/apple.nii", self::SIZES, $none, Scalar::UInt8)), 0, 900))));
        $this->expectException(UnreadableLabels::class);
        self::read(Samples::temporaryFolder(), $scan);
    }

    public function test_a_table_of_objects_can_not_name_a_file_elsewhere(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $maps = Samples::temporaryFolder();
        Scans::nifti("{$maps}/apple.nii", self::SIZES, [1, ...array_fill(0, 959, 0)], Scalar::UInt8);
        file_put_contents("{$maps}/objects.csv", "volume,file,class\nct/apple.nii.gz,objects/../../etc/x.nii,Pest\nct/apple.nii.gz,/etc/x.nii,Pest\n");
        $read = self::read($maps, $scan);
        $labels = end($read);
        self::assertInstanceOf(ReadLabels::class, $labels);
        self::assertSame('stem', $labels->marks[0]->class);
    }

    /** @return list<ReadLabels|Skipped|Notice> */
    private static function read(string $folder, Scan $scan): array
    {
        $n = 0;
        $reader = Format::Nifti->reader(self::codebook(), static function () use (&$n): string {
            return Samples::id(++$n);
        });

        return [...$reader->read($folder, new KnownPictures([new KnownPicture(1, 'ct/apple.nii.gz', 12, 10, 8, scan: $scan)]))];
    }

    public function test_slices_become_pictures_in_the_formats_of_pictures_and_come_back_onto_the_volume(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $codebook = self::codebook();
        $item = self::volume($scan);
        $target = Samples::temporaryFolder().'/coco';
        $drawn = [];
        $dataset = new Dataset('ct', $codebook, static fn (): array => [$item], static fn (): string => '');
        Edition::write($dataset, self::recipe($codebook), $codebook, Format::Coco, true, $target, [], frames: ChosenFrames::keys(), slice: static function (DatasetItem $item, int $place) use (&$drawn): string {
            $drawn[] = $place;

            return 'a picture of '.$place;
        });
        self::assertSame([0, 1, 3, 5], $drawn);
        self::assertSame('a picture of 3', file_get_contents("{$target}/images/ct/apple/000003.png"));
        $n = 0;
        $reader = Format::Coco->reader($codebook, static function () use (&$n): string {
            return Samples::id(++$n);
        });
        $marks = [];
        foreach ($reader->read($target, new KnownPictures([new KnownPicture(1, 'ct/apple.nii.gz', 12, 10, 8, scan: $scan)])) as $read) {
            $marks = $read instanceof ReadLabels ? [...$marks, ...$read->marks] : $marks;
        }
        self::assertEqualsCanonicalizing(['pest', 'scab', 'stem'], array_map(static fn (Mark $mark): string => $mark->class, $marks));
        foreach ($marks as $mark) {
            if ($mark->class === 'scab') {
                self::assertSame([[3, 3]], $mark->there?->toArray());
            }
        }
    }

    public function test_what_is_no_volume_is_left_out_of_label_maps_and_counted(): void
    {
        $scan = self::scan(self::file(Samples::temporaryFolder()));
        $codebook = self::codebook();
        $picture = new DatasetItem('a.png', 12, 10, str_repeat('d', 64), Labelled::Nothing, []);
        $written = Edition::write(Samples::dataset([$picture, self::volume($scan)], $codebook), self::recipe($codebook), $codebook, Format::Nifti, false, Samples::temporaryFolder().'/out', []);
        self::assertContains(['what' => 'items that are no volumes were left out', 'count' => 1], $written['mapping']);
        self::assertSame(1, $written['compared']['items']);
    }
}
