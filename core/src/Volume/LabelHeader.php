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
        $header = $scan->header === '' ? NiftiHeader::blank($scan->grid) : $scan->header;
        [$version, $little] = Nifti::version($header) ?? [1, true];
        foreach (self::TEXTS[$version] ?? [] as [$at, $length]) {
            $header = substr_replace($header, str_repeat("\0", $length), $at, $length);
        }
        NiftiHeader::shape($header, $scan->grid->sizes, $scalar);
        NiftiHeader::put($header, 'intent_code', self::LABEL);
        NiftiHeader::put($header, 'cal_max', 0);
        NiftiHeader::put($header, 'cal_min', 0);
        $words = 'labels, by Skeno';

        return substr_replace($header, $words, $version === 1 ? 148 : 240, strlen($words))."\0\0\0\0";
    }

    /** Whether numbers of more than a byte go with the little end first. */
    public static function isLittle(Scan $scan): bool
    {
        return $scan->header === '' || (Nifti::version($scan->header)[1] ?? true);
    }
}
