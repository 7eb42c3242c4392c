<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Geometry\Box;

/** Where an object was found on a frame. */
final readonly class Followed
{
    /**
     * @param  float  $certainty  likeness to what it was, 0 to 1
     * @param  ?string  $unsure  why the place is not to be trusted; null when it is
     */
    public function __construct(public Box $box, public float $certainty, public ?string $unsure)
    {
    }
}
