<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Geometry\Cuboid;

/** Takes a cuboid along from a frame to the next by its points: as large as it is, as high over the ground, where its points lie on those of the next. */
final readonly class Follow
{
    /** Metres the scene is gone through by. */
    private const SCENE_CELL = 0.3;

    /** Metres a scanner moves between two frames at most, where nothing says how it moved. */
    private const SCENE_REACH = 3.0;

    /** The share of a scene that is seen from both places, and of a thing. */
    private const SCENE_SHARE = 0.75;

    private const SHARE = 0.95;

    /** Metres things stand apart at least for them to be a scene. */
    private const SCENE_SPREAD = 5.0;

    /** Points of a scene that are enough to tell. */
    private const SCENE = 1_500;

    /** Metres: the scene farther away from the scanner is sparse. */
    private const SCENE_FAR = 30.0;

    /** Metres a thing moves by itself between two frames: at first, and beyond what it did before. */
    private const FIRST = 2.5;

    private const NEXT = 0.6;

    /** Metres by which a thing that stands still seems to move. */
    public const STILL = 0.15;

    /** The share of points by which a thing lies on itself. */
    private const STANDS = 0.8;

    /** Metres the scene may be off by. */
    private const SCENE_OFF = 0.04;

    /** What moves must lie so much better elsewhere than where it stood. */
    private const BETTER = 0.25;

    /** Metres its places are looked for by, and around it what is not its own. */
    private const CELL = 0.15;

    private const MARGIN = 0.3;

    /** Points of a thing that are enough. */
    private const POINTS = 300;

    /** Cells of a stencil: of a large thing only every second, third … one is looked at. */
    private const STENCIL = 3_000;

    /** Metres a cuboid is across at most. */
    public const WIDEST = 60.0;

    /** Metres around a cuboid that are its own too. */
    private const AROUND = 0.1;

    /** Metres from the lowest point of a cell to its highest in which a side stands. */
    private const UPRIGHT = 0.2;

    /** Fewer points say nothing of how it is turned, or of where it is. */
    private const TURNS = 25;

    private const LEAST = 8;

    /** Degrees a thing turns by itself between two frames at most. */
    private const MOST_TURN = 15.0;

    /** Metres: nearer is on it. */
    private const ON = 0.12;

    /** The share of its points that must lie on those of the next frame. */
    private const SURE = 0.5;

    /**
     * @param  ?string  $unsure  why where it was found is not to be trusted; null: it is
     * @param  array{float, float, float}  $own  how it moved by itself: metres along the axes of the frame it was found on, degrees
     */
    private function __construct(public Cuboid $cuboid, public float $certainty, public ?string $unsure, public array $own)
    {
    }

    /** Metres around where a cuboid is thought to be in which its points have to be known. */
    public static function reach(Cuboid $cuboid, bool $first): float
    {
        return hypot($cuboid->size[0], $cuboid->size[1]) / 2 + ($first ? self::FIRST : self::NEXT) + 2 * self::AROUND;
    }

    /**
     * How the scene moved between two frames, by all that stands in it.
     *
     * @param  Frame  $from  its points are an even choice at every beginning, so that few of them are read
     */
    public static function scene(Frame $from, Frame $to): Motion
    {
        [$ax, $ay] = self::standing($from);
        [$bx, $by] = self::standing($to);
        // one thing alone may have moved itself
        if (self::spread($ax, $ay) < self::SCENE_SPREAD || self::spread($bx, $by) < self::SCENE_SPREAD) {
            return Motion::none();
        }
        $align = new Align($bx, $by, self::SCENE_CELL);
        $motion = $align->nearer($ax, $ay, $align->shifted($ax, $ay, Motion::none(), self::SCENE_REACH, [0.0, -4.0, 4.0, -8.0, 8.0], 0.01), true, self::SCENE_SHARE);

        // a scene that does not lie on itself has not been found
        return $align->share($ax, $ay, $motion, self::SCENE_CELL) < 0.3 ? Motion::none() : $motion;
    }

    /**
     * How many metres lie between most of some places, along the axis along which they are farther apart.
     *
     * @param  list<float>  $x
     * @param  list<float>  $y
     */
    private static function spread(array $x, array $y): float
    {
        $out = intdiv(count($x), 10);
        if ($out < 5) {
            return 0.0;
        }
        sort($x);
        sort($y);

        return max($x[count($x) - 1 - $out] - $x[$out], $y[count($y) - 1 - $out] - $y[$out]);
    }

    /** @return array{list<float>, list<float>} places of what is no ground, from above; of a few of its points */
    private static function standing(Frame $frame): array
    {
        $x = $y = [];
        foreach ($frame->records() as [$floats, $bytes, $wide]) {
            for ($i = 1, $end = count($floats); $i <= $end && count($x) < self::SCENE; $i += $wide) {
                if ($bytes[4 * $i + 10] !== "\1" && hypot($floats[$i], $floats[$i + 1]) < self::SCENE_FAR) {
                    $x[] = $floats[$i] + $frame->origin[0];
                    $y[] = $floats[$i + 1] + $frame->origin[1];
                }
            }
            if (count($x) >= self::SCENE) {
                break;
            }
        }

        return [$x, $y];
    }

    /**
     * @param  Near  $was  what lies over where the cuboid was
     * @param  Motion  $scene  how all that stands moved
     * @param  ?array{float, float, float}  $own  how it moved by itself before; null: nobody knows yet
     * @param  Near  $is  what lies over where it is thought to be, and `reach` around it
     */
    public static function next(Cuboid $cuboid, Near $was, Motion $scene, ?array $own, Near $is): self
    {
        $guess = self::guess($cuboid, $scene, $own);
        $thought = self::standingAs($cuboid, $guess->cuboid($cuboid), $was, $is);
        $none = $own ?? [0.0, 0.0, 0.0];
        [$x, $y] = self::own($cuboid, $was);
        if (count($x) < self::LEAST) {
            return new self($thought, 0.0, 'there are too few points in it', $none);
        }
        [$qx, $qy] = self::slab($thought, $is);
        if (count($qx) < self::LEAST) {
            return new self($thought, 0.0, 'there are too few points where it should be', $none);
        }
        $align = new Align($qx, $qy, self::CELL);
        $stencil = self::stencil($cuboid, $was);
        // what lies on itself where it should be stands still, and is where the scene says: what comes into sight of it would draw it away
        [$motion, $moves] = $align->share($x, $y, $scene, self::ON) >= self::STANDS ? [$scene, false] : self::moved($align, $stencil, $scene, $guess, $own);
        $near = $align->nearer($x, $y, $motion, false, self::SHARE);
        $motion = $moves || hypot($near->x - $motion->x, $near->y - $motion->y) <= self::SCENE_OFF ? $near : $motion;
        if ($moves && count($x) >= self::TURNS && max($cuboid->size[0], $cuboid->size[1]) > 2 * self::MARGIN) {
            // what stands still is not turned: sides come into sight and go out of it, and nobody could tell that from a turn
            $turned = $align->nearer($x, $y, $motion, true, self::SHARE);
            $motion = abs($turned->turn - $guess->turn) > self::MOST_TURN ? $motion : $turned;
        }
        if ($moves) {
            $motion = self::alongSides($cuboid, $motion, $was, self::standingAs($cuboid, $motion->cuboid($cuboid), $was, $is), $is);
        }
        $certainty = $align->share($x, $y, $motion, self::ON);
        $found = self::standingAs($cuboid, $motion->cuboid($cuboid), $was, $is);
        $stood = $scene->cuboid($cuboid);
        $itself = [$found->center[0] - $stood->center[0], $found->center[1] - $stood->center[1], $motion->turn - $scene->turn];
        [$fx, $fy] = self::own($found, $is);
        if (! $moves) {
            // other sides of it may be seen than before: then what is seen must lie on its sides
            $certainty = max($certainty, self::onSides($found, $fx, $fy));
        }
        $unsure = match (true) {
            count($fx) < self::LEAST => 'there are too few points where it should be',
            $certainty < self::SURE => 'its points lie on nothing here',
            default => null,
        };

        return new self($found, round($certainty, 3), $unsure, $moves ? $itself : [0.0, 0.0, 0.0]);
    }

    /**
     * Where a cuboid is thought to be: moved with the scene, and by itself as it was before.
     *
     * @param  ?array{float, float, float}  $own
     */
    public static function guess(Cuboid $cuboid, Motion $scene, ?array $own): Motion
    {
        if ($own === null) {
            return $scene;
        }
        [$x, $y] = $scene->place($cuboid->center[0], $cuboid->center[1]);

        return $scene->then(new Motion(0.0, -$x, -$y))->then(new Motion($own[2], $x + $own[0], $y + $own[1]));
    }

    /**
     * @param  list<array{float, float, bool}>  $stencil
     * @param  ?array{float, float, float}  $own
     * @return array{Motion, bool} and whether it moves by itself
     */
    private static function moved(Align $align, array $stencil, Motion $scene, Motion $guess, ?array $own): array
    {
        $stands = $align->stencilled($stencil, $scene);
        $best = [-INF, $guess];
        $steps = (int) round(($own === null ? self::FIRST : self::NEXT) / self::CELL);
        for ($i = -$steps; $i <= $steps; $i++) {
            for ($j = -$steps; $j <= $steps; $j++) {
                $shifted = new Motion($guess->turn, $guess->x + $i * self::CELL, $guess->y + $j * self::CELL, $guess->z);
                // of two places as good it is the nearer one
                $fit = $align->stencilled($stencil, $shifted) - 0.05 * hypot($i, $j) * self::CELL;
                if ($fit > $best[0]) {
                    $best = [$fit, $shifted];
                }
            }
        }
        $far = hypot($best[1]->x - $scene->x, $best[1]->y - $scene->y);

        return $far < self::STILL + self::CELL || $best[0] < $stands + self::BETTER ? [$scene, false] : [$best[1], true];
    }

    /**
     * What is there and what is not, in a cuboid and around it, seen from above.
     *
     * @return list<array{float, float, bool}>
     */
    private static function stencil(Cuboid $cuboid, Near $near): array
    {
        [$x, $y] = self::slab($cuboid, $near);
        $is = [];
        foreach ($x as $i => $at) {
            $is[(int) floor($at / self::CELL) << 30 ^ (int) floor($y[$i] / self::CELL)] = true;
        }
        $half = hypot($cuboid->size[0], $cuboid->size[1]) / 2 + self::MARGIN;
        $wide = Cuboid::of($cuboid->center, [$cuboid->size[0] + 2 * self::MARGIN, $cuboid->size[1] + 2 * self::MARGIN, $cuboid->size[2]], $cuboid->heading);
        $stencil = [];
        $step = max(1, (int) ceil(sqrt($wide->size[0] * $wide->size[1] / self::CELL ** 2 / self::STENCIL)));
        for ($i = (int) floor(($cuboid->center[0] - $half) / self::CELL), $end = $i + (int) ceil(2 * $half / self::CELL) + 1; $i <= $end; $i += $step) {
            for ($j = (int) floor(($cuboid->center[1] - $half) / self::CELL), $last = $j + (int) ceil(2 * $half / self::CELL) + 1; $j <= $last; $j += $step) {
                [$u, $v] = [($i + 0.5) * self::CELL, ($j + 0.5) * self::CELL];
                if (! $wide->contains($u, $v, $cuboid->center[2])) {
                    continue;
                }
                // beside a place anything may be: cells are coarse
                $beside = false;
                for ($n = 0; $n < 9; $n++) {
                    $beside = $beside || isset($is[$i + intdiv($n, 3) - 1 << 30 ^ ($j + $n % 3 - 1)]);
                }
                if (isset($is[$i << 30 ^ $j]) || ! $beside) {
                    $stencil[] = [$u, $v, $beside];
                }
            }
        }

        return $stencil;
    }

    /** As high over the ground as it was, where there is ground at both. */
    private static function standingAs(Cuboid $was, Cuboid $is, Near $over, Near $now): Cuboid
    {
        [$a, $b] = [$over->floor(), $now->floor()];

        return $a === null || $b === null ? $is : Cuboid::of([$is->center[0], $is->center[1], $was->center[2] + $b - $a], $is->size, $is->heading);
    }

    /** Moved on until its points end where they ended in it: along a flat side nearest places do not tell. */
    private static function alongSides(Cuboid $cuboid, Motion $motion, Near $was, Cuboid $found, Near $is): Motion
    {
        $ends = static function (Cuboid $of, Near $near): ?array {
            [$x, $y] = self::own($of, $near);
            if (count($x) < self::TURNS) {
                return null;
            }
            [$c, $s] = [cos(deg2rad($of->heading)), sin(deg2rad($of->heading))];
            $u = $v = [];
            foreach ($x as $i => $at) {
                [$dx, $dy] = [$at - $of->center[0], $y[$i] - $of->center[1]];
                $u[] = $dx * $c + $dy * $s;
                $v[] = $dy * $c - $dx * $s;
            }
            sort($u);
            sort($v);
            $out = intdiv(count($u), 50);

            return [[$u[$out], $u[count($u) - 1 - $out]], [$v[$out], $v[count($v) - 1 - $out]]];
        };
        for ($round = 0; $round < 3; $round++) {
            [$a, $b] = [$ends($cuboid, $was), $ends($found, $is)];
            if ($a === null || $b === null) {
                break;
            }
            $by = [0.0, 0.0];
            foreach ([0, 1] as $axis) {
                [$low, $high] = [$b[$axis][0] - $a[$axis][0], $b[$axis][1] - $a[$axis][1]];
                // both ends say the same, or one of them is of something else
                $by[$axis] = abs($high - $low) <= 2 * self::ON ? ($low + $high) / 2 : 0.0;
            }
            if (hypot(...$by) > 2 * self::MARGIN || hypot(...$by) < 0.002) {
                break;
            }
            [$c, $s] = [cos(deg2rad($found->heading)), sin(deg2rad($found->heading))];
            $step = new Motion(0.0, $by[0] * $c - $by[1] * $s, $by[0] * $s + $by[1] * $c);
            [$motion, $found] = [$motion->then($step), $step->cuboid($found)];
        }

        return $motion;
    }

    /**
     * The share of places that lie on one of its four sides.
     *
     * @param  list<float>  $x
     * @param  list<float>  $y
     */
    private static function onSides(Cuboid $cuboid, array $x, array $y): float
    {
        [$c, $s] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
        $on = 0;
        foreach ($x as $i => $at) {
            [$dx, $dy] = [$at - $cuboid->center[0], $y[$i] - $cuboid->center[1]];
            $on += min(abs(abs($dx * $c + $dy * $s) - $cuboid->size[0] / 2), abs(abs($dy * $c - $dx * $s) - $cuboid->size[1] / 2)) <= self::ON ? 1 : 0;
        }

        return $x === [] ? 0.0 : $on / count($x);
    }

    /** @return array{list<float>, list<float>} places of the points in a cuboid, and just beside it, as many as are enough */
    private static function own(Cuboid $cuboid, Near $near): array
    {
        $wide = Cuboid::of($cuboid->center, array_map(static fn (float $side): float => $side + 2 * self::AROUND, $cuboid->size), $cuboid->heading);
        $which = [];
        foreach ($near->x as $i => $at) {
            if ($wide->contains($at, $near->y[$i], $near->z[$i])) {
                $which[] = $i;
            }
        }

        return self::upright($near, $which, self::POINTS);
    }

    /** @return array{list<float>, list<float>} places of the points that are as high as a cuboid is */
    private static function slab(Cuboid $cuboid, Near $near): array
    {
        [$low, $high] = [$cuboid->center[2] - $cuboid->size[2] / 2 - self::AROUND, $cuboid->center[2] + $cuboid->size[2] / 2 + self::AROUND];
        $which = [];
        foreach ($near->z as $i => $z) {
            if ($z >= $low && $z <= $high) {
                $which[] = $i;
            }
        }

        return self::upright($near, $which, 20 * self::POINTS);
    }

    /**
     * Those of sides that stand upright, if there are enough: rings of a scanner over what lies flat go with the scanner, not with what they lie on.
     *
     * @param  list<int>  $which
     * @return array{list<float>, list<float>}
     */
    private static function upright(Near $near, array $which, int $most): array
    {
        $ends = [];
        foreach ($which as $i) {
            $cell = (int) floor($near->x[$i] / self::CELL) << 30 ^ (int) floor($near->y[$i] / self::CELL);
            [$low, $high] = $ends[$cell] ?? [INF, -INF];
            $ends[$cell] = [min($low, $near->z[$i]), max($high, $near->z[$i])];
        }
        $x = $y = $allX = $allY = [];
        foreach ($which as $i) {
            [$low, $high] = $ends[(int) floor($near->x[$i] / self::CELL) << 30 ^ (int) floor($near->y[$i] / self::CELL)];
            if ($high - $low >= self::UPRIGHT) {
                $x[] = $near->x[$i];
                $y[] = $near->y[$i];
            }
            $allX[] = $near->x[$i];
            $allY[] = $near->y[$i];
        }

        return count($x) >= self::TURNS ? self::some($x, $y, $most) : self::some($allX, $allY, $most);
    }

    /**
     * @param  list<float>  $x
     * @param  list<float>  $y
     * @return array{list<float>, list<float>}
     */
    private static function some(array $x, array $y, int $most): array
    {
        $step = intdiv(count($x) - 1, $most) + 1;
        if ($step <= 1) {
            return [$x, $y];
        }
        $some = [[], []];
        for ($i = 0; $i < count($x); $i += $step) {
            $some[0][] = $x[$i];
            $some[1][] = $y[$i];
        }

        return $some;
    }
}
