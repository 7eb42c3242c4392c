<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

/** The colour map of Pascal VOC segmentations: the bits of the index, three at a time, spread over red, green and blue from the top. */
final class VocColors
{
    /** @return list<array{int, int, int}> 256 colours */
    public static function map(): array
    {
        $colors = [];
        for ($i = 0; $i < 256; $i++) {
            $rgb = [0, 0, 0];
            for ($bits = $i, $place = 7; $bits > 0; $bits >>= 3, $place--) {
                foreach ([0, 1, 2] as $channel) {
                    $rgb[$channel] |= ($bits >> $channel & 1) << $place;
                }
            }
            $colors[] = [$rgb[0], $rgb[1], $rgb[2]];
        }

        return $colors;
    }
}
