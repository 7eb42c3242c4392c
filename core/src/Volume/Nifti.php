<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\InvalidValue;

/**
 * A NIfTI file (.nii, .nii.gz): version 1 (348 bytes of header) or 2 (540), either order of bytes, any scalar type of up to 64 bits, scaling,
 * and where it lies: sform over qform over the spacing alone. What other programs write into the text fields and extensions is never read: it
 * often names a patient.
 *
 * Source: the header of NIfTI-1.1 (nifti1.h, 2007) and of NIfTI-2 (nifti2.h, 2011).
 */
final readonly class Nifti implements Source
{
    /** Bytes looked at to tell what a file is. */
    private const HEAD = 540;

    private const UNREADABLE = [0 => 'unknown', 1 => 'binary', 32 => 'complex', 128 => 'RGB', 1536 => '128-bit float', 1792 => 'complex', 2048 => 'complex', 2304 => 'RGBA'];

    /** mm of the units of space it knows: metres, millimetres, micrometres; 0 is not said, and taken as mm. */
    private const UNITS = [0 => 1.0, 1 => 1000.0, 2 => 1.0, 3 => 0.001];

    /** @param  string  $header  of the file as it came, 348 or 540 bytes, for label maps to be written the same way; $isLabels  whether it says that it is one */
    private function __construct(private string $file, private Grid $grid, private Scalar $scalar, private bool $isLittle, private int $offset, private float $slope, private float $intercept, public string $header, public bool $isLabels)
    {
    }

    /** Whether a file is one, also packed. */
    public static function isOne(string $head, string $file): bool
    {
        if (str_starts_with($head, "\x1f\x8b")) {
            $head = self::head($file);
        }

        return self::version($head) !== null || substr($head, 344, 4) === "ni1\0";
    }

    /** @throws RefusedVolume */
    public static function open(string $file, VolumeLimits $limits): self
    {
        $limits->mustWeigh((int) @filesize($file));
        $head = self::head($file);
        if (substr($head, 344, 4) === "ni1\0") {
            throw RefusedVolume::because('it is a header whose voxels lie in another file (.hdr and .img); join them in one .nii');
        }
        [$version, $little] = self::version($head) ?? throw RefusedVolume::because('it is no NIfTI file: its header is missing or cut off');
        $at = self::layout($version);
        $number = static fn (string $what, int $n = 0): int|float => self::number($head, $at[$what][0], $at[$what][1], $n, $little);
        $dimensions = (int) $number('dim');
        $sizes = [(int) $number('dim', 1), $dimensions >= 2 ? (int) $number('dim', 2) : 1, $dimensions >= 3 ? (int) $number('dim', 3) : 1];
        if ($dimensions < 2 || $dimensions > 7) {
            throw RefusedVolume::because("it says it has {$dimensions} dimensions; a volume has three");
        }
        for ($n = 4; $n <= $dimensions; $n++) {
            if ((int) $number('dim', $n) > 1) {
                throw RefusedVolume::because('it holds '.(int) $number('dim', $n).' volumes after each other; bring them in one by one');
            }
        }
        $limits->mustHold($sizes);
        $code = (int) $number('datatype');
        $scalar = Scalar::tryFrom($code) ?? throw RefusedVolume::because('its voxels are '.(self::UNREADABLE[$code] ?? "of a type nobody knows ({$code})").'; numbers of up to 64 bits are read');
        $offset = (int) $number('vox_offset');
        if ($offset < strlen(substr($head, 0, $version === 1 ? 348 : 540)) || $offset > 1 << 30) {
            throw RefusedVolume::because("it says its voxels begin at byte {$offset}, which is inside its header or past any");
        }
        [$slope, $intercept] = [(float) $number('scl_slope'), (float) $number('scl_inter')];
        // a slope of 0 says that nothing is scaled
        [$slope, $intercept] = $slope !== 0.0 && is_finite($slope) && is_finite($intercept) ? [$slope, $intercept] : [1.0, 0.0];

        return new self($file, self::placed($sizes, $number), $scalar, $little, $offset, $slope, $intercept, substr($head, 0, $version === 1 ? 348 : 540), (int) $number('intent_code') === LabelHeader::LABEL);
    }

    public function grid(): Grid
    {
        return $this->grid;
    }

    public function scalar(): Scalar
    {
        return $this->scalar;
    }

    public function scaling(): array
    {
        return [$this->slope, $this->intercept];
    }

    public function windows(): array
    {
        [$version, $little] = self::version($this->header) ?? [1, true];
        $at = self::layout($version);
        [$low, $high] = array_map(fn (string $field): float => (float) self::number($this->header, $at[$field][0], $at[$field][1], 0, $little), ['cal_min', 'cal_max']);

        return is_finite($low) && is_finite($high) && $high > $low ? [Window::between('as scanned', $low, $high)] : [];
    }

    public function slices(): iterable
    {
        $in = @gzopen($this->file, 'rb');
        if ($in === false) {
            throw RefusedVolume::because("the file can't be read");
        }
        try {
            self::bytes($in, $this->offset, 'its header');
            [$width, $height, $depth] = $this->grid->sizes;
            for ($k = 0; $k < $depth; $k++) {
                yield $k => $this->scalar->read(self::bytes($in, $width * $height * $this->scalar->bytes(), 'slice '.($k + 1)." of {$depth}"), $this->isLittle);
            }
        } finally {
            gzclose($in);
        }
    }

    /**
     * @param  resource  $in
     *
     * @throws RefusedVolume
     */
    private static function bytes($in, int $count, string $what): string
    {
        $read = '';
        while (strlen($read) < $count) {
            $more = @gzread($in, min(1 << 20, $count - strlen($read)));
            if ($more === false || $more === '') {
                throw RefusedVolume::because("it is cut off or damaged: {$what} is missing");
            }
            $read .= $more;
        }

        return $read;
    }

    /**
     * @param  array{int, int, int}  $sizes
     * @param  \Closure(string, int=): (int|float)  $number
     *
     * @throws RefusedVolume
     */
    private static function placed(array $sizes, \Closure $number): Grid
    {
        $unit = self::UNITS[(int) $number('xyzt_units') & 7] ?? 1.0;
        $spacing = [];
        for ($n = 1; $n <= 3; $n++) {
            $spacing[] = $unit * abs((float) $number('pixdim', $n));
        }
        try {
            if ((int) $number('sform_code') > 0) {
                $rows = [];
                foreach (['srow_x', 'srow_y', 'srow_z'] as $row) {
                    for ($n = 0; $n < 4; $n++) {
                        $rows[] = $unit * (float) $number($row, $n);
                    }
                }

                return Grid::of($sizes, $rows, true, 'sform');
            }
            if ((int) $number('qform_code') > 0) {
                return Grid::of($sizes, self::turned($spacing, $unit, $number), true, 'qform');
            }

            return Grid::spaced($sizes, [$spacing[0], $spacing[1], $spacing[2]], 'pixdim');
        } catch (InvalidValue $e) {
            throw RefusedVolume::because("where it lies can't be told: {$e->getMessage()}");
        }
    }

    /**
     * The affine of a turn, told by a quaternion whose first part follows from the others; `pixdim[0]` below 0 turns the third axis over.
     *
     * @param  list<float>  $spacing
     * @param  \Closure(string, int=): (int|float)  $number
     * @return list<float>
     */
    private static function turned(array $spacing, float $unit, \Closure $number): array
    {
        [$b, $c, $d] = [(float) $number('quatern_b'), (float) $number('quatern_c'), (float) $number('quatern_d')];
        $a = 1.0 - ($b * $b + $c * $c + $d * $d);
        if ($a < 1e-7) {
            // half a turn, within rounding: the three are made to length 1
            $length = sqrt($b * $b + $c * $c + $d * $d);
            [$a, $b, $c, $d] = [0.0, $b / $length, $c / $length, $d / $length];
        } else {
            $a = sqrt($a);
        }
        [$x, $y, $z] = [$spacing[0], $spacing[1], (float) $number('pixdim') < 0.0 ? -$spacing[2] : $spacing[2]];

        return [
            ($a * $a + $b * $b - $c * $c - $d * $d) * $x, 2 * ($b * $c - $a * $d) * $y, 2 * ($b * $d + $a * $c) * $z, $unit * (float) $number('qoffset_x'),
            2 * ($b * $c + $a * $d) * $x, ($a * $a + $c * $c - $b * $b - $d * $d) * $y, 2 * ($c * $d - $a * $b) * $z, $unit * (float) $number('qoffset_y'),
            2 * ($b * $d - $a * $c) * $x, 2 * ($c * $d + $a * $b) * $y, ($a * $a + $d * $d - $b * $b - $c * $c) * $z, $unit * (float) $number('qoffset_z'),
        ];
    }

    private static function head(string $file): string
    {
        $in = @gzopen($file, 'rb');
        $head = $in === false ? '' : (string) @gzread($in, self::HEAD);
        if ($in !== false) {
            gzclose($in);
        }

        return $head;
    }

    /** @return ?array{int, bool} version 1 or 2, and whether its bytes are little-endian; null: it is none */
    public static function version(string $head): ?array
    {
        return match (true) {
            substr($head, 344, 4) === "n+1\0" && str_starts_with($head, pack('V', 348)) => [1, true],
            substr($head, 344, 4) === "n+1\0" && str_starts_with($head, pack('N', 348)) => [1, false],
            strlen($head) >= 540 && substr($head, 4, 8) === "n+2\0\r\n\x1a\n" && str_starts_with($head, pack('V', 540)) => [2, true],
            strlen($head) >= 540 && substr($head, 4, 8) === "n+2\0\r\n\x1a\n" && str_starts_with($head, pack('N', 540)) => [2, false],
            default => null,
        };
    }

    /** @return array<string, array{int, string}> where a field lies, and what it is: s a whole number of 16 bits, l of 32, q of 64, f and d floating, c a byte */
    public static function layout(int $version): array
    {
        return $version === 1
            ? ['dim' => [40, 's'], 'intent_code' => [68, 's'], 'datatype' => [70, 's'], 'bitpix' => [72, 's'], 'pixdim' => [76, 'f'], 'vox_offset' => [108, 'f'], 'scl_slope' => [112, 'f'], 'scl_inter' => [116, 'f'], 'xyzt_units' => [123, 'c'], 'cal_max' => [124, 'f'], 'cal_min' => [128, 'f'], 'qform_code' => [252, 's'], 'sform_code' => [254, 's'], 'quatern_b' => [256, 'f'], 'quatern_c' => [260, 'f'], 'quatern_d' => [264, 'f'], 'qoffset_x' => [268, 'f'], 'qoffset_y' => [272, 'f'], 'qoffset_z' => [276, 'f'], 'srow_x' => [280, 'f'], 'srow_y' => [296, 'f'], 'srow_z' => [312, 'f']]
            : ['datatype' => [12, 's'], 'bitpix' => [14, 's'], 'dim' => [16, 'q'], 'pixdim' => [104, 'd'], 'vox_offset' => [168, 'q'], 'scl_slope' => [176, 'd'], 'scl_inter' => [184, 'd'], 'cal_max' => [192, 'd'], 'cal_min' => [200, 'd'], 'qform_code' => [344, 'l'], 'sform_code' => [348, 'l'], 'quatern_b' => [352, 'd'], 'quatern_c' => [360, 'd'], 'quatern_d' => [368, 'd'], 'qoffset_x' => [376, 'd'], 'qoffset_y' => [384, 'd'], 'qoffset_z' => [392, 'd'], 'srow_x' => [400, 'd'], 'srow_y' => [432, 'd'], 'srow_z' => [464, 'd'], 'xyzt_units' => [500, 'l'], 'intent_code' => [504, 'l']];
    }

    private static function number(string $head, int $at, string $kind, int $n, bool $little): int|float
    {
        $bytes = ['c' => 1, 's' => 2, 'l' => 4, 'f' => 4, 'q' => 8, 'd' => 8][$kind] ?? 1;
        $scalar = ['c' => Scalar::UInt8, 's' => Scalar::Int16, 'l' => Scalar::Int32, 'f' => Scalar::Float32, 'q' => Scalar::Int64, 'd' => Scalar::Float64][$kind] ?? Scalar::UInt8;

        return $scalar->read(substr($head, $at + $n * $bytes, $bytes), $little)[0] ?? 0;
    }
}
