<?php

declare(strict_types=1);

namespace Skeno\StandIns;

/** Connected pixels. */
final class Blobs
{
    /**
     * @param  string  $is  a byte a pixel: 1 where it is of a blob
     * @return list<non-empty-list<int>> the pixels of each
     */
    public static function of(string $is, int $width): array
    {
        $seen = str_repeat("\0", strlen($is));
        $blobs = [];
        for ($begin = strpos($is, "\1"); $begin !== false; $begin = strpos($is, "\1", $begin + 1)) {
            if ($seen[$begin] !== "\0") {
                continue;
            }
            $seen[$begin] = "\1";
            $blob = [$begin];
            for ($k = 0; $k < count($blob); $k++) {
                $x = $blob[$k] % $width;
                foreach ([$x > 0 ? $blob[$k] - 1 : -1, $x + 1 < $width ? $blob[$k] + 1 : -1, $blob[$k] - $width, $blob[$k] + $width] as $to) {
                    if ($to >= 0 && $to < strlen($is) && $seen[$to] === "\0" && $is[$to] === "\1") {
                        $seen[$to] = "\1";
                        $blob[] = $to;
                    }
                }
            }
            $blobs[] = $blob;
        }

        return $blobs;
    }

    /**
     * @param  list<int>  $blob
     * @return array{int, int, int, int} left, top, right, bottom
     */
    public static function box(array $blob, int $width): array
    {
        [$left, $top, $right, $bottom] = [PHP_INT_MAX, PHP_INT_MAX, 0, 0];
        foreach ($blob as $i) {
            $x = $i % $width;
            $y = intdiv($i, $width);
            [$left, $top, $right, $bottom] = [min($left, $x), min($top, $y), max($right, $x + 1), max($bottom, $y + 1)];
        }

        return [$left, $top, $right, $bottom];
    }
}
