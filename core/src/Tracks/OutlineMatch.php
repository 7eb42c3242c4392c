<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;

/**
 * Which point of one outline goes to which point of another, when they do not have the same number of them. Points that are at about the same place
 * of both (once they lie on each other by their centres) belong together; what is between two such pairs is told by its share of the way along the
 * outline. So a point that was set between two others grows out of the line between them, and what did not move stays.
 *
 * Method: alignment of two sequences with gaps (S. B. Needleman, C. D. Wunsch, 1970), the squared distance as the cost of a pair.
 */
final class OutlineMatch
{
    /** Points by which two rings are turned onto each other. */
    private const SAMPLES = 96;

    /** Pairs looked at; outlines with more points are told by shares of the way alone. */
    private const MOST_PAIRS = 250_000;

    /** Share of their extent by which points of a pair may lie apart. */
    private const REACH = 0.125;

    /**
     * @param  list<float>  $a  a ring, flat, three points or more
     * @param  list<float>  $b
     * @param  bool  $all  points of both; else only the first's
     * @return array{list<float>, list<float>} equally long: point by point from where to where
     */
    public static function closed(array $a, array $b, bool $all = true): array
    {
        if (Coordinates::signedArea($a) * Coordinates::signedArea($b) < 0) {
            $b = self::reversed($b);
        }
        [$n, $m] = [intdiv(count($a), 2), intdiv(count($b), 2)];
        $way = self::way(self::center($a), self::center($b));
        $reach = self::reach($a, $b);
        if ($n === $m && self::apart($a, $b, $way) <= $reach) {
            return [$a, $b];
        }
        [$i, $j] = self::start($a, $b, $way);
        $a = self::from($a, $i);
        $b = self::from($b, $j);
        $pairs = $n * $m <= self::MOST_PAIRS ? self::pairs($a, $b, $way, $reach) : [[0, 0]];

        return self::along([...$a, $a[0], $a[1]], [...$b, $b[0], $b[1]], [...$pairs, [$n, $m]], $all, true);
    }

    /**
     * @param  list<float>  $a  a line, flat, two points or more
     * @param  list<float>  $b
     * @return array{list<float>, list<float>} equally long: point by point from where to where
     */
    public static function open(array $a, array $b): array
    {
        $way = self::way(self::mean($a), self::mean($b));
        $turned = self::reversed($b);
        // drawn from the other end: then it lies much better the other way round
        if (self::apart(self::sampled($a, false), self::sampled($turned, false), $way) < 0.25 * self::apart(self::sampled($a, false), self::sampled($b, false), $way)) {
            $b = $turned;
        }
        [$n, $m] = [intdiv(count($a), 2), intdiv(count($b), 2)];
        $reach = self::reach($a, $b);
        if ($n === $m && self::apart($a, $b, $way) <= $reach) {
            return [$a, $b];
        }
        $pairs = $n * $m <= self::MOST_PAIRS ? self::pairs($a, $b, $way, $reach) : [[0, 0]];
        // ends go to ends
        $pairs = array_values(array_filter($pairs, static fn (array $pair): bool => $pair[0] < $n - 1 && $pair[1] < $m - 1));

        return self::along($a, $b, [...$pairs, [$n - 1, $m - 1]], $n + $m <= Coordinates::MOST, false);
    }

    /**
     * @param  list<float>  $ring
     * @return array{float, float} centre of the area; of the points where there is none
     */
    public static function center(array $ring): array
    {
        $area = Coordinates::signedArea($ring);
        [$mx, $my] = self::mean($ring);
        if (abs($area) < 1e-9) {
            return [$mx, $my];
        }
        $x = $y = 0.0;
        $n = count($ring);
        for ($i = 0; $i < $n; $i += 2) {
            $j = $i + 2 < $n ? $i + 2 : 0;
            // about the mean, so that far from the corner of the picture no digits are lost
            [$px, $py, $qx, $qy] = [$ring[$i] - $mx, $ring[$i + 1] - $my, $ring[$j] - $mx, $ring[$j + 1] - $my];
            $cross = $px * $qy - $qx * $py;
            $x += ($px + $qx) * $cross;
            $y += ($py + $qy) * $cross;
        }

        return [$mx + $x / (6 * $area), $my + $y / (6 * $area)];
    }

    /**
     * @param  list<float>  $points
     * @return array{float, float}
     */
    private static function mean(array $points): array
    {
        $x = $y = 0.0;
        $n = count($points);
        for ($i = 0; $i < $n; $i += 2) {
            $x += $points[$i];
            $y += $points[$i + 1];
        }

        return [2 * $x / $n, 2 * $y / $n];
    }

    /**
     * @param  array{float, float}  $from
     * @param  array{float, float}  $to
     * @return array{float, float}
     */
    private static function way(array $from, array $to): array
    {
        return [$to[0] - $from[0], $to[1] - $from[1]];
    }

