<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/**
 * The header of a NIfTI label map of a scan. Of a scan that came as NIfTI it is that header, so that where its voxels lie is the same to the last
 * bit; what kind of numbers they are is said anew, and whatever text it carried is left out, since that may name a patient.
 */
final class LabelHeader
{
    /** NIFTI_INTENT_LABEL: the values are numbers of a table of names. */
    public const LABEL = 1002;

    /** Text fields: where they begin and how long they are, by version. */
    private const TEXTS = [1 => [[4, 10], [14, 18], [148, 80], [228, 24], [328, 16]], 2 => [[240, 80], [320, 24], [508, 16]]];

    /** @return string the header, and the four bytes that say that no extension follows */
    public static function of(Scan $scan, Scalar $scalar): string
    {
        $header = $scan->header === '' ? self::blank($scan->grid) : $scan->header;
        [$version, $little] = Nifti::version($header) ?? [1, true];
        foreach (self::TEXTS[$version] ?? [] as [$at, $length]) {
            $header = substr_replace($header, str_repeat("\0", $length), $at, $length);
        }
        [$x, $y, $z] = $scan->grid->sizes;
        foreach ([3, $x, $y, $z, 1, 1, 1, 1] as $n => $size) {
            self::put($header, 'dim', $size, $n);
        }
        self::put($header, 'datatype', $scalar->value);
        self::put($header, 'bitpix', 8 * $scalar->bytes());
        self::put($header, 'vox_offset', strlen($header) + 4);
        self::put($header, 'intent_code', self::LABEL);
        foreach (['scl_slope' => 1, 'scl_inter' => 0, 'cal_max' => 0, 'cal_min' => 0] as $field => $value) {
            self::put($header, $field, $value);
        }
        $words = 'labels, by Skeno';

        return substr_replace($header, $words, $version === 1 ? 148 : 240, strlen($words))."\0\0\0\0";
    }

    /** Whether numbers of more than a byte go with the little end first. */
    public static function isLittle(Scan $scan): bool
    {
        return $scan->header === '' || (Nifti::version($scan->header)[1] ?? true);
    }

    /** Of a scan that came another way: NIfTI-2, whose numbers are as exact as ours. */
    private static function blank(Grid $grid): string
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

    private static function put(string &$header, string $field, int|float $value, int $n = 0): void
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
