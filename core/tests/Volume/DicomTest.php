<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Volume;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Volume\DicomSeries;
use Skeno\Core\Volume\DicomSlice;
use Skeno\Core\Volume\Laid;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\PictureStack;
use Skeno\Core\Volume\RefusedVolume;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\ScanFile;
use Skeno\Core\Volume\SliceGroups;
use Skeno\Core\Volume\VolumeLimits;

final class DicomTest extends TestCase
{
    private string $folder = '';

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/skeno-dicom-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    /** @return list<int> of a slice, told by where it lies */
    private static function pixels(int $z): array
    {
        return range(100 * $z, 100 * $z + 11);
    }

    /**
     * @param  list<float>  $depths
     * @param  array<int, array{string, string}>  $more
     * @return list<DicomSlice>
     */
    private function slices(array $depths, array $more = [], bool $explicit = true): array
    {
        return array_map(fn (float $z): DicomSlice => DicomSlice::open(Dicoms::slice("{$this->folder}/".bin2hex(random_bytes(4)), $z, self::pixels((int) $z), $more, [], $explicit)), $depths);
    }

    public function test_a_series_is_sorted_by_where_its_slices_lie_and_measured_as_it_says(): void
    {
        foreach ([true, false] as $explicit) {
            $series = DicomSeries::of($this->slices([6.0, 1.0, 3.5], [], $explicit), new VolumeLimits);
            self::assertSame([100, 300, 600], array_map(static fn (array $slice): int|float => $slice[0], iterator_to_array($series->slices())));
            self::assertSame([[1.0, -1024.0], Scalar::UInt16], [$series->scaling(), $series->scalar()]);
            $grid = $series->grid();
            self::assertSame([4, 3, 3], $grid->sizes);
            // to the left and to the back in DICOM is below 0 in NIfTI; 0.5 mm from column to column, 0.8 from row to row
            self::assertEqualsWithDelta([-0.5, 0, 0, 10, 0, -0.8, 0, 20, 0, 0, 2.5, 1], $grid->affine, 1e-9);
            self::assertSame(['L', 'P', 'S'], Laid::of($grid)->letters);
            self::assertSame([40.0, 400.0], [$series->windows()[0]->level, $series->windows()[0]->width]);
        }
    }

    public function test_what_is_kept_of_it_is_a_scan_without_any_name(): void
    {
        $junk = [
            // private fields, one of them a sequence that does not say how long it is, with a name and pixels of its own inside
            0x0009_0010 => ['LO', 'DOE^JOHN PRIVATE'], 0x0009_1001 => ['UN', str_repeat('DOE', 3000)],
            0x0008_1140 => ['SQ?', Dicoms::sequence(Dicoms::element(0x0010_0010, 'PN', 'DOE^JANE').Dicoms::element(0x0028_0010, 'US', pack('v', 999)))],
        ];
        $series = DicomSeries::of($this->slices([0.0, 2.0], $junk), new VolumeLimits);
        ScanFile::write($file = "{$this->folder}/scan.nii.gz", $series);
        self::assertStringNotContainsString('DOE', (string) gzdecode((string) file_get_contents($file)));
        $scan = Nifti::open($file, new VolumeLimits);
        self::assertSame($series->grid()->affine, $scan->grid()->affine);
        self::assertSame([self::pixels(0), self::pixels(2)], iterator_to_array($scan->slices()));
        self::assertSame([[1.0, -1024.0], 40.0, 400.0], [$scan->scaling(), $scan->windows()[0]->level, $scan->windows()[0]->width]);
        // the same files make the same bytes
        ScanFile::write($again = "{$this->folder}/again.nii.gz", $series);
        self::assertFileEquals($file, $again);
    }

    public function test_pixels_are_read_by_the_bits_that_are_stored(): void
    {
        // 12 bits, signed, with something else above them
        $more = [0x0028_0103 => ['US', pack('v', 1)]];
        $slice = DicomSlice::open(Dicoms::slice("{$this->folder}/a", 0, [0x0001, 0xF801, 0x0FFF, 0x7800, ...array_fill(0, 8, 5)], $more));
        self::assertSame([1, -2047, -1, -2048], array_slice($slice->pixels(), 0, 4));
        $bytes = [0x0028_0100 => ['US', pack('v', 8)], 0x0028_0101 => ['US', pack('v', 8)], 0x0028_0102 => ['US', pack('v', 7)], 0x7FE0_0010 => ['OB', implode('', array_map(chr(...), range(0, 220, 20)))]];
        $slice = DicomSlice::open(Dicoms::slice("{$this->folder}/b", 0, [], $bytes));
        self::assertSame(range(0, 220, 20), $slice->pixels());
    }

    public function test_slices_that_are_scaled_each_their_own_way_are_measured(): void
    {
        $slices = [...$this->slices([0.0]), ...$this->slices([2.0], [0x0028_1053 => ['DS', '0.5']])];
        $series = DicomSeries::of($slices, new VolumeLimits);
        self::assertSame(Scalar::Float32, $series->scalar());
        self::assertEqualsWithDelta([-1024.0, 200 * 0.5 - 1024], array_map(static fn (array $slice): int|float => $slice[0], iterator_to_array($series->slices())), 1e-9);
    }

