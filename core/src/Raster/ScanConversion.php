<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

/**
 * Rings to pixels: a pixel belongs to a region when its centre lies inside an odd number of rings. A centre exactly on an edge counts
 * to the region on the edge's right or lower side, so that two regions with a common edge share no pixel and leave none out; for that the
 * place where an edge meets a column of centres is computed from its left to its right end, whichever way the ring runs.
 */
final class ScanConversion
{
    /**
     * @param  list<list<float>>  $rings  flat x, y, x, y …; parts outside the picture are cut off
     */
    public static function mask(array $rings, int $width, int $height): Mask
    {
        /** @var array<int, list<float>> $crossings rows where rings cross a column of centres */
        $crossings = [];
        foreach ($rings as $ring) {
            $n = count($ring);
            for ($i = 0; $i < $n; $i += 2) {
                $j = $i + 2 < $n ? $i + 2 : 0;
                if ($ring[$i] < $ring[$j]) {
                    [$ax, $ay, $bx, $by] = [$ring[$i], $ring[$i + 1], $ring[$j], $ring[$j + 1]];
                } else {
                    [$ax, $ay, $bx, $by] = [$ring[$j], $ring[$j + 1], $ring[$i], $ring[$i + 1]];
                }
                // centres x + 0.5 with ax <= centre < bx
                $first = max(0, (int) ceil($ax - 0.5));
                $end = min($width, (int) ceil($bx - 0.5));
                if ($first >= $end) {
                    continue;
                }
                $slope = ($by - $ay) / ($bx - $ax);
                for ($x = $first; $x < $end; $x++) {
                    $crossings[$x][] = $ay + ($x + 0.5 - $ax) * $slope;
                }
            }
        }
        ksort($crossings);
        $edges = [];
        $last = -1;
        foreach ($crossings as $x => $rows) {
            sort($rows);
            $base = $x * $height;
            $n = count($rows);
            for ($i = 0; $i + 1 < $n; $i += 2) {
                // centres y + 0.5 with top <= centre < bottom
                $from = $base + max(0, (int) ceil(min($rows[$i], (float) $height) - 0.5));
                $to = $base + min($height, (int) ceil(max($rows[$i + 1], -1.0) - 0.5));
                if ($from >= $to) {
                    continue;
                }
                if ($from === $last) {
                    array_pop($edges);
                } else {
                    $edges[] = $from;
                }
                $edges[] = $last = $to;
            }
        }

        return Mask::ofEdges($width, $height, $edges);
    }
}
