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

    /** Metres a cell is wide: points with an empty cell between are not of one thing. */
    private const APART = 0.2;

    /** Metres a drag may have missed of a thing. */
    private const BESIDE = 0.15;

    /** A thing may be so much higher than its class is. */
    private const HIGHER = 1.15;

    /** A side that is seen to so much of how long it is counts as seen whole. */
    private const WHOLE = 0.8;

    /** A side that is seen to less than so much of what was dragged over is hidden. */
    private const HIDDEN = 0.5;

    /** Metres: what is narrower is drawn by a drag that is wider than itself. */
    private const NARROW = 0.5;

    /** Metres a drag around a narrow thing is wide at most, and over the ground up to which it is looked at alone. */
    private const AROUND_STEM = 1.3;

    private const LOW = 0.8;

    /** What is seen of a narrow thing without its outermost points, made up for. */
    private const TRIMMED = 1.12;

    /** A thing that is seen so high of its class is as high as it. */
    private const NEARLY = 0.75;

    /** So much longer or wider than its class is, other things are among its points. */
    private const LONGER = 1.25;

    /** An object whose lowest point is this near to the ground stands on it. */
    private const STANDS = 0.6;

    /** Points the heading is looked for with. */
    private const SAMPLE = 450;

    /** Metres: nearer to a side than this counts as on it. */
    private const ON = 0.02;

    /** Of a row of places so many lie outside at each end: strays. */
    private const STRAYS = 0.004;

    /** Points its sides are looked for with. */
    private const SIDES = 5_000;

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
        $stem = self::stem($near, $from, $to, $floor, $typical);
        if ($stem !== null) {
            return self::faced($stem, [$to[0] - $from[0], $to[1] - $from[1]]);
        }
        $points = self::thing($near, $from, $to, $floor, $typical);
        if ($points->count() < self::LEAST) {
            return self::asDragged($from, $to, $floor, $typical);
        }
        $points = $points->some(self::SIDES);
        // how a narrow thing is turned nobody can see
        $angle = $typical !== null && max($typical[0], $typical[1]) < self::NARROW ? 0.0 : self::angle($points);
        $middle = [($from[0] + $to[0]) / 2, ($from[1] + $to[1]) / 2];
        $best = null;
        // the longer side is ahead, unless the class says otherwise
        foreach ([$angle, $angle + 90.0] as $heading) {
            [$c, $s] = [cos(deg2rad($heading)), sin(deg2rad($heading))];
            $u = self::ends(array_map(static fn (float $x, float $y): float => $x * $c + $y * $s, $points->x, $points->y), $typical[0] ?? INF);
            $v = self::ends(array_map(static fn (float $x, float $y): float => $y * $c - $x * $s, $points->x, $points->y), $typical[1] ?? INF);
            if ($typical === null) {
                [$long, $wide] = self::dragged($from, $to, $c, $s);
                // of a side that is hidden only the hand knows
                $u = self::longer($u, $long, $middle[0] * $c + $middle[1] * $s, self::HIDDEN);
                $v = self::longer($v, $wide, $middle[1] * $c - $middle[0] * $s, self::HIDDEN);
                $fit = $u[1] - $u[0] - ($v[1] - $v[0]);
            } else {
                $fit = self::likeness($u[1] - $u[0], $v[1] - $v[0], $typical);
                // what is not seen lies where the hand went over it too
                $u = self::longer($u, $typical[0], $middle[0] * $c + $middle[1] * $s);
                $v = self::longer($v, $typical[1], $middle[1] * $c - $middle[0] * $s);
                $fit -= hypot(($u[0] + $u[1]) / 2 - $middle[0] * $c - $middle[1] * $s, ($v[0] + $v[1]) / 2 - $middle[1] * $c + $middle[0] * $s);
            }
            if ($best === null || $fit > $best[0]) {
                $best = [$fit, $heading, $u, $v];
            }
        }
        [, $heading, $u, $v] = $best;

        return self::faced(self::laid($heading, $u, $v, self::height($points, $floor, $typical)), [$to[0] - $from[0], $to[1] - $from[1]]);
    }

    /**
     * A thing that is narrow near the ground: a post, a trunk, also where a crown that goes on beyond the drag hangs over it. As wide as it is seen, from
     * the sides that face the scanner, and as high as it can be told from what hangs over it.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @param  ?array{float, float, float}  $typical
     */
    private static function stem(Near $near, array $from, array $to, float $floor, ?array $typical): ?Cuboid
    {
        [$x0, $x1] = [min($from[0], $to[0]), max($from[0], $to[0])];
        [$y0, $y1] = [min($from[1], $to[1]), max($from[1], $to[1])];
        if (max($x1 - $x0, $y1 - $y0) > self::AROUND_STEM || ($typical !== null && max($typical[0], $typical[1]) >= self::NARROW)) {
            return null;
        }
        $low = $high = [];
        $beyond = 0;
        foreach ($near->x as $i => $x) {
            [$y, $z] = [$near->y[$i], $near->z[$i] - $floor];
            $in = $x >= $x0 - self::BESIDE && $x <= $x1 + self::BESIDE && $y >= $y0 - self::BESIDE && $y <= $y1 + self::BESIDE;
            if ($z > self::OVER && $z <= self::LOW && $in) {
                $low[] = $i;
            } elseif ($z > self::LOW) {
                $in ? $high[] = $i : $beyond++;
            }
        }
        if (count($low) < self::LEAST) {
            return null;
        }
        $x = self::within(array_map(static fn (int $i): float => $near->x[$i], $low));
        $y = self::within(array_map(static fn (int $i): float => $near->y[$i], $low));
        if (max($x[1] - $x[0], $y[1] - $y[0]) >= self::NARROW) {
            return null;
        }
        $sides = $typical === null ? array_fill(0, 2, max(self::THIN, self::thick($near, $low, $x, $y))) : [$typical[0], $typical[1]];
        // the sides that face the scanner are seen, and how far it is to those across from them its width says
        $middle = [];
        foreach ([$x, $y] as $axis => [$least, $most]) {
            $side = $sides[$axis];
            $middle[] = $most - $least >= $side ? ($least + $most) / 2 : ($least + $most > 0 ? $least + $side / 2 : $most - $side / 2);
        }
        $top = self::LOW;
        // a crown goes on beyond the drag; what belongs to the thing ends within it
        $crown = $beyond * 3 >= count($high) && count($high) >= self::LEAST;
        $begins = $crown ? self::crown($near, $high, $middle, max($sides), $floor) : INF;
        foreach ($high as $i) {
            $is = ! $crown || (abs($near->x[$i] - $middle[0]) <= $sides[0] / 2 + self::ON && abs($near->y[$i] - $middle[1]) <= $sides[1] / 2 + self::ON);
            if ($is && $begins >= $near->z[$i] - $floor) {
                $top = max($top, $near->z[$i] - $floor);
            }
        }
        if (! $crown && $high !== []) {
            // what widens above is one thing with what carries it
            $wide = [self::within(array_map(static fn (int $i): float => $near->x[$i], $high)), self::within(array_map(static fn (int $i): float => $near->y[$i], $high))];
            if (max($wide[0][1] - $wide[0][0], $wide[1][1] - $wide[1][0]) > 1.5 * max($sides)) {
                return null;
            }
        }
        $height = $typical === null ? $top : $typical[2];

        return Cuboid::of([$middle[0], $middle[1], $floor + $height / 2], [$sides[0], $sides[1], $height], 0.0);
    }

    /**
     * How thick a narrow thing is of which only what faces the scanner is seen: between how far it reaches along the axes, which is too little for a round
     * one, and across the way one looks, which is too much for a square one.
     *
     * @param  non-empty-list<int>  $low
     * @param  array{float, float}  $x  its ends along the axes
     * @param  array{float, float}  $y
     */
    private static function thick(Near $near, array $low, array $x, array $y): float
    {
        [$cx, $cy] = [($x[0] + $x[1]) / 2, ($y[0] + $y[1]) / 2];
        $far = max(1e-6, hypot($cx, $cy));
        $across = self::within(array_map(static fn (int $i): float => ($near->y[$i] * $cx - $near->x[$i] * $cy) / $far, $low));

        return (max($x[1] - $x[0], $y[1] - $y[0]) + $across[1] - $across[0]) / 2 * self::TRIMMED;
    }

    /**
     * How high over the ground a crown begins, close around what carries it.
     *
     * @param  list<int>  $high
     * @param  array<int, float>  $middle
     */
    private static function crown(Near $near, array $high, array $middle, float $side, float $floor): float
    {
        $heights = [];
        foreach ($high as $i) {
            $far = hypot($near->x[$i] - $middle[0], $near->y[$i] - $middle[1]);
            if ($far > $side / 2 + 0.1 && $far < $side / 2 + self::AROUND) {
                $heights[] = $near->z[$i] - $floor;
            }
        }
        sort($heights);

        return $heights[intdiv(count($heights), 20)] ?? INF;
    }

    /**
     * Both ends of where most places lie, without what the last hundredths of them say: of a narrow thing the noise of a scanner is a part of it.
     *
     * @param  non-empty-list<float>  $places
     * @return array{float, float}
     */
    private static function within(array $places): array
    {
        sort($places);
        $out = intdiv(count($places), 30);

        return [$places[$out], $places[count($places) - 1 - $out]];
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
     * The points of what was dragged over: what hangs together and stands on the ground, without what lies by itself at its edges, and what hangs over it.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @param  ?array{float, float, float}  $typical
     */
    private static function thing(Near $near, array $from, array $to, float $floor, ?array $typical): Near
    {
        [$x0, $x1] = [min($from[0], $to[0]), max($from[0], $to[0])];
        [$y0, $y1] = [min($from[1], $to[1]), max($from[1], $to[1])];
        $top = $typical === null ? INF : $floor + self::HIGHER * $typical[2] + self::BESIDE;
        $cells = [];
        foreach ($near->x as $i => $x) {
            [$y, $z] = [$near->y[$i], $near->z[$i]];
            if ($z > $floor + self::OVER && $z <= $top && $x >= $x0 - self::BESIDE && $x <= $x1 + self::BESIDE && $y >= $y0 - self::BESIDE && $y <= $y1 + self::BESIDE) {
                $cells[(int) (($x - $x0) / self::APART + 8) << 40 | (int) (($y - $y0) / self::APART + 8) << 20 | (int) (($z - $floor) / self::APART)][] = $i;
            }
        }
        $standing = $hanging = $seen = [];
        foreach (array_keys($cells) as $start) {
            if (isset($seen[$start])) {
                continue;
            }
            $seen[$start] = true;
            $part = [];
            $lowest = INF;
            for ($queue = [$start]; $queue !== [];) {
                $cell = array_pop($queue);
                foreach ($cells[$cell] as $i) {
                    $part[] = $i;
                    $lowest = min($lowest, $near->z[$i]);
                }
                foreach (self::around() as $by) {
                    if (isset($cells[$cell + $by]) && ! isset($seen[$cell + $by])) {
                        $seen[$cell + $by] = true;
                        $queue[] = $cell + $by;
                    }
                }
            }
            $inside = 0;
            foreach ($part as $i) {
                $inside += $near->x[$i] >= $x0 && $near->x[$i] <= $x1 && $near->y[$i] >= $y0 && $near->y[$i] <= $y1 ? 1 : 0;
            }
            if ($inside * 2 < count($part)) {
                continue;
            }
            if ($lowest - $floor < self::STANDS) {
                $standing[] = $part;
            } else {
                $hanging[] = $part;
            }
        }
        // what begins no higher than what stands there reaches is of it: of sides seen at a slant there are few points, and nothing between
        $reaches = -INF;
        foreach ($standing as $part) {
            foreach (count($part) >= self::LEAST ? $part : [] as $i) {
                $reaches = max($reaches, $near->z[$i]);
            }
        }
        // where nothing stands what hangs is meant
        $parts = [...$standing, ...array_filter($hanging, static fn (array $part): bool => $reaches === -INF || min([INF, ...array_map(static fn (int $i): float => $near->z[$i], $part)]) <= $reaches + self::BESIDE)];
        $most = max([0, ...array_map(count(...), $parts)]);
        $which = array_merge([], ...array_values(array_filter($parts, static fn (array $part): bool => count($part) * 20 >= $most)));
        sort($which);

        return $near->only($which);
    }

    /** @return list<int> the cells around one, by what is added to its number */
    private static function around(): array
    {
        $around = [];
        foreach ([-1, 0, 1] as $x) {
            foreach ([-1, 0, 1] as $y) {
                foreach ([-1, 0, 1] as $z) {
                    if ($x !== 0 || $y !== 0 || $z !== 0) {
                        $around[] = $x * (1 << 40) + $y * (1 << 20) + $z;
                    }
                }
            }
        }

        return $around;
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
        [$about] = self::closest($x, $y, range(0, 88, 2));
        $fine = [];
        for ($n = -7; $n <= 7; $n++) {
            $fine[] = $about + $n / 4;
        }

        return self::closest($x, $y, $fine)[0];
    }

    /**
     * @param  list<float>  $x
     * @param  list<float>  $y
     * @param  list<int|float>  $angles
     * @return array{float, float} the best of them, and how close the points lie to the sides there
     */
    private static function closest(array $x, array $y, array $angles): array
    {
        $best = [0.0, -INF];
        foreach ($angles as $angle) {
            $close = self::closeness($x, $y, (float) $angle);
            if ($close > $best[1]) {
                $best = [(float) $angle, $close];
            }
        }

        return $best;
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
     * @param  float  $typical  how far apart they are with its class: where they are much farther, they are where the most lie so close
     * @return array{float, float}
     */
    private static function ends(array $places, float $typical = INF): array
    {
        sort($places);
        $count = count($places);
        $out = (int) ($count * self::STRAYS);
        if (self::LONGER * $typical >= $places[$count - 1 - $out] - $places[$out]) {
            return [$places[$out], $places[$count - 1 - $out]];
        }
        [$best, $from, $last] = [0, 0, 0];
        foreach ($places as $first => $place) {
            while ($last < $count && $places[$last] <= $place + $typical) {
                $last++;
            }
            if ($last - $first > $best) {
                [$best, $from] = [$last - $first, $first];
            }
        }

        return [$places[$from], $places[$from] + $typical];
    }

    /**
     * How long and how wide a thing is that a drag goes round, when it is turned so: a drag is a little wider. Nothing where it is turned by about
     * half a right angle, since then the drag does not tell.
     *
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @return array{float, float} 0: nobody knows
     */
    private static function dragged(array $from, array $to, float $c, float $s): array
    {
        [$dx, $dy] = [max(0.0, abs($to[0] - $from[0]) - 2 * self::BESIDE), max(0.0, abs($to[1] - $from[1]) - 2 * self::BESIDE)];
        $tells = $c * $c - $s * $s;
        if (abs($tells) < 0.4) {
            return [0.0, 0.0];
        }

        return [max(0.0, ($dx * abs($c) - $dy * abs($s)) / $tells), max(0.0, ($dy * abs($c) - $dx * abs($s)) / $tells)];
    }

    /**
     * As long as its class is, from the end that lies farther from the middle of the drag: the other may be hidden.
     *
     * @param  array{float, float}  $ends
     * @return array{float, float}
     */
    private static function longer(array $ends, float $typical, float $middle, float $whole = self::WHOLE): array
    {
        [$from, $to] = $ends;
        if ($to - $from >= $whole * $typical) {
            return $ends;
        }
        if ($typical < self::NARROW) {
            // no hand is so exact: of a narrow thing the half is hidden that the scanner does not see
            $middle = $from + $to;
        }

        return abs($from + $typical / 2 - $middle) <= abs($to - $typical / 2 - $middle) ? [$from, $from + $typical] : [$to - $typical, $to];
    }

    /**
     * How well the sides that are seen are those of its class, the larger the better: the longer one is seen whole, the other maybe in part.
     *
     * @param  array{float, float, float}  $typical
     */
    private static function likeness(float $length, float $width, array $typical): float
    {
        return $length >= $width ? -abs($length - $typical[0]) - max(0.0, $width - $typical[1]) : -abs($width - $typical[1]) - max(0.0, $length - $typical[0]);
    }

    /**
     * @param  ?array{float, float, float}  $typical
     * @return array{float, float} where it begins and where it ends
     */
    private static function height(Near $points, float $floor, ?array $typical): array
    {
        [$low, $high] = self::ends($points->z);
        // the topmost ring of a scanner rarely meets the very top
        if ($typical !== null && $low - $floor < self::STANDS && $high - $floor < $typical[2] && $high - $floor > self::NEARLY * $typical[2]) {
            $high = $floor + $typical[2];
        }

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
