<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Volume;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Volume\Grid;
use Skeno\Core\Volume\Growing;
use Skeno\Core\Volume\LabelMap;
use Skeno\Core\Volume\Laid;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Planes;
use Skeno\Core\Volume\RefusedVolume;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\Standing;
use Skeno\Core\Volume\VolumeLimits;

final class VolumeTest extends TestCase
{
    private string $folder = '';

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/skeno-volume-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    /** @return iterable<string, array{scalar, bool, list<int|float>}> */
    public static function types(): iterable
    {
        $values = [
            [Scalar::UInt8, [0, 1, 127, 128, 254, 255]], [Scalar::Int8, [-128, -1, 0, 1, 126, 127]],
            [Scalar::Int16, [-32768, -1024, -1, 0, 3071, 32767]], [Scalar::UInt16, [0, 1, 32767, 32768, 65534, 65535]],
            [Scalar::Int32, [-65535, 0, 13107, 26214, 39321, 65535]], [Scalar::UInt32, [0, 65537, 131074, 196611, 262148, 4294967295]],
            [Scalar::Int64, [-131070, 0, 2, 4, 131070, 10]], [Scalar::UInt64, [0, 3, 6, 9, 12, 196605]],
            [Scalar::Float32, [-1.5, 0.0, 0.25, 1.0, 2.5, 6.5]], [Scalar::Float64, [-1e-3, 0.0, 1e-4, 2e-4, 3e-4, 1e-3]],
        ];
        foreach ($values as [$scalar, $list]) {
            yield "{$scalar->name}, little end first" => [$scalar, true, $list];
            yield "{$scalar->name}, big end first" => [$scalar, false, $list];
        }
    }

    /** @param  list<int|float>  $values */
    #[DataProvider('types')]
    public function test_every_type_of_voxels_in_either_order_of_bytes_is_read_as_it_was_written(Scalar $scalar, bool $little, array $values): void
    {
        $file = Scans::nifti("{$this->folder}/a.nii", [3, 1, 2], $values, $scalar, $little);
        $read = iterator_to_array(Nifti::open($file, new VolumeLimits)->slices());
        self::assertEquals(array_chunk($values, 3), $read);
        $planes = Scans::planes($file, "{$this->folder}/made");
        $step = (max($values) - min($values)) / 65535;
        foreach ($values as $i => $value) {
            // types of 16 bits are kept as they are, of larger ones the range is cut into 65,535 steps
            self::assertEqualsWithDelta($value, Scans::measured($planes, 'xy', intdiv($i, 3), 3)[0][$i % 3], $scalar->offset() === null ? 0.51 * $step + 1e-4 : 0.0);
        }
    }

    public function test_what_is_measured_is_scaled(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii.gz", [2, 2, 1], [0, 10, 20, 1000], slope: 0.5, intercept: -100.0), "{$this->folder}/made");
        self::assertSame([[-100.0, -95.0], [-90.0, 400.0]], Scans::measured($planes, 'xy', 0, 2));
    }