    public function test_what_is_packed_is_unpacked_by_another_program_first(): void
    {
        $plain = Dicoms::slice("{$this->folder}/plain.dcm", 0, self::pixels(0));
        self::assertFalse(DicomSlice::isPacked($plain));
        exec('gdcmconv --jpegls '.escapeshellarg($plain)." {$this->folder}/packed.dcm 2>&1", $out, $ended);
        self::assertSame(0, $ended, implode("\n", $out));
        self::assertTrue(DicomSlice::isPacked("{$this->folder}/packed.dcm"));
        exec("gdcmconv --raw {$this->folder}/packed.dcm {$this->folder}/unpacked.dcm 2>&1", $out, $ended);
        self::assertSame(0, $ended, implode("\n", $out));
        self::assertSame(self::pixels(0), DicomSlice::open("{$this->folder}/unpacked.dcm")->pixels());
        $this->expectException(RefusedVolume::class);
        $this->expectExceptionMessage('packed in a way');
        DicomSlice::open("{$this->folder}/packed.dcm");
    }

    public function test_mixed_series_are_parted(): void
    {
        $slices = [...$this->slices([0.0, 2.0]), ...$this->slices([0.0, 2.0], [0x0020_000E => ['UI', '1.2.3.6']]), ...$this->slices([0.0], [0x0020_0037 => ['DS', '0\\1\\0\\0\\0\\-1']])];
        shuffle($slices);
        self::assertSame([1, 2, 2], (static function (array $counts): array {
            sort($counts);

            return $counts;
        })(array_map(count(...), DicomSeries::parted($slices))));
    }

    public function test_what_does_not_make_a_volume_is_refused_by_reason(): void
    {
        $refuse = function (callable $try): string {
            try {
                $try();
            } catch (RefusedVolume $e) {
                return $e->getMessage();
            }
            self::fail('it was taken');
        };
        $open = fn (array $more = [], array $without = []): string => $refuse(fn () => DicomSlice::open(Dicoms::slice("{$this->folder}/x", 0, self::pixels(0), $more, $without)));
        self::assertStringContainsString('at one place', $refuse(fn () => DicomSeries::of($this->slices([0.0, 2.0, 2.0]), new VolumeLimits)));
        self::assertStringContainsString('slices 2 and 3 are 4 mm apart, the others 2: some are missing', $refuse(fn () => DicomSeries::of($this->slices([0.0, 2.0, 6.0, 8.0]), new VolumeLimits)));
        self::assertStringContainsString('in colour', $open([0x0028_0004 => ['CS', 'RGB'], 0x0028_0002 => ['US', pack('v', 3)]]));
        self::assertStringContainsString('7 pictures in one file', $open([0x0028_0008 => ['IS', '7']]));
        self::assertStringContainsString('where in space', $open([], [0x0020_0032]));
        self::assertStringContainsString('no number', $open([0x0020_0032 => ['DS', 'a\\b\\c']]));
        self::assertStringContainsString('32 bits', $open([0x0028_0100 => ['US', pack('v', 32)]]));
        self::assertStringContainsString('contradicts itself', $open([0x0028_0101 => ['US', pack('v', 40)]]));
        self::assertStringContainsString('cut off: 4 × 30 pixels', $open([0x0028_0010 => ['US', pack('v', 30)]]));
        self::assertStringContainsString('no picture', $open([], [0x7FE0_0010]));
        $whole = (string) file_get_contents(Dicoms::slice("{$this->folder}/y", 0, self::pixels(0)));
        foreach ([140, 300, strlen($whole) - 30] as $bytes) {
            file_put_contents("{$this->folder}/z", substr($whole, 0, $bytes));
            self::assertMatchesRegularExpression('/cut off|no picture|where in space/', $refuse(fn () => DicomSlice::open("{$this->folder}/z")));
        }
    }

    public function test_names_that_may_be_slices(): void
    {
        self::assertSame(['ct' => ['ct/IM0001', 'ct/b.DCM'], 'mr' => ['mr/1.2.840.5']], SliceGroups::byFolder(['ct/b.DCM', 'ct/IM0001', 'mr/1.2.840.5', 'mr/notes.txt', 'a.png']));
    }

    public function test_pictures_are_slices_in_the_depth_they_have(): void
    {
        $files = [];
        foreach ([0, 1, 2] as $z) {
            $picture = new \Imagick;
            // (a plain grey map, which says its depth)
            $isDeep = $z === 1;
            $picture->readImageBlob("P5\n5 4\n".($isDeep ? 65535 : 255)."\n".pack($isDeep ? 'n*' : 'C*', ...array_map(static fn (int $n): int => ($n + 20 * $z) * ($isDeep ? 257 : 1) + ($isDeep ? 3 : 0), range(0, 19))));
            $picture->writeImage("png:{$this->folder}/{$z}.png");
            $files[] = ["{$this->folder}/{$z}.png", 0];
        }
        $stack = PictureStack::of($files, [0.5, 0.6, 2.0], new VolumeLimits);
        self::assertEqualsWithDelta([0.5, 0.6, 2.0], $stack->grid()->spacing(), 1e-9);
        self::assertFalse($stack->grid()->isOriented);
        $slices = iterator_to_array($stack->slices());
        self::assertSame(Scalar::UInt16, $stack->scalar());
        self::assertSame([0, 20 * 257 + 3, 59 * 257], [$slices[0][0], $slices[1][0], $slices[2][19]]);
        self::assertSame([Scalar::UInt8, 59], [($plain = PictureStack::of([$files[0], $files[2]], [1.0, 1.0, 1.0], new VolumeLimits))->scalar(), iterator_to_array($plain->slices())[1][19]]);
        $this->expectException(RefusedVolume::class);
        $this->expectExceptionMessage('slice 2 is 7 × 4 pixels, the others 5 × 4');
        $odd = new \Imagick;
        $odd->newImage(7, 4, 'black');
        $odd->writeImage("png:{$this->folder}/odd.png");
        PictureStack::of([$files[0], ["{$this->folder}/odd.png", 0]], [1.0, 1.0, 1.0], new VolumeLimits);
    }
}
