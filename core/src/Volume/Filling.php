<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/**
 * Fills what hangs together by faces in a box of voxels that are held as strings along y, by x then z.
 *
 * Method: filling by runs (A. R. Smith, "Tint fill", 1979), in three dimensions: a run found is looked at once, against the four next to it; breadth
 * first, so that what is ended early is a ball rather than a thread.
 */
final class Filling
{
    /**
     * @param  array<int, string>  $lines  what is filled in them becomes $taken
     * @param  string  $free  the byte that is filled
     * @param  int  $most  voxels after which it ends
     * @return array{list<array{int, int, int}>, int, bool} the runs (line, first, last), voxels, and whether it was ended before it was done
     */
    public static function from(array &$lines, int $wide, int $deep, int $line, int $y, string $free, string $taken, int $most = PHP_INT_MAX): array
    {
        $runs = [];
        $voxels = self::take($lines, $line, $y, $y, $free, $taken, $runs);
        for ($next = 0; $next < count($runs); $next++) {
            if ($voxels >= $most) {
                return [$runs, $voxels, true];
            }
            [$at, $from, $to] = $runs[$next];
            $z = $at % $deep;
            $x = intdiv($at, $deep);
            if ($x > 0) {
                $voxels += self::take($lines, $at - $deep, $from, $to, $free, $taken, $runs);
            }
            if ($x < $wide - 1) {
                $voxels += self::take($lines, $at + $deep, $from, $to, $free, $taken, $runs);
            }
            if ($z > 0) {
                $voxels += self::take($lines, $at - 1, $from, $to, $free, $taken, $runs);
            }
            if ($z < $deep - 1) {
                $voxels += self::take($lines, $at + 1, $from, $to, $free, $taken, $runs);
            }
        }

        return [$runs, $voxels, false];
    }

    /**
     * Takes the runs of a line that touch a stretch of it, each as far as it goes.
     *
     * @param  array<int, string>  $lines
     * @param  list<array{int, int, int}>  $runs  gets them
     */
    private static function take(array &$lines, int $at, int $from, int $to, string $free, string $taken, array &$runs): int
    {
        $line = $lines[$at];
        $length = strlen($line);
        $sum = 0;
        for ($y = $from; $y <= $to && $y < $length;) {
            $y += strcspn($line, $free, $y, $to - $y + 1);
            if ($y > $to || $y >= $length) {
                break;
            }
            $end = $y + strspn($line, $free, $y);
            $begin = $y;
            while ($begin > 0 && $line[$begin - 1] === $free) {
                $begin--;
            }
            $line = substr_replace($line, str_repeat($taken, $end - $begin), $begin, $end - $begin);
            $runs[] = [$at, $begin, $end - 1];
            $sum += $end - $begin;
            $y = $end;
        }
        $lines[$at] = $line;

        return $sum;
    }
}
