<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Geometry;

/** Nothing lies between: the first shape holds until the second key. For spans of a text, and for two keys of different kinds. */
final readonly class Still implements InBetween
{
    public function __construct(private Geometry $shape)
    {
    }

    public function at(float $t): Geometry
    {
        return $this->shape;
    }
}