    /**
     * @param  list<float>  $points
     * @return list<float> the same outline the other way round
     */
    private static function reversed(array $points): array
    {
        $turned = [];
        for ($i = count($points) - 2; $i >= 0; $i -= 2) {
            array_push($turned, $points[$i], $points[$i + 1]);
        }

        return $turned;
    }

    /**
     * @param  list<float>  $ring
     * @return list<float> beginning with its k-th point
     */
    private static function from(array $ring, int $k): array
    {
        return [...array_slice($ring, 2 * $k), ...array_slice($ring, 0, 2 * $k)];
    }

    /**
     * How far pairs may lie apart, squared, px².
     *
     * @param  list<float>  $a
     * @param  list<float>  $b
     */
    private static function reach(array $a, array $b): float
    {
        $diagonal = static fn (Box $box): float => hypot($box->width, $box->height);

        return (self::REACH * max($diagonal(Coordinates::bounds($a)), $diagonal(Coordinates::bounds($b)))) ** 2;
    }

    /**
     * Mean squared distance of points with the same number, the second outline laid upon the first.
     *
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @param  array{float, float}  $way
     */
    private static function apart(array $a, array $b, array $way, int $turned = 0): float
    {
        $sum = 0.0;
        $n = count($a);
        $at = 2 * $turned;
        for ($i = 0; $i < $n; $i += 2, $at += 2) {
            if ($at >= $n) {
                $at -= $n;
            }
            $dx = $b[$at] - $way[0] - $a[$i];
            $dy = $b[$at + 1] - $way[1] - $a[$i + 1];
            $sum += $dx * $dx + $dy * $dy;
        }

        return 2 * $sum / $n;
    }

    /**
     * The pair of points both rings are cut open at: the nearest of those that lie about where one ring, turned onto the other, has the other's.
     *
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @param  array{float, float}  $way
     * @return array{int, int}
     */
    private static function start(array $a, array $b, array $way): array
    {
        [$of, $to] = [self::sampled($a, true), self::sampled($b, true)];
        [$least, $turn] = [INF, 0];
        for ($k = 0; $k < self::SAMPLES; $k++) {
            $apart = self::apart($of, $to, $way, $k);
            if ($apart < $least) {
                [$least, $turn] = [$apart, $k];
            }
        }
        [$ua, $ub] = [self::shares($a, true), self::shares($b, true)];
        [$n, $m] = [count($ua) - 1, count($ub) - 1];
        $few = $n * $m <= self::MOST_PAIRS ? $n : 1;
        [$least, $pair] = [INF, [0, 0]];
        for ($i = 0; $i < $few; $i++) {
            for ($j = 0; $j < $m; $j++) {
                $off = $ub[$j] - $ua[$i] - $turn / self::SAMPLES;
                $off -= round($off);
                $dx = $b[2 * $j] - $way[0] - $a[2 * $i];
                $dy = $b[2 * $j + 1] - $way[1] - $a[2 * $i + 1];
                // what lies elsewhere on the ring comes after all that lies near its place
                $cost = $dx * $dx + $dy * $dy + (abs($off) > 0.1 ? 1e15 * abs($off) : 0.0);
                if ($cost < $least) {
                    [$least, $pair] = [$cost, [$i, $j]];
                }
            }
        }

        return $pair;
    }

    /**
     * Points evenly along an outline.
     *
     * @param  list<float>  $points
     * @return list<float>
     */
    private static function sampled(array $points, bool $closed): array
    {
        $shares = self::shares($points, $closed);
        $path = $closed ? [...$points, $points[0], $points[1]] : $points;
        $sampled = [];
        $i = 0;
        $last = count($shares) - 2;
        for ($k = 0; $k < self::SAMPLES; $k++) {
            $u = $k / ($closed ? self::SAMPLES : self::SAMPLES - 1);
            while ($i < $last && $shares[$i + 1] < $u) {
                $i++;
            }
            array_push($sampled, ...self::point($path, $shares, $i, $u));
        }

        return $sampled;
    }

    /**
     * @param  list<float>  $points
     * @return list<float> for each point the share of the outline's length that lies before it; a ring's first again at the end, as 1
     */
    private static function shares(array $points, bool $closed): array
    {
        $path = $closed ? [...$points, $points[0], $points[1]] : $points;
        $at = 0.0;
        $lengths = [0.0];
        for ($i = 2; $i < count($path); $i += 2) {
            $lengths[] = $at += hypot($path[$i] - $path[$i - 2], $path[$i + 1] - $path[$i - 1]);
        }
        $steps = count($lengths) - 1;

        // of no length: all points are told by their number
        return $at > 0 ? array_map(static fn (float $length): float => $length / $at, $lengths) : array_map(static fn (int $i): float => $i / $steps, array_keys($lengths));
    }

