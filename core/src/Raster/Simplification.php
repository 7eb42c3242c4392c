<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

/** Rings with fewer points (Douglas and Peucker 1973): no point left out lies farther than the tolerance from its edge. */
final class Simplification
{
    /**
     * @param  list<float>  $ring  flat
     * @param  float  $tolerance  px, 0: only points on a straight line are left out
     * @return list<float> at least three points, unless the ring had fewer
     */
    public static function ring(array $ring, float $tolerance): array
    {
        $n = intdiv(count($ring), 2);
        if ($n <= 4) {
            return $ring;
        }
        // a ring has no ends: it is cut at its first point and the point farthest from it
        $far = 0;
        $most = -1.0;
        for ($i = 1; $i < $n; $i++) {
            $distance = ($ring[2 * $i] - $ring[0]) ** 2 + ($ring[2 * $i + 1] - $ring[1]) ** 2;
            if ($distance > $most) {
                [$most, $far] = [$distance, $i];
            }
        }
        $keep = [0 => true, $far => true];
        $stack = [[0, $far], [$far, $n]];
        while ($stack !== []) {
            [$a, $b] = array_pop($stack);
            $ax = $ring[2 * $a];
            $ay = $ring[2 * $a + 1];
            $dx = $ring[2 * ($b % $n)] - $ax;
            $dy = $ring[2 * ($b % $n) + 1] - $ay;
            $length = hypot($dx, $dy);
            [$worst, $at] = [$tolerance, -1];
            for ($i = $a + 1; $i < $b; $i++) {
                $px = $ring[2 * $i] - $ax;
                $py = $ring[2 * $i + 1] - $ay;
                $distance = $length > 0 ? abs($dx * $py - $dy * $px) / $length : hypot($px, $py);
                if ($distance > $worst + 1e-9) {
                    [$worst, $at] = [$distance, $i];
                }
            }
            if ($at >= 0) {
                $keep[$at] = true;
                $stack[] = [$a, $at];
                $stack[] = [$at, $b];
            }
        }
        ksort($keep);
        $kept = [];
        foreach (array_keys($keep) as $i) {
            array_push($kept, $ring[2 * $i], $ring[2 * $i + 1]);
        }

        return count($kept) >= 6 ? $kept : $ring;
    }
}
