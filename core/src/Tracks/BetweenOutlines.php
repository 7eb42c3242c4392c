<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Crossing;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;

/**
 * Outlines, also with different numbers of points: each point goes straight to the one it belongs to (OutlineMatch). Where a region's outlines
 * would cross themselves on the way, or it has not as many rings as the other, it is worked out as a region instead (BetweenRegions), whose
 * outlines never do.
 */
final class BetweenOutlines implements InBetween
{
    private ?InBetween $region = null;

    /** @param  list<array{list<float>, list<float>}>  $rings  from where to where, equally long; none: it is worked out as a region */
    private function __construct(private readonly Polygon|Polyline $a, private readonly Polygon|Polyline $b, private readonly array $rings)
    {
    }

    public static function lines(Polyline $a, Polyline $b): self
    {
        return new self($a, $b, [OutlineMatch::open($a->points, $b->points)]);
    }

    public static function polygons(Polygon $a, Polygon $b): self
    {
        [$of, $to] = [$a->rings(), $b->rings()];
        if (count($of) !== count($to)) {
            return new self($a, $b, []);
        }
        $all = $a->points() + $b->points() <= Coordinates::MOST;

        return new self($a, $b, array_map(static fn (array $ring, array $other): array => OutlineMatch::closed($ring, $other, $all), $of, self::together($of, $to)));
    }

    public function at(float $t): Geometry
    {
        $rings = [];
        foreach ($this->rings as [$from, $to]) {
            $ring = [];
            foreach ($from as $i => $value) {
                $ring[] = $value + $t * ($to[$i] - $value);
            }
            $rings[] = $ring;
        }
        if (! $this->a instanceof Polygon || ! $this->b instanceof Polygon) {
            return Polyline::of($rings[0]);
        }
        if ($rings === [] || Crossing::first($rings) !== null) {
            $this->region ??= BetweenRegions::of($this->a, $this->b);

            return $this->region->at($t);
        }

        return Polygon::of($rings, known: true);
    }

    /** Rings beyond which each goes to the one with its number. */
    private const MOST_RINGS = 100;

    /**
     * @param  list<list<float>>  $of
     * @param  list<list<float>>  $to  as many
     * @return list<list<float>> the second's rings in the order of the first's: the ones that lie and are most alike, the nearest first
     */
    private static function together(array $of, array $to): array
    {
        if (count($of) === 1 || count($of) > self::MOST_RINGS) {
            return $to;
        }
        [$here, $there] = [array_map(self::place(...), $of), array_map(self::place(...), $to)];
        $mean = static fn (array $all, int $i): float => array_sum(array_column($all, $i)) / count($all);
        $way = [$mean($there, 0) - $mean($here, 0), $mean($there, 1) - $mean($here, 1)];
        $apart = [];
        foreach ($here as $i => [$x, $y, $side]) {
            foreach ($there as $j => [$u, $v, $other]) {
                $apart[] = [($u - $way[0] - $x) ** 2 + ($v - $way[1] - $y) ** 2 + ($other - $side) ** 2, $i, $j];
            }
        }
        sort($apart);
        $ordered = $taken = [];
        foreach ($apart as [, $i, $j]) {
            if (! isset($ordered[$i]) && ! isset($taken[$j])) {
                $ordered[$i] = $to[$j];
                $taken[$j] = true;
            }
        }
        ksort($ordered);

        return array_values($ordered);
    }

    /**
     * @param  list<float>  $ring
     * @return array{float, float, float} its centre and the side of a square as large
     */
    private static function place(array $ring): array
    {
        return [...OutlineMatch::center($ring), sqrt(abs(Coordinates::signedArea($ring)))];
    }
}
