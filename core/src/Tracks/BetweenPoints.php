<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Closure;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Pose;

/**
 * Points that have names or places in an order: each goes straight to where the same one is at the next key. One the next key does not have goes
 * along with the others until then (by the mean of their ways); one only the next key has comes with it. Whether a node is hidden is what the
 * first key says.
 */
final readonly class BetweenPoints implements InBetween
{
    /**
     * @param  array<array-key, array{float, float}>  $from  by node or place in the order
     * @param  array<array-key, array{float, float}>  $way
     * @param  Closure(array<array-key, array{float, float}>): Geometry  $shape
     */
    private function __construct(private array $from, private array $way, private Closure $shape)
    {
    }

    public static function pointSets(PointSet $a, PointSet $b): self
    {
        return self::of(Coordinates::pairs($a->points), Coordinates::pairs($b->points), static fn (array $points): PointSet => PointSet::of(array_merge(...array_values($points))));
    }

    public static function poses(Pose $a, Pose $b): self
    {
        $points = static fn (Pose $pose): array => array_map(static fn (array $node): array => [$node['x'], $node['y']], $pose->nodes);

        return self::of($points($a), $points($b), static function (array $moved) use ($a): Pose {
            $nodes = [];
            foreach ($moved as $key => [$x, $y]) {
                $nodes[$key] = ['x' => $x, 'y' => $y, 'state' => $a->nodes[$key]['state']];
            }

            return Pose::of($nodes);
        });
    }

    public function at(float $t): Geometry
    {
        $points = [];
        foreach ($this->from as $key => [$x, $y]) {
            $points[$key] = [$x + $t * $this->way[$key][0], $y + $t * $this->way[$key][1]];
        }

        return ($this->shape)($points);
    }

    /**
     * @param  array<array-key, array{float, float}>  $a
     * @param  array<array-key, array{float, float}>  $b
     * @param  Closure(array<array-key, array{float, float}>): Geometry  $shape
     */
    private static function of(array $a, array $b, Closure $shape): self
    {
        $ways = [];
        [$dx, $dy] = [0.0, 0.0];
        foreach ($a as $key => [$x, $y]) {
            if (isset($b[$key])) {
                $ways[$key] = [$b[$key][0] - $x, $b[$key][1] - $y];
                $dx += $ways[$key][0];
                $dy += $ways[$key][1];
            }
        }
        $n = max(1, count($ways));
        foreach (array_keys($a) as $key) {
            $ways[$key] ??= [$dx / $n, $dy / $n];
        }

        return new self($a, $ways, $shape);
    }
}
