<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Geometry;

/** What an object's shape is between two keys of its track: worked out once for the two, asked at any part of the way. */
interface InBetween
{
    /** @param  float  $t  part of the way from the first key to the second, 0 < t < 1 (at its ends the keys themselves hold) */
    public function at(float $t): Geometry;
}
