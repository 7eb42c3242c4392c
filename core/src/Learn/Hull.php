<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;

/** The region the nodes of a skeleton span: their convex hull (Andrew's monotone chain, 1979). */
final class Hull
{
    /** Null when they span none. */
    public static function of(Pose $pose): ?Polygon
    {
        $points = array_map(static fn (array $node): array => [$node['x'], $node['y']], array_values($pose->nodes));
        sort($points);
        $ring = [];
        foreach ([$points, array_reverse($points)] as $way) {
            $half = [];
            foreach ($way as $p) {
                while (count($half) >= 2 && self::turn($half[count($half) - 2], $half[count($half) - 1], $p) <= 0) {
                    array_pop($half);
                }
                $half[] = $p;
            }
            array_pop($half);
            array_push($ring, ...$half);
        }
        if (count($ring) < 3) {
            return null;
        }
        try {
            return Polygon::of([array_merge(...$ring)]);
        } catch (InvalidValue) {
            // all on one line, as far as coordinates can tell
            return null;
        }
    }

    /**
     * @param  array{float, float}  $a
     * @param  array{float, float}  $b
     * @param  array{float, float}  $c
     */
    private static function turn(array $a, array $b, array $c): float
    {
        return ($b[0] - $a[0]) * ($c[1] - $a[1]) - ($b[1] - $a[1]) * ($c[0] - $a[0]);
    }
}
