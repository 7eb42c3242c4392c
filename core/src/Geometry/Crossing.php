<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * Finds two edges that cross each other properly: each has its ends on both sides of the other. By a sweep along x over the edges'
 * extents (as in sort-and-sweep collision finding); edges that only touch do not cross.
 */
final class Crossing
{
    /**
     * @param  list<list<float>>  $rings
     * @return ?array{float, float} where the first crossing found lies
     */
    public static function first(array $rings): ?array
    {
        $ax = $ay = $bx = $by = $top = $bottom = [];
        foreach ($rings as $ring) {
            $n = count($ring);
            for ($i = 0; $i < $n; $i += 2) {
                $j = $i + 2 < $n ? $i + 2 : 0;
                // from left to right, so that the sweep needs no other bounds
                $swap = $ring[$j] < $ring[$i];
                $ax[] = $ring[$swap ? $j : $i];
                $ay[] = $ring[($swap ? $j : $i) + 1];
                $bx[] = $ring[$swap ? $i : $j];
                $by[] = $ring[($swap ? $i : $j) + 1];
                $top[] = min($ring[$i + 1], $ring[$j + 1]);
                $bottom[] = max($ring[$i + 1], $ring[$j + 1]);
            }
        }
        $order = array_keys($ax);
        usort($order, static fn (int $a, int $b): int => $ax[$a] <=> $ax[$b]);
        /** @var list<int> $active */
        $active = [];
        foreach ($order as $e) {
            $kept = [];
            $x1 = $ax[$e];
            $y1 = $ay[$e];
            $x2 = $bx[$e];
            $y2 = $by[$e];
            foreach ($active as $f) {
                if ($bx[$f] < $x1) {
                    continue;
                }
                $kept[] = $f;
                if ($top[$f] > $bottom[$e] || $bottom[$f] < $top[$e]) {
                    continue;
                }
                $x3 = $ax[$f];
                $y3 = $ay[$f];
                $x4 = $bx[$f];
                $y4 = $by[$f];
                $d1 = ($x2 - $x1) * ($y3 - $y1) - ($y2 - $y1) * ($x3 - $x1);
                $d2 = ($x2 - $x1) * ($y4 - $y1) - ($y2 - $y1) * ($x4 - $x1);
                if (! (($d1 > 0.0 && $d2 < 0.0) || ($d1 < 0.0 && $d2 > 0.0))) {
                    continue;
                }
                $d3 = ($x4 - $x3) * ($y1 - $y3) - ($y4 - $y3) * ($x1 - $x3);
                $d4 = ($x4 - $x3) * ($y2 - $y3) - ($y4 - $y3) * ($x2 - $x3);
                // a share of 1e-9 of the longer edge is what rounding of ends that lie on the edge leaves
                $slack = 1e-9 * (abs($x4 - $x3) + abs($y4 - $y3) + abs($x2 - $x1) + abs($y2 - $y1));
                if ((($d3 > 0.0 && $d4 < 0.0) || ($d3 < 0.0 && $d4 > 0.0)) && min(abs($d1), abs($d2), abs($d3), abs($d4)) > $slack) {
                    $t = $d3 / ($d3 - $d4);

                    return [$x1 + $t * ($x2 - $x1), $y1 + $t * ($y2 - $y1)];
                }
            }
            $kept[] = $e;
            $active = $kept;
        }

        return null;
    }
}
