<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/**
 * Parts what two maps say into single things: one says what is inside of something, the other how deep inside. Each top of the second is the
 * seed of a thing, which is flooded downwards from there (a watershed, after Vincent and Soille, 1991), so that things that touch are parted.
 */
final class Spots
{
    /**
     * @param  array<int, float>  $inside  0 to 1, row by row
     * @param  array<int, float>  $deep  0 to 1, the same pixels
     * @param  float  $from  what is inside from which on pixels are looked at
     * @param  float  $rise  by how much a top must stand above the saddle to a higher one to be a thing of its own
     * @return list<list<int>> of each thing its pixels
     */
    public static function of(array $inside, array $deep, int $width, float $from, float $rise): array
    {
        $order = [];
        foreach ($inside as $i => $p) {
            if ($p >= $from) {
                $order[$i] = $deep[$i];
            }
        }
        arsort($order);
        /** @var array<int, int> $of thing by pixel */
        $of = [];
        /** @var array<int, int> $parent of each thing the one it went up in */
        $parent = [];
        /** @var array<int, float> $top */
        $top = [];
        foreach ($order as $i => $here) {
            $x = $i % $width;
            $own = -1;
            $nearest = -1.0;
            $others = [];
            foreach ([$x > 0 ? $i - 1 : -1, $x + 1 < $width ? $i + 1 : -1, $i - $width, $i + $width] as $to) {
                if (isset($of[$to])) {
                    $thing = self::root($parent, $of[$to]);
                    $others[$thing] = true;
                    if ($deep[$to] > $nearest) {
                        [$own, $nearest] = [$thing, $deep[$to]];
                    }
                }
            }
            if ($own < 0) {
                $own = count($parent);
                $parent[$own] = $own;
                $top[$own] = $here;
            }
            foreach ($others as $other => $_) {
                if ($other === $own) {
                    continue;
                }
                [$high, $low] = $top[$own] >= $top[$other] ? [$own, $other] : [$other, $own];
                if ($rise > $top[$low] - $here) {
                    $parent[$low] = $high;
                    $own = $high;
                }
            }
            $of[$i] = $own;
        }
        $things = [];
        foreach ($of as $i => $thing) {
            $things[self::root($parent, $thing)][] = $i;
        }

        return array_values($things);
    }

    /** @param  array<int, int>  $parent */
    private static function root(array &$parent, int $thing): int
    {
        while ($parent[$thing] !== $thing) {
            $thing = $parent[$thing] = $parent[$parent[$thing]];
        }

        return $thing;
    }
}
