<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Raster\Mask;

/** What lies between two shapes, for every kind of them. */
final class InBetweens
{
    public static function of(Geometry $a, Geometry $b): InBetween
    {
        return match (true) {
            $a instanceof Box && $b instanceof Box => BetweenNumbers::boxes($a, $b),
            $a instanceof TurnedBox && $b instanceof TurnedBox => BetweenNumbers::turnedBoxes($a, $b),
            $a instanceof Ellipse && $b instanceof Ellipse => BetweenNumbers::ellipses($a, $b),
            $a instanceof Faces && $b instanceof Faces => BetweenNumbers::faces($a, $b),
            $a instanceof Cuboid && $b instanceof Cuboid => BetweenNumbers::cuboids($a, $b),
            $a instanceof PointSet && $b instanceof PointSet => BetweenPoints::pointSets($a, $b),
            $a instanceof Pose && $b instanceof Pose => BetweenPoints::poses($a, $b),
            $a instanceof Polyline && $b instanceof Polyline => BetweenOutlines::lines($a, $b),
            $a instanceof Polygon && $b instanceof Polygon => BetweenOutlines::polygons($a, $b),
            $a instanceof Mask && $b instanceof Mask && ! $a->isEmpty() && ! $b->isEmpty() => BetweenMasks::of($a, $b),
            // a span of a text, a mask without a pixel, two kinds
            default => new Still($a),
        };
    }
}
