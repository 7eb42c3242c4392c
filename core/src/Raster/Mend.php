<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

use Skeno\Core\InvalidValue;

/**
 * Small faults of a painted mask put right at once: pinholes (holes of at most n px in width and height) and slits (gaps at most n px
 * wide) are closed, specks (parts of at most n px in width and height) removed. A mask that is nothing but a speck is left alone.
 */
final class Mend
{
    /** @param  int  $n  1 to 50 px */
    public static function mask(Mask $mask, int $n): Mask
    {
        if ($n < 1 || $n > 50) {
            throw InvalidValue::at('n', $n, 'a width of 1 to 50 px');
        }
        $specks = Mask::none($mask->width, $mask->height);
        $parts = Components::of($mask, diagonal: true);
        foreach ($parts as $part) {
            $box = $part->bounds();
            if ($box->width <= $n && $box->height <= $n) {
                $specks = $specks->union($part);
            }
        }
        $mended = $mask->without($specks);
        if ($mended->isEmpty()) {
            return $mask;
        }
        $mended = self::closed($mended, $n);
        foreach (Components::of($mended->complement()) as $hole) {
            $box = $hole->bounds();
            if ($box->width <= $n && $box->height <= $n && $box->x > 0 && $box->y > 0 && $box->right() < $mask->width && $box->bottom() < $mask->height) {
                $mended = $mended->union($hole);
            }
        }

        return $mended;
    }

    /**
     * Morphological closing by a square of n+1 px: what no such square outside the mask can reach. The picture counts as surrounded by
     * empty pixels, so nothing grows along its edge.
     */
    public static function closed(Mask $mask, int $n): Mask
    {
        // worked out on a larger canvas, so that squares reaching past the picture's edge count as outside it
        $pad = $n + 1;
        $canvas = $mask->moved($pad, $pad, $mask->width + 2 * $pad, $mask->height + 2 * $pad);
        $free = $canvas->complement();
        // where the top left corner of an empty square can stand, and from there what the squares cover
        $corners = $free;
        foreach (self::steps($n) as $step) {
            $corners = $corners->intersection($corners->moved(0, -$step));
        }
        foreach (self::steps($n) as $step) {
            $corners = $corners->intersection($corners->moved(-$step, 0));
        }
        $reached = $corners;
        foreach (self::steps($n) as $step) {
            $reached = $reached->union($reached->moved(0, $step));
        }
        foreach (self::steps($n) as $step) {
            $reached = $reached->union($reached->moved($step, 0));
        }

        return $reached->complement()->moved(-$pad, -$pad, $mask->width, $mask->height)->union($mask);
    }

    /** @return list<int> steps whose sums reach every shift from 0 to n */
    private static function steps(int $n): array
    {
        $steps = [];
        for ($reach = 0; $reach < $n; $reach += $step) {
            $step = min($reach + 1, $n - $reach);
            $steps[] = $step;
        }

        return $steps;
    }
}
