<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use RuntimeException;

/** Writes a scan as one NIfTI-2 file, whatever it came as: its voxels, where they lie, and what they measure; nothing else of what it said is kept. */
final class ScanFile
{
    /**
     * @param  string  $file  ending in .nii.gz
     *
     * @throws RefusedVolume when the source turns out to be damaged
     */
    public static function write(string $file, Source $source): void
    {
        $scalar = $source->scalar();
        [$slope, $intercept] = $source->scaling();
        $header = NiftiHeader::blank($source->grid());
        NiftiHeader::shape($header, $source->grid()->sizes, $scalar);
        NiftiHeader::put($header, 'scl_slope', $slope);
        NiftiHeader::put($header, 'scl_inter', $intercept);
        $window = $source->windows()[0] ?? null;
        if ($window !== null) {
            NiftiHeader::put($header, 'cal_min', $window->level - $window->width / 2);
            NiftiHeader::put($header, 'cal_max', $window->level + $window->width / 2);
        }
        $code = match ($scalar) {
            Scalar::UInt8 => 'C*',
            Scalar::Int16, Scalar::UInt16 => 'v*',
            Scalar::Float32 => 'g*',
            default => throw new RuntimeException("scans of {$scalar->name} are not written"),
        };
        $out = @gzopen($file, 'wb4') ?: throw new RuntimeException("\"{$file}\" could not be written");
        try {
            self::put($out, $header."\0\0\0\0");
            foreach ($source->slices() as $values) {
                foreach (array_chunk($values, 8192) as $some) {
                    self::put($out, pack($code, ...$some));
                }
            }
        } finally {
            gzclose($out);
        }
    }

    /** @param  resource  $out */
    private static function put($out, string $bytes): void
    {
        if (@gzwrite($out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('a scan could not be written: is the disk full?');
        }
    }
}
