<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

/**
 * How far each pixel of a window is from the rim of a mask: positive inside, negative outside, in px; the rim lies half way between the centres
 * of a pixel that belongs to it and one that does not.
 *
 * Method: the exact Euclidean distance transform by lower envelopes of parabolas (P. F. Felzenszwalb, D. P. Huttenlocher, "Distance transforms of
 * sampled functions", 2012), linear in the pixels of the window; once to the mask, once to what is not it.
 */
final class SignedDistance
{
    /** Farther than any picture is wide. */
    private const FAR = 1e12;

    /**
     * @param  int  $left  column of the window's first sample in the mask; the window may reach past the picture, where nothing belongs to it
     * @param  int  $columns  samples across, $rows down, each $step px from the next
     * @return list<list<float>> by column, then row; in px. Where the window holds no pixel of the mask (or nothing else) it is -FAR (FAR).
     */
    public static function field(Mask $mask, int $left, int $top, int $columns, int $rows, int $step = 1): array
    {
        $belongs = self::samples($mask, $left, $top, $columns, $rows, $step);
        $inside = self::squared($belongs, $columns, $rows, false);
        $outside = self::squared($belongs, $columns, $rows, true);
        $field = [];
        for ($x = 0; $x < $columns; $x++) {
            $column = [];
            $in = $inside[$x];
            $out = $outside[$x];
            foreach ($belongs[$x] as $y => $is) {
                $column[] = $is ? (sqrt($in[$y]) - 0.5) * $step : (0.5 - sqrt($out[$y])) * $step;
            }
            $field[] = $column;
        }

        return $field;
    }

    /** @return list<array<int, bool>> by column, then row, in order */
    private static function samples(Mask $mask, int $left, int $top, int $columns, int $rows, int $step): array
    {
        $runs = $mask->columns();
        $none = array_fill(0, $rows, false);
        $samples = [];
        for ($x = 0; $x < $columns; $x++) {
            $column = $none;
            $of = $runs[$left + $x * $step] ?? [];
            for ($i = 0; $i < count($of); $i += 2) {
                $first = max(0, (int) ceil(($of[$i] - $top) / $step));
                $end = min($rows, (int) ceil(($of[$i + 1] - $top) / $step));
                for ($y = $first; $y < $end; $y++) {
                    $column[$y] = true;
                }
            }
            $samples[] = $column;
        }

        return $samples;
    }

    /**
     * Squared distance of each sample to the nearest one that is $to.
     *
     * @param  list<array<int, bool>>  $belongs
     * @return list<array<int, float>>
     */
    private static function squared(array $belongs, int $columns, int $rows, bool $to): array
    {
        // along the columns: to the nearest above, then below
        $near = [];
        foreach ($belongs as $column) {
            $distance = [];
            $since = self::FAR;
            foreach ($column as $is) {
                $distance[] = $since = $is === $to ? 0.0 : $since + 1;
            }
            $since = self::FAR;
            for ($y = $rows - 1; $y >= 0; $y--) {
                $since = $distance[$y] === 0.0 ? 0.0 : $since + 1;
                if ($since < $distance[$y]) {
                    $distance[$y] = $since;
                }
            }
            $near[] = $distance;
        }
        // across the rows: the lowest of the parabolas that stand on them
        $squared = $near;
        for ($y = 0; $y < $rows; $y++) {
            $sites = $heights = $from = [];
            $k = -1;
            for ($x = 0; $x < $columns; $x++) {
                $d = $near[$x][$y];
                if ($d >= self::FAR) {
                    continue;
                }
                $height = $d * $d + $x * $x;
                // from where on it is the lowest; those it is lower than all along are none
                $cut = -self::FAR;
                for (; $k >= 0; $k--) {
                    $cut = ($height - $heights[$k]) / (2 * ($x - $sites[$k]));
                    if ($cut > $from[$k]) {
                        break;
                    }
                }
                $k++;
                $from[$k] = $k === 0 ? -self::FAR : $cut;
                $sites[$k] = $x;
                $heights[$k] = $height;
            }
            if ($k < 0) {
                for ($x = 0; $x < $columns; $x++) {
                    $squared[$x][$y] = self::FAR * self::FAR;
                }

                continue;
            }
            $i = 0;
            for ($x = 0; $x < $columns; $x++) {
                while ($i < $k && $from[$i + 1] < $x) {
                    $i++;
                }
                $squared[$x][$y] = $heights[$i] + $x * $x - 2.0 * $x * $sites[$i];
            }
        }

        return $squared;
    }
}
