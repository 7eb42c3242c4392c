<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** What kind of mark a class may be drawn as. */
enum Shape: string
{
    case Box = 'box';
    case TurnedBox = 'turned_box';
    case Polygon = 'polygon';
    case Polyline = 'polyline';
    case Ellipse = 'ellipse';
    case Points = 'points';
    case Skeleton = 'skeleton';
    case Mask = 'mask';
    case Cuboid2d = 'cuboid_2d';
    case Cuboid = 'cuboid';
    case Span = 'span';

    /** Whether the bench can draw it and the core can check it today; the others are kept in the codebook and marked so. */
    public function isDrawn(): bool
    {
        return $this === self::Box;
    }
}
