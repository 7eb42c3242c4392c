<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Volume;

use Skeno\Core\Volume\Making;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Planes;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\VolumeLimits;

/** Small scans as files, written field by field as the standard has them, beside the code that reads them. */
final class Scans
{
    /**
     * A NIfTI-1 file.
     *
     * @param  array{int, int, int}  $sizes
     * @param  list<int|float>  $values  first axis fastest
     * @param  list<float>  $sform  12 numbers; none: it says nothing of how it lies
     * @param  array<int, string>  $patch  bytes put over those of the header, by where they begin
     */
    public static function nifti(string $file, array $sizes, array $values, Scalar $scalar = Scalar::Int16, bool $little = true, array $sform = [], array $patch = [], float $slope = 0.0, float $intercept = 0.0): string
    {
        [$s, $l, $f] = $little ? ['v', 'V', 'g'] : ['n', 'N', 'G'];
        $header = pack($l, 348).str_repeat("\0", 344);
        $put = static function (int $at, string $bytes) use (&$header): void {
            $header = substr_replace($header, $bytes, $at, strlen($bytes));
        };
        $put(40, pack($s.'8', 3, ...[...$sizes, 1, 1, 1, 1]));
        $put(70, pack($s.'2', $scalar->value, 8 * $scalar->bytes()));
        $put(76, pack($f.'8', 1, 1, 1, 1, 0, 0, 0, 0));
        $put(108, pack($f.'3', 352, $slope, $intercept));
        $put(123, "\2");
        if ($sform !== []) {
            $put(254, pack($s, 1));
            $put(280, pack($f.'12', ...$sform));
        }
        $put(344, "n+1\0");
        foreach ($patch as $at => $bytes) {
            $put($at, $bytes);
        }
        $code = match ($scalar) {
            Scalar::UInt8, Scalar::Int8 => 'C',
            Scalar::Int16, Scalar::UInt16 => $s,
            Scalar::Int32, Scalar::UInt32 => $l,
            Scalar::Int64, Scalar::UInt64 => $little ? 'P' : 'J',
            Scalar::Float32 => $f,
            Scalar::Float64 => $little ? 'e' : 'E',
        };
        $bytes = $header."\0\0\0\0".implode('', array_map(static fn (int|float $value): string => pack($code, is_int($value) && $scalar->bytes() === 1 ? $value & 255 : $value), $values));
        file_put_contents($file, str_ends_with($file, '.gz') ? (string) gzencode($bytes) : $bytes);

        return $file;
    }

    public static function planes(string $file, string $folder): Planes
    {
        @mkdir($folder);
        (new Making)->make(Nifti::open($file, new VolumeLimits), $folder);

        return Planes::open($folder);
    }

    /** @return list<list<float>> what is measured in a plane, by row */
    public static function measured(Planes $planes, string $direction, int $n, int $width): array
    {
        /** @var array<int, int> $kept */
        $kept = unpack('v*', $planes->plane($direction, $n));

        return array_chunk(array_map(static fn (int $value): float => round($planes->stored->measured($value), 4), array_values($kept)), max(1, $width));
    }
}
