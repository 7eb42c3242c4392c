<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

/**
 * Several rings said as one: holes and parts are joined by a seam, an edge walked there and back, which covers no area. Reading undoes it:
 * an edge walked both ways parts a ring in two.
 */
final class Seam
{
    /**
     * @param  non-empty-list<list<float>>  $rings
     * @return list<float> one ring
     */
    public static function join(array $rings): array
    {
        $joined = array_shift($rings);
        while ($rings !== []) {
            $best = INF;
            [$ring, $at, $from] = [0, 0, 0];
            foreach ($rings as $r => $candidate) {
                for ($i = 0; $i < count($joined); $i += 2) {
                    for ($j = 0; $j < count($candidate); $j += 2) {
                        $distance = ($joined[$i] - $candidate[$j]) ** 2 + ($joined[$i + 1] - $candidate[$j + 1]) ** 2;
                        if ($distance < $best) {
                            [$best, $ring, $at, $from] = [$distance, $r, $i, $j];
                        }
                    }
                }
            }
            [$part] = array_splice($rings, $ring, 1);
            // there, once round, back to where the seam began
            $around = [...array_slice($part, $from), ...array_slice($part, 0, $from), $part[$from], $part[$from + 1], $joined[$at], $joined[$at + 1]];
            array_splice($joined, $at + 2, 0, $around);
        }

        return $joined;
    }

    /**
     * @param  list<float>  $ring
     * @return list<list<float>> rings of three points or more
     */
    public static function part(array $ring): array
    {
        $points = array_map(static fn (array $point): string => "{$point[0]} {$point[1]}", array_chunk($ring, 2));
        $stack = [range(0, count($points) - 1)];
        $rings = [];
        while ($stack !== []) {
            /** @var list<int> $loop */
            $loop = array_pop($stack);
            $n = count($loop);
            $edges = [];
            $cut = null;
            for ($i = 0; $i < $n && $cut === null; $i++) {
                [$a, $b] = [$points[$loop[$i]], $points[$loop[($i + 1) % $n]]];
                if ($a === $b) {
                    // a point said twice in a row is one
                    $stack[] = array_values(array_diff_key($loop, [$i => true]));

                    continue 2;
                }
                if (isset($edges["{$b}|{$a}"])) {
                    $cut = [$edges["{$b}|{$a}"], $i];
                }
                $edges["{$a}|{$b}"] = $i;
            }
            if ($cut === null) {
                if ($n >= 3) {
                    $rings[] = array_merge(...array_map(static fn (int $i): array => [$ring[2 * $i], $ring[2 * $i + 1]], $loop));
                }

                continue;
            }
            // edge i goes there, edge k comes back: what lies between is one loop, the rest another
            [$i, $k] = $cut;
            $inner = array_slice($loop, $i + 1, $k - $i - 1);
            $outer = [...array_slice($loop, 0, $i), ...array_slice($loop, $k + 1)];
            foreach ([$inner, $outer] as $half) {
                if ($half !== []) {
                    $stack[] = $half;
                }
            }
        }

        return array_reverse($rings);
    }
}
