<?php

declare(strict_types=1);

namespace Skeno\Core\Assist;

use Skeno\Core\Formats\Painting;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\Mend;
use Skeno\Core\Raster\Simplification;

/** One shape made from another, on request of the hand that drew it. */
final class Conversion
{
    /**
     * The outline of a mask. With a tolerance of 0 it is exact: its pixels are the mask's.
     *
     * @param  float  $tolerance  px an outline may leave out, 0 to 20
     *
     * @throws InvalidValue when the mask is empty, or even its outline has too many points
     */
    public static function outline(Mask $mask, float $tolerance): Polygon
    {
        if (! ($tolerance >= 0.0 && $tolerance <= 20.0)) {
            throw InvalidValue::at('n', $tolerance, 'a tolerance of 0 to 20 px');
        }
        if ($mask->isEmpty()) {
            throw InvalidValue::at('geometry', 'a mask without a pixel', 'a mask with at least one');
        }
        $exact = Contours::rings($mask);
        // leaving out points may make edges cross where the mask is thin; a finer tolerance does not
        for ($t = $tolerance; $t > 0.05; $t /= 2) {
            $rings = array_map(static fn (array $ring): array => Simplification::ring($ring, $t), $exact);
            try {
                return Polygon::of($rings);
            } catch (InvalidValue) {
                continue;
            }
        }

        return Polygon::of($exact);
    }

    /** @throws InvalidValue when the geometry covers no area */
    public static function fill(Geometry $geometry, int $width, int $height): Mask
    {
        return Painting::mask($geometry, $width, $height) ?? throw InvalidValue::at('geometry', 'a shape without area', 'a shape that covers one');
    }

    public static function mend(Mask $mask, float $n): Mask
    {
        return Mend::mask($mask, (int) $n);
    }

    /** Pixels that belong to one of two masks only. */
    public static function changed(Mask $before, Mask $after): int
    {
        return (int) ($before->area() + $after->area() - 2 * $before->intersection($after)->area());
    }
}
