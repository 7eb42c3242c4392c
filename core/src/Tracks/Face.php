<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;

/** The key an object is shown by where only one picture of it is: the largest of those where it is not hidden, the earliest of equals. */
final class Face
{
    /** How well an object of this shape is seen: px² of the box around it. */
    public static function size(?Geometry $geometry): float
    {
        if (! $geometry instanceof Flat) {
            return 0.0;
        }
        $bounds = $geometry->bounds();

        return max(0.0, $bounds->width) * max(0.0, $bounds->height);
    }

    /** @param  list<Key>  $keys */
    public static function among(array $keys): ?Key
    {
        $best = null;
        foreach ($keys as $key) {
            if ($key->geometry === null) {
                continue;
            }
            $order = [$best->hidden ?? true, self::size($key->geometry), -$key->place] <=> [$key->hidden, self::size($best?->geometry), -($best->place ?? 0)];
            if ($best === null || $order > 0) {
                $best = $key;
            }
        }

        return $best;
    }
}