    /**
     * @param  list<float>  $path
     * @param  list<float>  $shares
     * @return array{float, float} at a share between the i-th point and the next
     */
    private static function point(array $path, array $shares, int $i, float $u): array
    {
        $span = $shares[$i + 1] - $shares[$i];
        $part = $span > 0 ? min(1.0, max(0.0, ($u - $shares[$i]) / $span)) : 0.0;

        return [$path[2 * $i] + $part * ($path[2 * $i + 2] - $path[2 * $i]), $path[2 * $i + 1] + $part * ($path[2 * $i + 3] - $path[2 * $i + 1])];
    }

    /**
     * Points that belong together, the first of each to begin with.
     *
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @param  array{float, float}  $way
     * @param  float  $reach  px²
     * @return non-empty-list<array{int, int}> rising in both
     */
    private static function pairs(array $a, array $b, array $way, float $reach): array
    {
        [$n, $m] = [intdiv(count($a), 2), intdiv(count($b), 2)];
        $alone = $reach / 2;
        $above = [];
        for ($j = 0; $j < $m; $j++) {
            $above[] = $j * $alone;
        }
        // from where each was reached best: b both, a the first alone, c the second alone
        $came = [''];
        for ($i = 1; $i < $n; $i++) {
            $row = [$i * $alone];
            $from = 'a';
            for ($j = 1; $j < $m; $j++) {
                $dx = $b[2 * $j] - $way[0] - $a[2 * $i];
                $dy = $b[2 * $j + 1] - $way[1] - $a[2 * $i + 1];
                $both = $above[$j - 1] + $dx * $dx + $dy * $dy;
                $first = $above[$j] + $alone;
                $second = $row[$j - 1] + $alone;
                if ($both <= $first && $both <= $second) {
                    $row[] = $both;
                    $from .= 'b';
                } elseif ($first <= $second) {
                    $row[] = $first;
                    $from .= 'a';
                } else {
                    $row[] = $second;
                    $from .= 'c';
                }
            }
            $came[] = $from;
            $above = $row;
        }
        $pairs = [];
        for ([$i, $j] = [$n - 1, $m - 1]; $i > 0 && $j > 0;) {
            $from = substr($came[$i], $j, 1);
            if ($from === 'b') {
                $pairs[] = [$i, $j];
            }
            $i -= $from === 'c' ? 0 : 1;
            $j -= $from === 'a' ? 0 : 1;
        }

        return [[0, 0], ...array_reverse($pairs)];
    }

    /**
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @param  non-empty-list<array{int, int}>  $pairs  the last point of each is the last pair
     * @param  bool  $all  points of both; else only the first's
     * @param  bool  $closed  the last pair is the first again, and left out
     * @return array{list<float>, list<float>}
     */
    private static function along(array $a, array $b, array $pairs, bool $all, bool $closed): array
    {
        $from = $to = [];
        for ($k = 0; $k + 1 < count($pairs); $k++) {
            [$i0, $j0] = $pairs[$k];
            [$i1, $j1] = $pairs[$k + 1];
            $one = array_slice($a, 2 * $i0, 2 * ($i1 - $i0 + 1));
            $two = array_slice($b, 2 * $j0, 2 * ($j1 - $j0 + 1));
            [$ua, $ub] = [self::shares($one, false), self::shares($two, false)];
            array_push($from, $one[0], $one[1]);
            array_push($to, $two[0], $two[1]);
            [$i, $j] = [1, 1];
            [$n, $m] = [count($ua) - 1, count($ub) - 1];
            while ($i < $n || ($all && $j < $m)) {
                $u = min($i < $n ? $ua[$i] : 2.0, $all && $j < $m ? $ub[$j] : 2.0);
                $own = $i < $n && $ua[$i] - $u < 1e-9;
                $its = $j < $m && $ub[$j] - $u < 1e-9;
                if (! $all) {
                    // the other's points are passed over up to here
                    while ($j < $m && $ub[$j] <= $u) {
                        $j++;
                    }
                }
                array_push($from, ...($own ? [$one[2 * $i], $one[2 * $i + 1]] : self::point($one, $ua, $i - 1, $u)));
                array_push($to, ...($its && $all ? [$two[2 * $j], $two[2 * $j + 1]] : self::point($two, $ub, $j - 1, $u)));
                $i += $own ? 1 : 0;
                $j += $its && $all ? 1 : 0;
            }
        }
        if (! $closed) {
            [$i, $j] = $pairs[count($pairs) - 1];
            array_push($from, $a[2 * $i], $a[2 * $i + 1]);
            array_push($to, $b[2 * $j], $b[2 * $j + 1]);
        }

        return [$from, $to];
    }
}
