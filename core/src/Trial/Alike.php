<?php

declare(strict_types=1);

namespace Skeno\Core\Trial;

use Skeno\Core\Formats\Painting;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;

/** How much two shapes of one item are the same, 0 to 1. */
final class Alike
{
    /**
     * How far a node may be off as a share of the skeleton's size (the square root of its box's area): at that distance it counts exp(−½). The
     * middle of what is usual for single nodes, 0.05 to 0.2 (Lin et al., Microsoft COCO, 2014, keypoint evaluation).
     */
    public const NODE = 0.1;

    /**
     * IoU of what covers an area (of the boxes where one of the two is only a box), object keypoint similarity of skeletons, IoU of letters of spans.
     *
     * @param  int  $width  of the picture, in px, $height likewise; spans have none
     */
    public static function of(Geometry $found, Geometry $true, int $width, int $height): float
    {
        if ($true instanceof Pose) {
            return $found instanceof Pose ? self::poses($found, $true) : 0.0;
        }
        if ($true instanceof Span) {
            return $found instanceof Span ? self::letters($found, $true) : 0.0;
        }
        if (! $found instanceof Flat || ! $true instanceof Flat || $found instanceof Pose) {
            return 0.0;
        }
        $boxes = $found->bounds()->iou($true->bounds());
        if ($boxes <= 0.0 || $found instanceof Box || $true instanceof Box) {
            return $boxes;
        }
        $a = Painting::mask($found, $width, $height);
        $b = Painting::mask($true, $width, $height);

        return $a === null || $b === null ? 0.0 : $a->iou($b);
    }

    private static function letters(Span $found, Span $true): float
    {
        $common = min($found->end, $true->end) - max($found->start, $true->start);

        return $common <= 0 ? 0.0 : $common / ($found->length() + $true->length() - $common);
    }

    /** Over the nodes that are truly there; one that was not found counts nothing. */
    private static function poses(Pose $found, Pose $true): float
    {
        $box = $true->bounds();
        $size = max(1.0, $box->width * $box->height);
        $sum = 0.0;
        foreach ($true->nodes as $key => $node) {
            $own = $found->nodes[$key] ?? null;
            if ($own !== null) {
                $sum += exp(-(($own['x'] - $node['x']) ** 2 + ($own['y'] - $node['y']) ** 2) / (2 * $size * self::NODE ** 2));
            }
        }

        return $sum / count($true->nodes);
    }
}
