<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * Finds two edges that cross each other properly: each has its ends on both sides of the other; edges that only touch do not cross.
 *
 * By a line sweeping over the edges (M. I. Shamos, D. Hoey, "Geometric intersection problems", 1976): two edges that cross stand next to each
 * other on the line before they do, so only neighbours are looked at, n log n for n edges. The plane is turned by an odd angle first, so
 * that edges of drawn outlines, which like to be upright, are not parallel to the line.
 */
final class Crossing
{
    /** Radians. */
    private const ANGLE = 0.7310585786;

    /**
     * @param  list<list<float>>  $rings
     * @return ?array{float, float} where the first crossing found lies
     */
    public static function first(array $rings): ?array
    {
        [$cos, $sin] = [cos(self::ANGLE), sin(self::ANGLE)];
        $edges = $turned = $events = [];
        foreach ($rings as $ring) {
            $n = count($ring);
            for ($i = 0; $i < $n; $i += 2) {
                $j = $i + 2 < $n ? $i + 2 : 0;
                [$ax, $ay, $bx, $by] = [$ring[$i], $ring[$i + 1], $ring[$j], $ring[$j + 1]];
                if ($ax === $bx && $ay === $by) {
                    continue;
                }
                $a = [$ax * $cos - $ay * $sin, $ax * $sin + $ay * $cos];
                $b = [$bx * $cos - $by * $sin, $bx * $sin + $by * $cos];
                $edges[] = [$ax, $ay, $bx, $by];
                $turned[] = $a <= $b ? [...$a, ...$b] : [...$b, ...$a];
            }
        }
        foreach ($turned as $e => [$x1, $y1, $x2, $y2]) {
            // where edges end and begin at one point, those that end go first
            $events[] = [$x1, 1, $y1, $e];
            $events[] = [$x2, 0, $y2, $e];
        }
        sort($events);
        $line = new SweepLine(static function (int $e, int $f) use ($turned): int {
            [$x, $y, $ex, $ey] = $turned[$e];
            [$x1, $y1, $x2, $y2] = $turned[$f];
            $cross = ($x2 - $x1) * ($y - $y1) - ($y2 - $y1) * ($x - $x1);
            $slack = 1e-9 * (abs($x2 - $x1) + abs($y2 - $y1));
            if ($cross > $slack || $cross < -$slack) {
                return $cross > 0 ? 1 : -1;
            }

            // it begins on the other: where it goes from there decides
            return ($x2 - $x1) * ($ey - $y) - ($y2 - $y1) * ($ex - $x) <=> 0.0;
        });
        foreach ($events as [, $begins, , $e]) {
            if ($begins === 1) {
                [$before, $after] = $line->put($e);
                foreach ([$before, $after] as $f) {
                    if ($f !== null && ($at = self::at($edges[$e], $edges[$f])) !== null) {
                        return $at;
                    }
                }
            } else {
                [$before, $after] = $line->take($e);
                if ($before !== null && $after !== null && ($at = self::at($edges[$before], $edges[$after])) !== null) {
                    return $at;
                }
            }
        }

        return null;
    }

    /**
     * Where two edges cross properly.
     *
     * @param  array{float, float, float, float}  $e
     * @param  array{float, float, float, float}  $f
     * @return ?array{float, float}
     */
    private static function at(array $e, array $f): ?array
    {
        [$x1, $y1, $x2, $y2] = $e;
        [$x3, $y3, $x4, $y4] = $f;
        $d1 = ($x2 - $x1) * ($y3 - $y1) - ($y2 - $y1) * ($x3 - $x1);
        $d2 = ($x2 - $x1) * ($y4 - $y1) - ($y2 - $y1) * ($x4 - $x1);
        if (! (($d1 > 0.0 && $d2 < 0.0) || ($d1 < 0.0 && $d2 > 0.0))) {
            return null;
        }
        $d3 = ($x4 - $x3) * ($y1 - $y3) - ($y4 - $y3) * ($x1 - $x3);
        $d4 = ($x4 - $x3) * ($y2 - $y3) - ($y4 - $y3) * ($x2 - $x3);
        // a share of 1e-9 of the longer edge is what rounding of ends that lie on the edge leaves
        $slack = 1e-9 * (abs($x4 - $x3) + abs($y4 - $y3) + abs($x2 - $x1) + abs($y2 - $y1));
        if (! (($d3 > 0.0 && $d4 < 0.0) || ($d3 < 0.0 && $d4 > 0.0)) || min(abs($d1), abs($d2), abs($d3), abs($d4)) <= $slack) {
            return null;
        }
        $t = $d3 / ($d3 - $d4);

        return [$x1 + $t * ($x2 - $x1), $y1 + $t * ($y2 - $y1)];
    }
}