    public function test_the_three_directions_show_the_same_voxels(): void
    {
        // value = x + 10 y + 100 z
        $values = [];
        for ($z = 0; $z < 4; $z++) {
            for ($y = 0; $y < 3; $y++) {
                for ($x = 0; $x < 5; $x++) {
                    $values[] = $x + 10 * $y + 100 * $z;
                }
            }
        }
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [5, 3, 4], $values), "{$this->folder}/made");
        self::assertEquals([[200, 201, 202, 203, 204], [210, 211, 212, 213, 214], [220, 221, 222, 223, 224]], Scans::measured($planes, 'xy', 2, 5));
        self::assertEquals([[10, 11, 12, 13, 14], [110, 111, 112, 113, 114], [210, 211, 212, 213, 214], [310, 311, 312, 313, 314]], Scans::measured($planes, 'xz', 1, 5));
        self::assertEquals([[4, 14, 24], [104, 114, 124], [204, 214, 224], [304, 314, 324]], Scans::measured($planes, 'yz', 4, 3));
    }

    /** @return iterable<string, array{list<float>, list<string>, list<int>}> affine, letters, and the voxel of the file at the top left of the first slice */
    public static function lies(): iterable
    {
        yield 'RAS: to the right, to the front, up' => [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], ['L', 'P', 'S'], [4, 2, 0]];
        yield 'LPS: as pictures are shown' => [[-1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1, 0], ['L', 'P', 'S'], [0, 0, 0]];
        yield 'slices from above' => [[-1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0], ['L', 'P', 'S'], [0, 0, 3]];
        yield 'first two axes exchanged' => [[0, -1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0], ['L', 'P', 'S'], [0, 0, 0]];
        yield 'slices from front to back' => [[-1, 0, 0, 0, 0, 0, -1, 0, 0, -1, 0, 0], ['L', 'I', 'P'], [0, 0, 0]];
        yield 'slices from side to side' => [[0, 0, -2, 0, -1, 0, 0, 0, 0, -1, 0, 0], ['P', 'I', 'L'], [0, 0, 0]];
        yield 'aslant' => [[0.9, 0.1, 0.2, 7, -0.1, 0.8, 0.3, 8, -0.2, -0.3, 0.9, 9], ['L', 'P', 'S'], [4, 2, 0]];
    }

    /**
     * @param  list<float>  $affine
     * @param  list<string>  $letters
     * @param  list<int>  $corner
     */
    #[DataProvider('lies')]
    public function test_a_scan_lies_on_the_sheet_as_its_axes_say(array $affine, array $letters, array $corner): void
    {
        $grid = Grid::of([5, 3, 4], array_map(floatval(...), $affine), true);
        $laid = Laid::of($grid);
        self::assertSame($letters, $laid->letters);
        self::assertSame($corner, $laid->voxel(0, 0, 0));
        // one step along each axis of the sheet goes where its letter says
        $toward = ['R' => [0, 1], 'L' => [0, -1], 'A' => [1, 1], 'P' => [1, -1], 'S' => [2, 1], 'I' => [2, -1]];
        $world = static function (array $voxel) use ($affine): array {
            return array_map(static fn (int $row): float => $affine[4 * $row] * $voxel[0] + $affine[4 * $row + 1] * $voxel[1] + $affine[4 * $row + 2] * $voxel[2], [0, 1, 2]);
        };
        foreach ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as $on => $step) {
            [$axis, $sign] = $toward[$letters[$on]];
            self::assertGreaterThan(0, $sign * ($world($laid->voxel(...$step))[$axis] - $world($laid->voxel(0, 0, 0))[$axis]));
        }
        // there and back
        $slice = range(0, 14);
        self::assertSame($slice, $laid->filed($laid->shown($slice)));
        foreach ($laid->shown($slice) as $at => $value) {
            [$i, $j] = $laid->voxel($at % $laid->sizes[0], intdiv($at, $laid->sizes[0]), 0);
            self::assertSame($i + 5 * $j, $value);
        }
    }

    public function test_the_planes_follow_how_it_lies(): void
    {
        $values = range(0, 59);
        $affine = [0.0, 0.0, -2.0, 0.0, -1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0];
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [5, 3, 4], $values, sform: $affine), "{$this->folder}/made");
        $laid = Laid::of(Grid::of([5, 3, 4], $affine, true));
        [$width, $height, $depth] = $laid->sizes;
        for ($z = 0; $z < $depth; $z++) {
            for ($y = 0; $y < $height; $y++) {
                for ($x = 0; $x < $width; $x++) {
                    [$i, $j, $k] = $laid->voxel($x, $y, $z);
                    $value = (float) ($i + 5 * $j + 15 * $k);
                    self::assertSame($value, Scans::measured($planes, 'xy', $z, $width)[$y][$x]);
                    self::assertSame($value, Scans::measured($planes, 'xz', $y, $width)[$z][$x]);
                    self::assertSame($value, Scans::measured($planes, 'yz', $x, $height)[$z][$y]);
                }
            }
        }
    }

    public function test_where_it_lies_is_taken_from_sform_over_qform_over_its_spacing(): void
    {
        $f = static fn (float ...$numbers): string => pack('g*', ...$numbers);
        // a quarter turn about z: quaternion (cos 45°, 0, 0, sin 45°), so that i goes to the front and j to the left
        $turned = [252 => pack('v', 1), 76 => $f(1, 2, 3, 4), 256 => $f(0, 0, sqrt(0.5), 10, 20, 30)];
        $open = fn (array $sform, array $patch): Grid => Nifti::open(Scans::nifti("{$this->folder}/q.nii", [2, 2, 2], range(1, 8), sform: $sform, patch: $patch), new VolumeLimits)->grid();
        $grid = $open([], $turned);
        foreach ([0, -3, 0, 10, 2, 0, 0, 20, 0, 0, 4, 30] as $n => $number) {
            self::assertEqualsWithDelta($number, $grid->affine[$n], 1e-6);
        }
        self::assertEqualsWithDelta(24.0, $grid->voxel(), 1e-5);
        // pixdim[0] = -1 turns the third axis over
        self::assertEqualsWithDelta(-4.0, $open([], [76 => $f(-1, 2, 3, 4)] + $turned)->affine[10], 1e-6);
        self::assertEqualsWithDelta(5.0, $open([5.0, 0.0, 0.0, 0.0, 0.0, 5.0, 0.0, 0.0, 0.0, 0.0, 5.0, 0.0], $turned)->affine[0], 1e-6);
        $plain = $open([], [76 => $f(1, 2, 3, 4)]);
        self::assertFalse($plain->isOriented);
        self::assertEqualsWithDelta([2.0, 3.0, 4.0], $plain->spacing(), 1e-6);
        // micrometres
        self::assertEqualsWithDelta([0.002, 0.003, 0.004], $open([], [76 => $f(1, 2, 3, 4), 123 => "\3"])->spacing(), 1e-9);
    }

    /** @return iterable<string, array{array<int, string>, string}> */
    public static function broken(): iterable
    {
        yield 'a billion voxels' => [[40 => pack('v4', 3, 2000, 2000, 2000)], '2000 × 2000 × 2000 voxels; at most'];
        yield 'an axis without any' => [[40 => pack('v4', 3, 2, 0, 2)], 'an axis without any'];
        yield 'four dimensions' => [[40 => pack('v5', 4, 2, 2, 1, 2)], 'holds 2 volumes'];
        yield 'colours' => [[70 => pack('v', 128)], 'its voxels are RGB'];
        yield 'an unknown type' => [[70 => pack('v', 77)], 'of a type nobody knows (77)'];
        yield 'voxels inside the header' => [[108 => pack('g', 12)], 'begin at byte 12'];
        yield 'a singular affine' => [[254 => pack('v', 1), 280 => pack('g12', 1, 0, 0, 0, 2, 0, 0, 0, 0, 0, 1, 0)], 'singular'];
        yield 'an affine that is no number' => [[254 => pack('v', 1), 280 => pack('g12', NAN, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)], 'finite numbers'];
        yield 'no spacing' => [[76 => pack('g4', 1, 1, 0, 1)], 'singular'];
        yield 'a pair of files' => [[344 => "ni1\0"], 'in another file'];
        yield 'no magic' => [[344 => 'xxxx'], 'no NIfTI file'];
    }

    /** @param  array<int, string>  $patch */
    #[DataProvider('broken')]
    public function test_a_header_that_lies_is_refused_by_reason(array $patch, string $why): void
    {
        $this->expectException(RefusedVolume::class);
        $this->expectExceptionMessage($why);
        Nifti::open(Scans::nifti("{$this->folder}/a.nii", [2, 2, 2], range(1, 8), patch: $patch), new VolumeLimits);
    }

    public function test_one_that_is_cut_off_is_refused_and_says_where(): void
    {
        foreach (['nii', 'nii.gz'] as $ending) {
            $file = Scans::nifti("{$this->folder}/a.{$ending}", [20, 20, 9], array_map(static fn (int $n): int => $n * 7919 % 3001, range(1, 3600)));
            file_put_contents($file, substr((string) file_get_contents($file), 0, (int) (filesize($file) * 0.6)));
            try {
                Scans::planes($file, "{$this->folder}/made-{$ending}");
                self::fail('half a file was taken');
            } catch (RefusedVolume $e) {
                self::assertMatchesRegularExpression('/slice \d of 9 is missing/', $e->getMessage());
            }
        }
    }

    public function test_voxels_that_are_no_numbers_are_the_darkest_and_a_scan_of_nothing_else_is_refused(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [2, 2, 1], [NAN, 1.0, INF, 2.0], Scalar::Float32), "{$this->folder}/made");
        self::assertSame([[1.0, 1.0], [1.0, 2.0]], Scans::measured($planes, 'xy', 0, 2));
        $this->expectException(RefusedVolume::class);
        $this->expectExceptionMessage('none of its voxels is a number');
        Scans::planes(Scans::nifti("{$this->folder}/b.nii", [1, 1, 2], [NAN, -INF], Scalar::Float32), "{$this->folder}/none");
    }

    public function test_a_slice_is_a_picture_in_the_window_one_opens_it_with(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [3, 2, 1], [0, 100, 200, 300, 400, 500]), "{$this->folder}/made");
        $picture = imagecreatefromstring($planes->bitmap(0, \Skeno\Core\Volume\Window::between('all', 0, 500)));
        self::assertNotFalse($picture);
        self::assertSame([3, 2], [imagesx($picture), imagesy($picture)]);
        $greys = [];
        foreach ([[0, 0], [1, 0], [2, 0], [0, 1], [1, 1], [2, 1]] as [$x, $y]) {
            $greys[] = imagecolorsforindex($picture, (int) imagecolorat($picture, $x, $y))['red'];
        }
        self::assertSame([0, 51, 102, 153, 204, 255], $greys);
    }

    public function test_a_plane_that_stands_on_the_slices_lies_as_on_the_bench(): void
    {
        // 3 × 2 voxels on 4 slices, each three times as high as it is wide; the slices go up
        $values = range(0, 230, 10);
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [3, 2, 4], $values, sform: [-1.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, 0.0, 3.0, 0.0]), "{$this->folder}/made");
        self::assertSame('S', $planes->letters[2] ?? null);
        $window = $planes->window();
        foreach (['xz' => [1, 3], 'yz' => [2, 2]] as $direction => [$at, $wide]) {
            $plane = Standing::named("{$direction}-{$at}", $planes);
            self::assertSame([$wide, 12], [$plane->width, $plane->height]);
            $picture = imagecreatefromstring($plane->bitmap($planes));
            self::assertNotFalse($picture);
            self::assertSame([$wide, 12], [imagesx($picture), imagesy($picture)]);
            $rows = Scans::measured($planes, $direction, $at, $wide);
            for ($row = 0; $row < 12; $row++) {
                for ($column = 0; $column < $wide; $column++) {
                    $grey = $window->grey($rows[3 - intdiv($row, 3)][$column]);
                    self::assertSame($grey, imagecolorsforindex($picture, (int) imagecolorat($picture, $column, $row))['red'], "{$direction} {$column} {$row}");
                }
            }
        }
        foreach (['xy-1', 'xz-2', 'yz-3', 'xz--1', 'xz-1x', ''] as $wrong) {
            try {
                Standing::named($wrong, $planes);
                self::fail("{$wrong} was taken");
            } catch (InvalidValue $e) {
                self::assertStringContainsString('plane', $e->getMessage());
            }
        }
    }

    public function test_a_plane_too_large_to_be_a_picture_is_refused(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [3, 2, 4], range(0, 23), sform: [1e-4, 0.0, 0.0, 0.0, 0.0, 1e-4, 0.0, 0.0, 0.0, 0.0, 300.0, 0.0]), "{$this->folder}/made");
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage('20,000,000 pixels');
        Standing::named('xz-0', $planes);
    }

    public function test_a_region_grows_to_what_hangs_together_as_a_search_through_all_voxels_does(): void
    {
        mt_srand(7);
        [$width, $height, $depth] = [13, 11, 9];
        $values = [];
        for ($n = 0; $n < $width * $height * $depth; $n++) {
            $values[] = mt_rand(0, 99);
        }
        $file = Scans::nifti("{$this->folder}/a.nii", [$width, $height, $depth], $values, patch: [76 => pack('g4', 1, 1.0, 1.5, 2.0)]);
        $planes = Scans::planes($file, "{$this->folder}/made");
        foreach ([[30, 8.0], [55, 100.0], [80, 5.2], [99, 4.0]] as [$high, $distance]) {
            $seed = null;
            foreach ($values as $at => $value) {
                $seed ??= $value <= $high && $at > 400 ? [$at % $width, intdiv($at, $width) % $height, intdiv($at, $width * $height)] : null;
            }
            self::assertNotNull($seed);
            $wanted = self::search($values, [$width, $height, $depth], [1.0, 1.5, 2.0], $seed, $high, $distance);
            $grown = Growing::from($planes, $seed, 0, $high, $distance);
            $found = [];
            foreach ($grown->slices as $z => $mask) {
                foreach ($mask->columns() as $x => $runs) {
                    for ($i = 0; $i < count($runs); $i += 2) {
                        for ($y = $runs[$i]; $y < $runs[$i + 1]; $y++) {
                            $found["{$x} {$y} {$z}"] = true;
                        }
                    }
                }
            }
            ksort($found);
            ksort($wanted);
            self::assertSame($wanted, $found);
            self::assertSame(count($wanted), $grown->voxels);
            self::assertFalse($grown->isCut);
        }
    }

    /**
     * @param  list<int>  $values
     * @param  array{int, int, int}  $sizes
     * @param  array{float, float, float}  $spacing
     * @param  array{int, int, int}  $seed
     * @return array<string, true>
     */
    private static function search(array $values, array $sizes, array $spacing, array $seed, int $high, float $distance): array
    {
        $found = [implode(' ', $seed) => true];
        $queue = [$seed];
        while ($queue !== []) {
            [$x, $y, $z] = array_pop($queue);
            foreach ([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]] as [$dx, $dy, $dz]) {
                $next = [$x + $dx, $y + $dy, $z + $dz];
                $mm = sqrt((($next[0] - $seed[0]) * $spacing[0]) ** 2 + (($next[1] - $seed[1]) * $spacing[1]) ** 2 + (($next[2] - $seed[2]) * $spacing[2]) ** 2);
                if (min($next) < 0 || $next[0] >= $sizes[0] || $next[1] >= $sizes[1] || $next[2] >= $sizes[2] || $mm > $distance || isset($found[implode(' ', $next)]) || $values[$next[0] + $sizes[0] * ($next[1] + $sizes[1] * $next[2])] > $high) {
                    continue;
                }
                $found[implode(' ', $next)] = true;
                $queue[] = $next;
            }
        }

        return $found;
    }

    public function test_growing_ends_at_a_number_of_voxels_as_a_ball_and_says_so(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [30, 30, 30], array_fill(0, 27000, 5)), "{$this->folder}/made");
        $grown = Growing::from($planes, [15, 15, 15], 0, 10, 100, 3000);
        self::assertTrue($grown->isCut);
        self::assertGreaterThanOrEqual(3000, $grown->voxels);
        self::assertLessThan(3000 + 4 * 30, $grown->voxels);
        $slices = array_keys($grown->slices);
        self::assertGreaterThan(8, count($slices));
        self::assertEqualsWithDelta(15, array_sum($slices) / count($slices), 2.0);
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage('outside of the limits');
        Growing::from($planes, [15, 15, 15], 6, 10, 100);
    }

    /** @return iterable<string, array{list<float>, bool}> */
    public static function affines(): iterable
    {
        yield 'to the right, to the front, up' => [[0.7, 0, 0, -10, 0, 0.7, 0, 5, 0, 0, 3, 1], true];
        yield 'aslant, from above, big end first' => [[0, 0.11, -2.9, 17, 0.7000001, 0, 0.1, -3, 0.01, -0.69, -0.3, 99], false];
        yield 'nobody knows' => [[], true];
    }

    /** @param  list<float>  $affine */
    #[DataProvider('affines')]
    public function test_a_label_map_lies_where_its_scan_does_to_the_last_bit_and_another_reader_reads_the_same(array $affine, bool $little): void
    {
        $file = Scans::nifti("{$this->folder}/scan.nii", [6, 5, 4], range(0, 119), Scalar::Float32, $little, array_map(floatval(...), $affine), [148 => 'DOE JOHN 1970', 228 => 'c:/doe/scan']);
        $nifti = Nifti::open($file, new VolumeLimits);
        $scan = Scan::of($nifti->grid(), $nifti->header);
        $scan = Scan::fromArray(json_decode((string) json_encode($scan->toArray()), true));
        $laid = $scan->laid;
        [$width, $height, $depth] = $laid->sizes;
        // two masks on the sheet that lie over each other at one pixel
        $one = Mask::ofColumns($width, $height, [0 => [0, 2], 1 => [0, 1]]);
        $two = Mask::ofColumns($width, $height, [1 => [0, 3]]);
        $slices = [1 => [[1, $one], [300, $two]], 3 => [[2, $two]]];
        $map = "{$this->folder}/labels.nii.gz";
        self::assertSame(1, LabelMap::write($map, $scan, $slices, 300));

        // our own reader
        $back = Nifti::open($map, new VolumeLimits);
        self::assertSame($nifti->grid()->affine, $back->grid()->affine);
        self::assertSame(Scalar::UInt16, $back->scalar());
        $expected = array_fill(0, 120, 0);
        foreach ($slices as $z => $masks) {
            foreach ($masks as [$number, $mask]) {
                foreach ($mask->columns() as $x => $runs) {
                    for ($y = $runs[0]; $y < $runs[1]; $y++) {
                        [$i, $j, $k] = $laid->voxel($x, $y, $z);
                        $expected[$i + 6 * $j + 30 * $k] = $number;
                    }
                }
            }
        }
        self::assertSame($expected, array_merge(...iterator_to_array($back->slices())));
        // bytes of the header that say where it lies
        $bytes = (string) gzdecode((string) file_get_contents($map));
        self::assertSame(substr($nifti->header, 252, 76), substr($bytes, 252, 76));
        self::assertStringNotContainsString('DOE', $bytes);
        self::assertStringNotContainsString('doe', $bytes);

        // another program's
        $code = 'import json,sys,nibabel; a=nibabel.load(sys.argv[1]); b=nibabel.load(sys.argv[2]); '
            .'print(json.dumps([bool((a.affine==b.affine).all()), b.get_fdata().flatten(order="F").astype(int).tolist(), str(b.header.get_intent()[0])]))';
        exec('/usr/bin/python3 -c '.escapeshellarg($code).' '.escapeshellarg($file).' '.escapeshellarg($map).' 2>&1', $out, $ended);
        self::assertSame(0, $ended, implode("\n", $out));
        self::assertSame([true, $expected, 'label'], json_decode(implode('', $out), true));
    }

    public function test_of_a_scan_that_was_no_nifti_the_label_map_is_a_second_version_that_others_read(): void
    {
        $scan = Scan::of(Grid::of([3, 2, 2], [-0.1, 0.0, 0.0, 1 / 3, 0.0, -0.1, 0.0, 2.0, 0.0, 0.0, 0.25, 3.0], true));
        $map = "{$this->folder}/labels.nii.gz";
        LabelMap::write($map, $scan, [0 => [[7, Mask::ofColumns(3, 2, [2 => [1, 2]])]]], 7);
        exec('/usr/bin/python3 -c '.escapeshellarg('import json,sys,nibabel; b=nibabel.load(sys.argv[1]); print(json.dumps([b.affine[:3].flatten().tolist(), b.get_fdata().flatten(order="F").astype(int).tolist(), list(map(float, b.header.get_zooms()))]))').' '.escapeshellarg($map).' 2>&1', $out, $ended);
        self::assertSame(0, $ended, implode("\n", $out));
        self::assertEquals([$scan->grid->affine, [0, 0, 0, 0, 0, 7, 0, 0, 0, 0, 0, 0], [0.1, 0.1, 0.25]], json_decode(implode('', $out), true));
        self::assertEquals($scan->grid->affine, Nifti::open($map, new VolumeLimits)->grid()->affine);
    }

    public function test_what_is_not_whole_among_what_was_made_is_an_error_with_its_name(): void
    {
        $planes = Scans::planes(Scans::nifti("{$this->folder}/a.nii", [2, 2, 2], range(1, 8)), "{$this->folder}/made");
        self::assertSame(8, strlen($planes->plane('xy', 1)));
        try {
            $planes->plane('xy', 2);
            self::fail('there is no third slice');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('from 0 to 1', $e->getMessage());
        }
        file_put_contents("{$this->folder}/made/index.json", '{}');
        $this->expectExceptionMessage('what was made of this volume is broken');
        Planes::open("{$this->folder}/made");
    }
}
