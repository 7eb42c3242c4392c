<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;

/**
 * A shape as a file says it, turned into one its class is drawn as, where that is honest: an outline into a mask, a mask into its exact
 * outline, four corners into a turned box, and, where the class knows nothing but boxes, any region into its box.
 */
final class Fit
{
    /**
     * @param  int  $width  of the picture
     * @param  int  $height  of the picture
     * @return array{Geometry, ?string} the shape, and what was done to it, when anything was
     */
    public static function into(LabelClass $class, Geometry $geometry, int $width, int $height): array
    {
        if ($class->allows(Shape::of($geometry)) || ! ($geometry instanceof Region || $geometry instanceof Mask)) {
            return [$geometry, null];
        }
        if ($geometry instanceof Polygon && $class->allows(Shape::TurnedBox) && count($geometry->rings()) === 1 && count($geometry->rings()[0]) === 8) {
            return [TurnedBox::fromCorners($geometry->rings()[0]), null];
        }
        if ($geometry instanceof Box && $class->allows(Shape::TurnedBox)) {
            return [TurnedBox::of($geometry->x + $geometry->width / 2, $geometry->y + $geometry->height / 2, $geometry->width, $geometry->height, 0.0), 'boxes came in as turned boxes, as their class asks'];
        }
        if ($geometry instanceof Box) {
            // a box says less than an outline; the check names it rather than that an outline is made up
            return [$geometry, null];
        }
        // a turned box of a class of upright boxes was one before a format without them wrote it
        if ($geometry instanceof TurnedBox && $class->allows(Shape::Box)) {
            return [$geometry->bounds(), null];
        }
        if ($geometry instanceof Region && ! $geometry instanceof Polygon && $class->allows(Shape::Polygon)) {
            return [Polygon::of($geometry->rings()), 'outlines came in as polygons, as their class asks'];
        }
        if ($geometry instanceof Region && $class->allows(Shape::Mask)) {
            return [ScanConversion::mask($geometry->rings(), $width, $height), 'outlines came in as masks, as their class asks'];
        }
        if ($geometry instanceof Mask && $class->allows(Shape::Polygon)) {
            try {
                return [Polygon::of(Contours::rings($geometry), 'outline'), 'masks came in as their exact outlines, as their class asks'];
            } catch (InvalidValue) {
                // no pixel, or more corners than an outline may have: it stays what it is, and the check names it
                return [$geometry, null];
            }
        }
        if ($class->allows(Shape::Box)) {
            return [$geometry->bounds(), 'outlines were left out; their class has only boxes'];
        }

        return [$geometry, null];
    }
}
