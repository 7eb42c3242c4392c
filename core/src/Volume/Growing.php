<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/**
 * Grows a region in three dimensions from a voxel: all that hang together with it by their faces, are measured within limits, and lie within a
 * distance of it. It ends at a number of voxels, so that it never floods a scan.
 */
final class Growing
{
    /** Voxels a region may have. */
    public const MOST = 3_000_000;

    /** Voxels of the box that is looked at. */
    private const ROOM = 24_000_000;

    private const OUT = "\0";

    private const FREE = "\1";

    private const TAKEN = "\2";

    /** @param  array<int, Mask>  $slices  by slice, in order */
    private function __construct(public readonly array $slices, public readonly int $voxels, public readonly bool $isCut)
    {
    }

    /**
     * @param  array{int, int, int}  $seed  x, y, z on the sheet
     * @param  float  $low  least that is measured in it, $high the most
     * @param  float  $distance  mm from the middle of the seed to that of a voxel
     *
     * @throws InvalidValue when the seed lies outside the scan, or is itself not within the limits
     */
    public static function from(Planes $planes, array $seed, float $low, float $high, float $distance, int $most = self::MOST): self
    {
        [$sizes, $spacing] = [$planes->sizes, $planes->spacing];
        foreach ($seed as $axis => $at) {
            if ($at < 0 || $at >= $sizes[$axis]) {
                throw InvalidValue::at("seed[{$axis}]", $at, 'a voxel from 0 to '.($sizes[$axis] - 1));
            }
        }
        if (! ($distance > 0) || ! is_finite($distance)) {
            throw InvalidValue::at('distance', $distance, 'mm, more than 0');
        }
        [$least, $highest] = $planes->stored->between(min($low, $high), max($low, $high));
        $first = $last = [];
        foreach ($seed as $axis => $at) {
            $reach = (int) min($sizes[$axis], floor($distance / $spacing[$axis]));
            $first[] = max(0, $at - $reach);
            $last[] = min($sizes[$axis] - 1, $at + $reach);
        }
        [[$x0, $y0, $z0], [$x1, $y1, $z1]] = [$first, $last];
        [$wide, $long, $deep] = [$x1 - $x0 + 1, $y1 - $y0 + 1, $z1 - $z0 + 1];
        if ($wide * $long * $deep > self::ROOM) {
            throw InvalidValue::at('distance', $distance, 'a distance that looks at no more than '.number_format(self::ROOM / 1e6).' million voxels');
        }
        // what may belong to it, as strings along y, by x then z
        $free = [];
        $height = $sizes[1];
        for ($x = $x0; $x <= $x1; $x++) {
            $plane = $planes->plane('yz', $x);
            $dx = ($x - $seed[0]) * $spacing[0];
            for ($z = $z0; $z <= $z1; $z++) {
                $dz = ($z - $seed[2]) * $spacing[2];
                $left = $distance * $distance - $dx * $dx - $dz * $dz;
                if ($left < 0) {
                    $free[] = '';

                    continue;
                }
                $reach = (int) floor(sqrt($left) / $spacing[1] + 1e-9);
                $a = max($y0, $seed[1] - $reach);
                $b = min($y1, $seed[1] + $reach);
                $line = str_repeat(self::OUT, $a - $y0);
                /** @var array<int, int> $values */
                $values = unpack('v*', substr($plane, 2 * ($z * $height + $a), 2 * ($b - $a + 1)));
                foreach ($values as $value) {
                    $line .= $value >= $least && $value <= $highest ? self::FREE : self::OUT;
                }
                $free[] = $line;
            }
        }
        $start = ($seed[0] - $x0) * $deep + $seed[2] - $z0;
        if (($free[$start][$seed[1] - $y0] ?? self::OUT) !== self::FREE) {
            throw InvalidValue::at('seed', 'a voxel outside of the limits', 'one that is measured within them');
        }
        [, $voxels, $isCut] = Filling::from($free, $wide, $deep, $start, $seed[1] - $y0, self::FREE, self::TAKEN, $most);

        return new self(self::slices($free, [$x0, $y0, $z0], $wide, $deep, $sizes[0], $height), $voxels, $isCut);
    }

    /**
     * @param  array<int, string>  $free
     * @param  array{int, int, int}  $corner
     * @return array<int, Mask>
     */
    private static function slices(array $free, array $corner, int $wide, int $deep, int $width, int $height): array
    {
        $slices = [];
        for ($z = 0; $z < $deep; $z++) {
            $columns = [];
            for ($x = 0; $x < $wide; $x++) {
                $runs = Solid::runs($free[$x * $deep + $z], self::TAKEN);
                if ($runs !== []) {
                    $columns[$x + $corner[0]] = array_map(static fn (int $y): int => $y + $corner[1], $runs);
                }
            }
            if ($columns !== []) {
                $slices[$z + $corner[2]] = Mask::ofColumns($width, $height, $columns);
            }
        }

        return $slices;
    }
}
