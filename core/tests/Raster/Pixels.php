<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Raster;

use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Raster\Mask;

/** Masks as rows of `#` and `.`, and the plain pixel by pixel way of everything the raster room does by runs. */
final class Pixels
{
    /** @param  list<string>  $rows */
    public static function of(array $rows): Mask
    {
        $counts = [];
        $run = 0;
        $inside = false;
        for ($x = 0; $x < strlen($rows[0]); $x++) {
            foreach ($rows as $row) {
                if (($row[$x] === '#') !== $inside) {
                    $counts[] = $run;
                    $run = 0;
                    $inside = ! $inside;
                }
                $run++;
            }
        }
        $counts[] = $run;

        return Mask::ofCounts(strlen($rows[0]), count($rows), $counts);
    }

    /** @return list<string> */
    public static function rows(Mask $mask): array
    {
        return self::each($mask->width, $mask->height, $mask->has(...));
    }

    /**
     * @param  callable(int, int): bool  $rule
     * @return list<string>
     */
    public static function each(int $width, int $height, callable $rule): array
    {
        $rows = [];
        for ($y = 0; $y < $height; $y++) {
            $row = '';
            for ($x = 0; $x < $width; $x++) {
                $row .= $rule($x, $y) ? '#' : '.';
            }
            $rows[] = $row;
        }

        return $rows;
    }

    public static function random(Randomizer $random, int $width, int $height): Mask
    {
        $share = $random->getInt(0, 10);

        return self::of(self::each($width, $height, static fn (): bool => $random->getInt(0, 9) < $share));
    }

    public static function bounds(Mask $mask): Box
    {
        $xs = $ys = [];
        self::each($mask->width, $mask->height, static function (int $x, int $y) use ($mask, &$xs, &$ys): bool {
            if ($mask->has($x, $y)) {
                $xs[] = $x;
                $ys[] = $y;
            }

            return false;
        });

        return $xs === [] || $ys === [] ? Box::of(0, 0, 0, 0) : Box::fromCorners(min($xs), min($ys), max($xs) + 1, max($ys) + 1);
    }

    /**
     * Flood fill, pixel by pixel.
     *
     * @return list<list<string>>
     */
    public static function components(Mask $mask, bool $diagonal): array
    {
        $seen = $parts = [];
        for ($x = 0; $x < $mask->width; $x++) {
            for ($y = 0; $y < $mask->height; $y++) {
                if (! $mask->has($x, $y) || isset($seen["{$x},{$y}"])) {
                    continue;
                }
                $part = [];
                $stack = [[$x, $y]];
                while ($stack !== []) {
                    [$px, $py] = array_pop($stack);
                    if (! $mask->has($px, $py) || isset($seen["{$px},{$py}"])) {
                        continue;
                    }
                    $seen["{$px},{$py}"] = $part["{$px},{$py}"] = true;
                    foreach ([-1, 0, 1] as $dx) {
                        foreach ([-1, 0, 1] as $dy) {
                            if ($diagonal ? $dx !== 0 || $dy !== 0 : abs($dx) + abs($dy) === 1) {
                                $stack[] = [$px + $dx, $py + $dy];
                            }
                        }
                    }
                }
                $parts[] = self::each($mask->width, $mask->height, static fn (int $px, int $py): bool => isset($part["{$px},{$py}"]));
            }
        }

        return $parts;
    }

    /** @return list<string> closing by a square of n+1 px: a pixel stays empty when some empty square holds it (outside the picture all is empty) */
    public static function closed(Mask $mask, int $n): array
    {
        $emptySquareAt = static function (int $left, int $top) use ($mask, $n): bool {
            for ($x = $left; $x <= $left + $n; $x++) {
                for ($y = $top; $y <= $top + $n; $y++) {
                    if ($mask->has($x, $y)) {
                        return false;
                    }
                }
            }

            return true;
        };

        return self::each($mask->width, $mask->height, static function (int $x, int $y) use ($emptySquareAt, $n): bool {
            for ($left = $x - $n; $left <= $x; $left++) {
                for ($top = $y - $n; $top <= $y; $top++) {
                    if ($emptySquareAt($left, $top)) {
                        return false;
                    }
                }
            }

            return true;
        });
    }
}
