<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

/**
 * The exact outlines of a mask along its pixels' edges. Scan conversion of them gives the same pixels back. A corner where two pixels
 * touch only diagonally separates them (they are two parts there).
 *
 * Method: every change between neighbouring columns is a vertical edge with a direction (pixels on its right hand); in every row of corners
 * these ends, sorted by x, pair up into the horizontal edges, as a rectilinear outline is given by its corners alone.
 */
final class Contours
{
    /**
     * @return list<list<float>> rings, flat x, y, …: outer ones clockwise on the screen, holes the other way; corners only; in the
     *                           order of their leftmost, then topmost edge
     */
    public static function rings(Mask $mask): array
    {
        $columns = $mask->columns();
        /** @var list<int> $xs column border of each vertical edge */
        $xs = $starts = $ends = [];
        /** @var array<int, list<int>> $corners by row: x, whether upward, edge, whether its end, packed to sort in this order */
        $corners = [];
        $borders = [];
        foreach (array_keys($columns) as $x) {
            $borders[$x] = $borders[$x + 1] = true;
        }
        ksort($borders);
        foreach (array_keys($borders) as $x) {
            foreach (self::changes($columns[$x - 1] ?? [], $columns[$x] ?? []) as [$from, $to, $up]) {
                $edge = count($xs);
                $xs[] = $x;
                $starts[] = $up ? $to : $from;
                $ends[] = $up ? $from : $to;
                $key = ($x * 2 + ($up ? 1 : 0)) << 31 | $edge << 1;
                $corners[$up ? $to : $from][] = $key;
                $corners[$up ? $from : $to][] = $key | 1;
            }
        }
        $next = [];
        foreach ($corners as $row) {
            sort($row);
            $n = count($row);
            for ($i = 0; $i < $n; $i += 2) {
                $a = $row[$i] >> 1 & 0x3FFFFFFF;
                $b = $row[$i + 1] >> 1 & 0x3FFFFFFF;
                ($row[$i] & 1) === 1 ? $next[$a] = $b : $next[$b] = $a;
            }
        }
        $rings = [];
        $seen = [];
        foreach (array_keys($xs) as $first) {
            $ring = [];
            for ($edge = $first; ! isset($seen[$edge]); $edge = $next[$edge]) {
                $seen[$edge] = true;
                $x = (float) $xs[$edge];
                array_push($ring, $x, (float) $starts[$edge], $x, (float) $ends[$edge]);
            }
            if ($ring !== []) {
                $rings[] = $ring;
            }
        }

        return $rings;
    }

    /**
     * @param  list<int>  $left  runs of the column on the left
     * @param  list<int>  $right
     * @return list<array{int, int, bool}> rows from and to where only one side has pixels; true: the right one (the edge runs upward)
     */
    private static function changes(array $left, array $right): array
    {
        $changes = [];
        $left[] = $right[] = PHP_INT_MAX;
        $i = $j = 0;
        $state = 0;
        $since = 0;
        while (($at = $left[$i] < $right[$j] ? $left[$i] : $right[$j]) !== PHP_INT_MAX) {
            if ($state === 1 || $state === 2) {
                $changes[] = [$since, $at, $state === 2];
            }
            if ($left[$i] === $at) {
                $state ^= 1;
                $i++;
            }
            if ($right[$j] === $at) {
                $state ^= 2;
                $j++;
            }
            $since = $at;
        }

        return $changes;
    }
}
