<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\Simplification;

/** How far two shapes are from each other, in px: the way the farthest of their points would have to go. */
final class Apart
{
    /** Points of an outline looked at; of one with more every second, third … is. */
    private const MOST = 400;

    /** INF between two kinds, between nothing and something, and where they do not lie on a plane. */
    public static function px(Geometry $a, Geometry $b): float
    {
        return match (true) {
            $a instanceof Box && $b instanceof Box => max(abs($a->x - $b->x), abs($a->y - $b->y), abs($a->right() - $b->right()), abs($a->bottom() - $b->bottom())),
            $a instanceof Faces && $b instanceof Faces => max(self::px($a->front, $b->front), self::px($a->back, $b->back)),
            $a instanceof PointSet && $b instanceof PointSet => self::points(Coordinates::pairs($a->points), Coordinates::pairs($b->points)),
            $a instanceof Pose && $b instanceof Pose => self::points(self::nodes($a), self::nodes($b)),
            $a instanceof Polyline && $b instanceof Polyline => self::paths([$a->points], [$b->points], false),
            $a instanceof Region && $b instanceof Region && $a::class === $b::class => self::paths($a->rings(), $b->rings(), true),
            $a instanceof Mask && $b instanceof Mask => self::paths(self::outlines($a), self::outlines($b), true),
            default => INF,
        };
    }

    /**
     * Points of the same name or number; one the other has not is as far as can be.
     *
     * @param  array<array-key, array{float, float}>  $a
     * @param  array<array-key, array{float, float}>  $b
     */
    private static function points(array $a, array $b): float
    {
        if (count($a) !== count($b) || array_diff_key($a, $b) !== []) {
            return INF;
        }
        $most = 0.0;
        foreach ($a as $key => [$x, $y]) {
            $most = max($most, hypot($b[$key][0] - $x, $b[$key][1] - $y));
        }

        return $most;
    }

    /**
     * Hausdorff's distance: from every point of the one to the nearest place on the other, and back.
     *
     * @param  list<list<float>>  $a
     * @param  list<list<float>>  $b
     */
    private static function paths(array $a, array $b, bool $closed): float
    {
        if ($a === [] || $b === []) {
            return $a === $b ? 0.0 : INF;
        }

        return max(self::farthest($a, $b, $closed), self::farthest($b, $a, $closed));
    }

    /**
     * @param  list<list<float>>  $of
     * @param  list<list<float>>  $to
     */
    private static function farthest(array $of, array $to, bool $closed): float
    {
        $points = intdiv(array_sum(array_map(count(...), $of)), 2);
        $step = 2 * (int) max(1, ceil($points / self::MOST));
        $edges = [];
        foreach ($to as $path) {
            $n = count($path);
            $thin = 2 * (int) max(1, ceil($n / 2 / self::MOST));
            for ($i = 0; $i < $n; $i += $thin) {
                $j = $i + $thin < $n ? $i + $thin : ($closed ? 0 : $n - 2);
                $edges[] = [$path[$i], $path[$i + 1], $path[$j] - $path[$i], $path[$j + 1] - $path[$i + 1]];
            }
        }
        $most = 0.0;
        foreach ($of as $path) {
            for ($i = 0; $i < count($path); $i += $step) {
                $least = INF;
                foreach ($edges as [$x, $y, $dx, $dy]) {
                    $px = $path[$i] - $x;
                    $py = $path[$i + 1] - $y;
                    $length = $dx * $dx + $dy * $dy;
                    $part = $length > 0 ? min(1.0, max(0.0, ($px * $dx + $py * $dy) / $length)) : 0.0;
                    $px -= $part * $dx;
                    $py -= $part * $dy;
                    $least = min($least, $px * $px + $py * $py);
                }
                $most = max($most, $least);
            }
        }

        return sqrt($most);
    }

    /** @return array<string, array{float, float}> */
    private static function nodes(Pose $pose): array
    {
        return array_map(static fn (array $node): array => [$node['x'], $node['y']], $pose->nodes);
    }

    /** @return list<list<float>> with the steps of the pixels left out */
    private static function outlines(Mask $mask): array
    {
        return array_map(static fn (array $ring): array => Simplification::ring($ring, 0.75), Contours::rings($mask));
    }
}
