<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

/** Connected parts of a mask, by union of the runs of neighbouring columns that touch. */
final class Components
{
    /** @var list<int> */
    private const NONE = [];

    /**
     * @param  bool  $diagonal  whether pixels that touch only at a corner are connected
     * @return list<Mask> in the order of their leftmost, then topmost pixel
     */
    public static function of(Mask $mask, bool $diagonal = false): array
    {
        /** @var list<array{int, int, int}> $runs column, from, to */
        $runs = [];
        $parent = [];
        $reach = $diagonal ? 1 : 0;
        /** @var list<int> $before runs of the column before */
        $before = [];
        $lastX = -2;
        foreach ($mask->columns() as $x => $rows) {
            $here = [];
            $n = count($rows);
            $j = 0;
            $previous = $x === $lastX + 1 ? $before : self::NONE;
            $m = count($previous);
            for ($i = 0; $i < $n; $i += 2) {
                $run = count($runs);
                $runs[] = [$x, $rows[$i], $rows[$i + 1]];
                $parent[$run] = $run;
                $here[] = $run;
                // the run before may reach on beside this one too, so the last partner is looked at again
                while ($j > 0 && $runs[$previous[$j - 1]][2] + $reach > $rows[$i]) {
                    $j--;
                }
                while ($j < $m && $runs[$previous[$j]][1] < $rows[$i + 1] + $reach) {
                    if ($runs[$previous[$j]][2] + $reach > $rows[$i]) {
                        $a = self::root($parent, $previous[$j]);
                        $b = self::root($parent, $run);
                        $parent[max($a, $b)] = min($a, $b);
                    }
                    $j++;
                }
            }
            $before = $here;
            $lastX = $x;
        }
        $columns = [];
        foreach ($runs as $run => [$x, $from, $to]) {
            $root = self::root($parent, $run);
            $columns[$root][$x][] = $from;
            $columns[$root][$x][] = $to;
        }

        return array_map(static fn (array $part): Mask => Mask::ofColumns($mask->width, $mask->height, $part), array_values($columns));
    }

    /** @param  array<int, int>  $parent */
    private static function root(array &$parent, int $run): int
    {
        while ($parent[$run] !== $run) {
            $run = $parent[$run] = $parent[$parent[$run]];
        }

        return $run;
    }
}
