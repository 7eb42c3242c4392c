<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;

/**
 * Few keys for what was seen at every place: those that are needed so that what is worked out between them stays close to it. A hand that puts one
 * right afterwards has few others to move.
 *
 * Method: as lines are made plain (D. H. Douglas, T. K. Peucker, 1973), with what lies between two keys in place of a straight line.
 */
final class Thinning
{
    /** How far what is worked out may be from what was seen: px, or a share of its extent where that is more. */
    public const PX = 1.0;

    public const SHARE = 0.02;

    /** Places looked at together to begin with, so that the work does not grow with the square of the places. */
    public const LONGEST = 300;

    /**
     * @param  array<int, Flat>  $seen  by place, in order, each after the one before
     * @return list<int> places of the keys, the first and the last among them
     */
    public static function places(array $seen, float $px = self::PX, float $share = self::SHARE): array
    {
        $all = array_keys($seen);
        $last = count($all) - 1;
        if ($last < 1) {
            return $all;
        }
        $keep = [];
        for ($i = 0; $i <= $last; $i += self::LONGEST) {
            $keep[$i] = true;
        }
        $keep[$last] = true;
        $borders = array_keys($keep);
        $parts = [];
        foreach (array_slice($borders, 1) as $i => $end) {
            $parts[] = [$borders[$i], $end];
        }
        while ($parts !== []) {
            [$from, $to] = array_pop($parts);
            $worst = self::worst($seen, $all, $from, $to, $px, $share);
            if ($worst !== null) {
                $keep[$worst] = true;
                array_push($parts, [$from, $worst], [$worst, $to]);
            }
        }
        ksort($keep);
        // those that only stood at a border are not needed; of neighbours every other one is tried, so that each round costs no more than the last
        do {
            $kept = array_keys($keep);
            for ($k = 1; $k < count($kept) - 1; $k++) {
                if ($kept[$k] % self::LONGEST === 0 && self::worst($seen, $all, $kept[$k - 1], $kept[$k + 1], $px, $share) === null) {
                    unset($keep[$kept[$k]]);
                    $k++;
                }
            }
        } while (count($keep) < count($kept));

        return array_map(static fn (int $i): int => $all[$i], array_keys($keep));
    }

    /** How far what is worked out may be from what a file says, in px, to be the same: what writing with three digits makes. */
    private const SAME = 0.002;

    /**
     * Of keys at every place those that say the same: in each run of places one after the other, all hidden or all not.
     *
     * @param  list<Key>  $keys  in order, with shapes on a plane, or cuboids, and nothing else to say
     * @return list<Key>
     */
    public static function same(array $keys): array
    {
        $kept = $run = [];
        foreach ($keys as $i => $key) {
            $run[$key->place] = $key;
            $next = $keys[$i + 1] ?? null;
            if ($next === null || $next->place !== $key->place + 1 || $next->hidden !== $key->hidden || $next->answers !== $key->answers) {
                $shapes = array_map(static fn (Key $key): ?Geometry => $key->geometry, $run);
                $seen = array_filter($shapes, static fn (?Geometry $shape): bool => $shape instanceof Flat);
                $cuboids = array_filter($shapes, static fn (?Geometry $shape): bool => $shape instanceof Cuboid);
                $places = match (count($run)) {
                    count($seen) => self::places($seen, self::SAME, 0.0),
                    count($cuboids) => self::cuboids($cuboids),
                    default => array_keys($run),
                };
                foreach ($places as $place) {
                    $kept[] = $run[$place];
                }
                $run = [];
            }
        }

        return $kept;
    }

    /** Metres by which what is worked out of a cuboid may be off from where it was found, and how many of them a degree is. */
    private const METRES = 0.06;

    private const DEGREE = 0.03;

    /**
     * Which of what was found on many places have to be keys.
     *
     * @param  array<int, Geometry>  $seen  by place, in order
     * @return ?list<int> null: they can't be told from each other, being neither shapes on a plane nor cuboids
     */
    public static function followed(array $seen): ?array
    {
        $flat = array_filter($seen, static fn (Geometry $shape): bool => $shape instanceof Flat);
        if (count($flat) === count($seen)) {
            return self::places($flat);
        }
        $cuboids = array_filter($seen, static fn (Geometry $shape): bool => $shape instanceof Cuboid);

        return $cuboids !== [] && count($cuboids) === count($seen) ? self::cuboids($cuboids, self::METRES, self::DEGREE) : null;
    }

    /**
     * Of cuboids at places those between which the others lie.
     *
     * @param  non-empty-array<int, Cuboid>  $seen
     * @param  float  $off  by how much they may be off, in metres
     * @param  float  $degree  metres a degree counts as
     * @return list<int>
     */
    private static function cuboids(array $seen, float $off = self::SAME, float $degree = 1.0): array
    {
        $all = array_keys($seen);
        $last = count($all) - 1;
        $keep = [];
        $parts = [];
        // long runs are gone through in pieces, so that it takes no time that grows with their square
        for ($from = 0; $from === 0 || $from < $last; $from += self::LONGEST) {
            $to = min($last, $from + self::LONGEST);
            $keep[$all[$from]] = $keep[$all[$to]] = true;
            $parts[] = [$from, $to];
        }
        while ($parts !== []) {
            [$from, $to] = array_pop($parts);
            $between = $to - $from < 2 ? null : InBetweens::of($seen[$all[$from]], $seen[$all[$to]]);
            [$most, $worst] = [$off, null];
            for ($i = $from + 1; $between !== null && $i < $to; $i++) {
                $at = $between->at(($all[$i] - $all[$from]) / ($all[$to] - $all[$from]));
                $apart = $at instanceof Cuboid ? $at->apart($seen[$all[$i]], $degree) : INF;
                if ($apart > $most) {
                    [$most, $worst] = [$apart, $i];
                }
            }
            if ($worst !== null) {
                $keep[$all[$worst]] = true;
                array_push($parts, [$from, $worst], [$worst, $to]);
            }
        }
        ksort($keep);

        return array_keys($keep);
    }

    /**
     * @param  array<int, Flat>  $seen
     * @param  list<int>  $all
     * @return ?int which of the places between two is the worst; null when all are close enough
     */
    private static function worst(array $seen, array $all, int $from, int $to, float $px, float $share): ?int
    {
        if ($to - $from < 2) {
            return null;
        }
        $between = InBetweens::of($seen[$all[$from]], $seen[$all[$to]]);
        [$most, $worst] = [1.0, null];
        for ($i = $from + 1; $i < $to; $i++) {
            $is = $seen[$all[$i]];
            $bounds = $is->bounds();
            $may = max($px, $share * max($bounds->width, $bounds->height));
            $off = Apart::px($is, $between->at(($all[$i] - $all[$from]) / ($all[$to] - $all[$from]))) / $may;
            if ($off > $most) {
                [$most, $worst] = [$off, $i];
            }
        }

        return $worst;
    }
}
