<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * Pairs of boxes that nearly coincide, by a sweep along x: a box is compared only with those whose left edge lies within it.
 */
final class BoxIndex
{
    /**
     * @param  array<array-key, Box>  $boxes
     * @return list<array{array-key, array-key, float}> pairs of keys in the order given, with their IoU ≥ $threshold
     */
    public static function coinciding(array $boxes, float $threshold): array
    {
        $keys = array_keys($boxes);
        $place = array_flip($keys);
        usort($keys, static fn (int|string $a, int|string $b): int => $boxes[$a]->x <=> $boxes[$b]->x);
        $pairs = [];
        $count = count($keys);
        for ($i = 0; $i < $count; $i++) {
            $box = $boxes[$keys[$i]];
            $reach = $box->x + $box->width;
            for ($j = $i + 1; $j < $count && $boxes[$keys[$j]]->x <= $reach; $j++) {
                $iou = $box->iou($boxes[$keys[$j]]);
                if ($iou >= $threshold) {
                    $pair = [$keys[$i], $keys[$j]];
                    usort($pair, static fn (int|string $a, int|string $b): int => $place[$a] <=> $place[$b]);
                    $pairs[] = [$pair[0], $pair[1], $iou];
                }
            }
        }
        usort($pairs, static fn (array $a, array $b): int => [$place[$a[0]], $place[$a[1]]] <=> [$place[$b[0]], $place[$b[1]]]);

        return $pairs;
    }
}
