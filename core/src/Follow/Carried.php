<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Closure;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;

/** A shape taken along by the box around it: moved with it, and as much larger or smaller. */
final class Carried
{
    /** @return ?Flat null for a shape that can't be taken along so */
    public static function along(Flat $shape, Box $from, Box $to): ?Flat
    {
        [$kx, $ky] = [$from->width > 0 ? $to->width / $from->width : 1.0, $from->height > 0 ? $to->height / $from->height : 1.0];
        $x = static fn (float $at): float => $to->x + ($at - $from->x) * $kx;
        $y = static fn (float $at): float => $to->y + ($at - $from->y) * $ky;

        return match (true) {
            $shape instanceof Box => Box::of($x($shape->x), $y($shape->y), $shape->width * $kx, $shape->height * $ky),
            $shape instanceof Polygon => Polygon::of(array_map(static fn (array $ring): array => self::ring($ring, $x, $y), $shape->rings())),
            $shape instanceof Polyline => Polyline::of(self::ring($shape->points, $x, $y)),
            $shape instanceof PointSet => PointSet::of(self::ring($shape->points, $x, $y)),
            $shape instanceof Pose => Pose::of(array_map(static fn (array $node): array => ['x' => $x($node['x']), 'y' => $y($node['y']), 'state' => $node['state']], $shape->nodes)),
            // a turned shape keeps its angle, and its proportions
            $shape instanceof Ellipse => Ellipse::of($x($shape->cx), $y($shape->cy), $shape->rx * sqrt($kx * $ky), $shape->ry * sqrt($kx * $ky), $shape->angle),
            $shape instanceof TurnedBox => TurnedBox::of($x($shape->cx), $y($shape->cy), $shape->width * sqrt($kx * $ky), $shape->height * sqrt($kx * $ky), $shape->angle),
            default => null,
        };
    }

    /**
     * @param  list<float>  $points
     * @param  Closure(float): float  $x
     * @param  Closure(float): float  $y
     * @return list<float>
     */
    private static function ring(array $points, Closure $x, Closure $y): array
    {
        foreach ($points as $i => $at) {
            $points[$i] = $i % 2 === 0 ? $x($at) : $y($at);
        }

        return $points;
    }
}
