<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Geometry\Cuboid;

/**
 * Fits cuboids to points: from a rough drag on the ground, or tighter round what one holds already.
 *
 * The heading is the one at which the points lie closest to the sides. Method: X. Zhang, W. Xu, C. Dong, J. M. Dolan, "Efficient L-shape
 * fitting for vehicle detection using laser scanners", IEEE Intelligent Vehicles Symposium (2017) 54–59, closeness criterion.
 */
final readonly class Fit
{
    /** Metres around the drag in which points are looked at. */
    public const AROUND = 0.4;

    /** Metres over the ground from where on points are of an object. */
    private const OVER = 0.08;

    /** Metres: points farther apart, as seen from above, are not of one thing. */
    private const APART = 0.3;

    /** Metres of air over an object, above which is something else. */
    private const AIR = 0.5;

    /** An object whose lowest point is this near to the ground stands on it. */
    private const STANDS = 0.6;

    /** Points the heading is looked for with. */
    private const SAMPLE = 700;

    /** Metres: nearer to a side than this counts as on it. */
    private const ON = 0.02;

    /** Of a row of places so many lie outside at each end: strays. */
    private const STRAYS = 0.004;

    /** Fewer points say nothing of a shape. */
    private const LEAST = 8;

    /** Metres a cuboid has at least. */
    private const THIN = 0.05;

    /**
     * From a drag on the ground, from where an object is behind to where it is in front.
     *
     * @param  Near  $near  over the drag and `AROUND` it
     * @param  array{float, float}  $from  x, y
     * @param  array{float, float}  $to
     * @param  ?array{float, float, float}  $typical  length, width, height of its class; what is seen of it may be less
     */
    public static function drag(Near $near, array $from, array $to, ?array $typical = null): Cuboid
    {
        $floor = $near->floor() ?? ($near->z === [] ? 0.0 : min($near->z));
        $points = self::thing($near, $from, $to, $floor, $typical);
        if ($points->count() < self::LEAST) {
            return self::asDragged($from, $to, $floor, $typical);
        }
        $angle = self::angle($points);
        $best = null;
        // the longer side is ahead, unless the class says otherwise
        foreach ([$angle, $angle + 90.0] as $heading) {
            [$c, $s] = [cos(deg2rad($heading)), sin(deg2rad($heading))];
            [$u0, $u1] = self::ends(array_map(static fn (float $x, float $y): float => $x * $c + $y * $s, $points->x, $points->y));
            [$v0, $v1] = self::ends(array_map(static fn (float $x, float $y): float => $y * $c - $x * $s, $points->x, $points->y));
            $fit = $typical === null ? $u1 - $u0 - ($v1 - $v0) : -abs($u1 - $u0 - $typical[0]) - abs($v1 - $v0 - $typical[1]);
            if ($best === null || $fit > $best[0]) {
                $best = [$fit, $heading, $u0, $u1, $v0, $v1];
            }
        }
        [, $heading, $u0, $u1, $v0, $v1] = $best;
        if ($typical !== null) {
            [$c, $s] = [cos(deg2rad($heading)), sin(deg2rad($heading))];
            // what is not seen lies behind what is, as seen from the scanner
            [$u0, $u1] = self::longer($u0, $u1, $typical[0], ($u0 + $u1) / 2 >= 0);
            [$v0, $v1] = self::longer($v0, $v1, $typical[1], ($v0 + $v1) / 2 >= 0);
        }

        return self::faced(self::laid($heading, [$u0, $u1], [$v0, $v1], self::height($points, $floor)), [$to[0] - $from[0], $to[1] - $from[1]]);
    }

    /** As close round the points it holds, and those just beside it, as they lie; its heading stays. Null: there are not enough of them. */
    public static function tighter(Cuboid $cuboid, Near $near): ?Cuboid
    {
        [$c, $s] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
        [$cx, $cy, $cz] = $cuboid->center;
        $floor = $near->floor();
        $u = $v = $z = [];
        foreach ($near->x as $i => $x) {
            [$dx, $dy] = [$x - $cx, $near->y[$i] - $cy];
            [$along, $beside] = [$dx * $c + $dy * $s, $dy * $c - $dx * $s];
            if (abs($along) <= self::reach($cuboid->size[0]) && abs($beside) <= self::reach($cuboid->size[1]) && abs($near->z[$i] - $cz) <= self::reach($cuboid->size[2]) && ($floor === null || $near->z[$i] > $floor + self::OVER)) {
                $u[] = $along;
                $v[] = $beside;
                $z[] = $near->z[$i];
            }
        }
        if (count($u) < self::LEAST) {
            return null;
        }
        [$u0, $u1] = self::ends($u);
        [$v0, $v1] = self::ends($v);
        [$z0, $z1] = self::ends($z);
        if ($floor !== null && $z0 - $floor < self::STANDS) {
            $z0 = $floor;
        }
        [$along, $beside] = [($u0 + $u1) / 2, ($v0 + $v1) / 2];

        return Cuboid::of([$cx + $along * $c - $beside * $s, $cy + $along * $s + $beside * $c, ($z0 + $z1) / 2], [max(self::THIN, $u1 - $u0), max(self::THIN, $v1 - $v0), max(self::THIN, $z1 - $z0)], $cuboid->heading);
    }

    /** Half the side of a cuboid and as much beside it as one may have missed. */
    private static function reach(float $side): float
    {
        return $side / 2 + min(0.4, 0.1 + $side * 0.1);
    }

    /**
     * The points of what was dragged over: without what lies by itself at its edges, and what hangs over it.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @param  ?array{float, float, float}  $typical
     */
    private static function thing(Near $near, array $from, array $to, float $floor, ?array $typical): Near
    {
        [$x0, $x1] = [min($from[0], $to[0]), max($from[0], $to[0])];
        [$y0, $y1] = [min($from[1], $to[1]), max($from[1], $to[1])];
        $isIn = static fn (int $i): bool => $near->x[$i] >= $x0 && $near->x[$i] <= $x1 && $near->y[$i] >= $y0 && $near->y[$i] <= $y1;
        $top = self::top(array_values(array_filter($near->z, $isIn, ARRAY_FILTER_USE_KEY)), $floor, $typical);
        $cells = [];
        foreach ($near->x as $i => $x) {
            if ($near->z[$i] > $floor + self::OVER && $near->z[$i] <= $top) {
                $cells[(int) floor($x / self::APART) << 30 ^ (int) floor($near->y[$i] / self::APART) & 0x3FFFFFFF][] = $i;
            }
        }
        $parts = [];
        $seen = [];
        foreach (array_keys($cells) as $start) {
            if (isset($seen[$start])) {
                continue;
            }
            $seen[$start] = true;
            $part = [];
            for ($queue = [$start]; $queue !== [];) {
                $cell = array_pop($queue);
                array_push($part, ...$cells[$cell]);
                [$column, $row] = [$cell >> 30, $cell & 0x3FFFFFFF];
                foreach ([-1, 0, 1] as $dx) {
                    foreach ([-1, 0, 1] as $dy) {
                        $next = $column + $dx << 30 ^ $row + $dy & 0x3FFFFFFF;
                        if (isset($cells[$next]) && ! isset($seen[$next])) {
                            $seen[$next] = true;
                            $queue[] = $next;
                        }
                    }
                }
            }
            $inside = count(array_filter($part, $isIn));
            if ($inside * 2 >= count($part)) {
                $parts[] = $part;
            }
        }
        $most = max([0, ...array_map(count(...), $parts)]);
        $which = array_merge([], ...array_values(array_filter($parts, static fn (array $part): bool => count($part) * 20 >= $most)));
        sort($which);

        return $near->only($which);
    }

    /**
     * Up to where an object reaches: the air over it, or half as high again as its class is.
     *
     * @param  list<float>  $z
     * @param  ?array{float, float, float}  $typical
     */
    private static function top(array $z, float $floor, ?array $typical): float
    {
        $in = [];
        foreach ($z as $height) {
            if ($height > $floor + self::OVER) {
                $bin = (int) (($height - $floor) / 0.1);
                $in[$bin] = ($in[$bin] ?? 0) + 1;
            }
        }
        if ($in === []) {
            return INF;
        }
        ksort($in);
        $before = null;
        $all = array_sum($in);
        $below = 0;
        foreach ($in as $bin => $count) {
            if ($before !== null && ($bin - $before) * 0.1 > self::AIR && $below * 20 >= $all) {
                return $floor + ($before + 1) * 0.1;
            }
            $below += $count;
            $before = $bin;
        }

        return $typical === null ? INF : $floor + 1.5 * $typical[2];
    }

    /** Degrees from 0 to 90 at which the points lie closest to the sides of the rectangle around them. */
    private static function angle(Near $points): float
    {
        $step = max(1, intdiv($points->count(), self::SAMPLE));
        $x = $y = [];
        for ($i = 0; $i < $points->count(); $i += $step) {
            $x[] = $points->x[$i];
            $y[] = $points->y[$i];
        }
        $best = [-INF, 0.0];
        for ($angle = 0.0; $angle < 90.0; $angle += 2.0) {
            $best = max($best, [self::closeness($x, $y, $angle), $angle]);
        }
        $around = $best[1];
        for ($angle = $around - 1.75; $angle < $around + 2.0; $angle += 0.25) {
            $best = max($best, [self::closeness($x, $y, $angle), $angle]);
        }

        return $best[1];
    }

    /**
     * @param  list<float>  $x
     * @param  list<float>  $y
     */
    private static function closeness(array $x, array $y, float $angle): float
    {
        [$c, $s] = [cos(deg2rad($angle)), sin(deg2rad($angle))];
        $u = $v = [];
        foreach ($x as $i => $at) {
            $u[] = $at * $c + $y[$i] * $s;
            $v[] = $y[$i] * $c - $at * $s;
        }
        if ($u === []) {
            return 0.0;
        }
        [$u0, $u1, $v0, $v1] = [min($u), max($u), min($v), max($v)];
        $sum = 0.0;
        foreach ($u as $i => $along) {
            $sum += 1.0 / max(self::ON, min($u1 - $along, $along - $u0, $v1 - $v[$i], $v[$i] - $v0));
        }

        return $sum;
    }

    /**
     * Both ends of where most lie.
     *
     * @param  list<float>  $places
     * @return array{float, float}
     */
    private static function ends(array $places): array
    {
        sort($places);
        $out = (int) (count($places) * self::STRAYS);

        return [$places[$out], $places[count($places) - 1 - $out]];
    }

    /** @return array{float, float} */
    private static function longer(float $from, float $to, float $typical, bool $on): array
    {
        return $to - $from >= 0.9 * $typical ? [$from, $to] : ($on ? [$from, $from + $typical] : [$to - $typical, $to]);
    }

    /** @return array{float, float} where it begins and where it ends */
    private static function height(Near $points, float $floor): array
    {
        [$low, $high] = self::ends($points->z);

        return [$low - $floor < self::STANDS ? $floor : $low, max($high, $floor + self::THIN)];
    }

    /**
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @param  ?array{float, float, float}  $typical
     */
    private static function asDragged(array $from, array $to, float $floor, ?array $typical): Cuboid
    {
        [$dx, $dy] = [$to[0] - $from[0], $to[1] - $from[1]];
        $along = abs($dx) >= abs($dy);
        $size = [max(self::THIN, $along ? abs($dx) : abs($dy)), max(self::THIN, $along ? abs($dy) : abs($dx)), $typical[2] ?? 1.0];

        return self::faced(Cuboid::of([($from[0] + $to[0]) / 2, ($from[1] + $to[1]) / 2, $floor + $size[2] / 2], $size, $along ? 0.0 : 90.0), [$dx, $dy]);
    }

    /**
     * @param  array{float, float}  $u  ends along the heading
     * @param  array{float, float}  $v  and to its left
     * @param  array{float, float}  $z
     */
    private static function laid(float $heading, array $u, array $v, array $z): Cuboid
    {
        [$c, $s] = [cos(deg2rad($heading)), sin(deg2rad($heading))];
        [$along, $beside] = [($u[0] + $u[1]) / 2, ($v[0] + $v[1]) / 2];

        return Cuboid::of([$along * $c - $beside * $s, $along * $s + $beside * $c, ($z[0] + $z[1]) / 2], [max(self::THIN, $u[1] - $u[0]), max(self::THIN, $v[1] - $v[0]), max(self::THIN, $z[1] - $z[0])], $heading);
    }

    /**
     * Its front is the end the hand went to.
     *
     * @param  array{float, float}  $towards
     */
    private static function faced(Cuboid $cuboid, array $towards): Cuboid
    {
        $ahead = cos(deg2rad($cuboid->heading)) * $towards[0] + sin(deg2rad($cuboid->heading)) * $towards[1];

        return $ahead >= 0 ? $cuboid : Cuboid::of($cuboid->center, $cuboid->size, $cuboid->heading + 180.0);
    }
}
