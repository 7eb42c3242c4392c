<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/** The header of a NIfTI file as it is written, field by field. */
final class NiftiHeader
{
    /** A header of version 2, whose numbers are as exact as ours, that says where a scan lies. */
    public static function blank(Grid $grid): string
    {
        $header = pack('V', 540)."n+2\0\r\n\x1a\n".str_repeat("\0", 528);
        // mm
        self::put($header, 'xyzt_units', 2);
        foreach ([1.0, ...$grid->spacing(), 1.0, 1.0, 1.0, 1.0] as $n => $spacing) {
            self::put($header, 'pixdim', $spacing, $n);
        }
        if ($grid->isOriented) {
            // 1: the axes of the scanner
            self::put($header, 'sform_code', 1);
            foreach ($grid->affine as $n => $number) {
                self::put($header, ['srow_x', 'srow_y', 'srow_z'][intdiv($n, 4)] ?? 'srow_z', $number, $n % 4);
            }
        }

        return $header;
    }

    /**
     * Says how many voxels of what kind follow it, without an extension between.
     *
     * @param  array{int, int, int}  $sizes
     */
    public static function shape(string &$header, array $sizes, Scalar $scalar): void
    {
        foreach ([3, ...$sizes, 1, 1, 1, 1] as $n => $size) {
            self::put($header, 'dim', $size, $n);
        }
        self::put($header, 'datatype', $scalar->value);
        self::put($header, 'bitpix', 8 * $scalar->bytes());
        self::put($header, 'vox_offset', strlen($header) + 4);
        self::put($header, 'scl_slope', 1);
        self::put($header, 'scl_inter', 0);
    }

    public static function put(string &$header, string $field, int|float $value, int $n = 0): void
    {
        [$version, $little] = Nifti::version($header) ?? [1, true];
        [$at, $kind] = Nifti::layout($version)[$field];
        $bytes = match ($kind) {
            'c' => chr((int) $value),
            's' => pack($little ? 'v' : 'n', (int) $value),
            'l' => pack($little ? 'V' : 'N', (int) $value),
            'q' => pack($little ? 'P' : 'J', (int) $value),
            'f' => pack($little ? 'g' : 'G', $value),
            default => pack($little ? 'e' : 'E', $value),
        };
        $header = substr_replace($header, $bytes, $at + $n * strlen($bytes), strlen($bytes));
    }
}
