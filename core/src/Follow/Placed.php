<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Geometry\Flat;

/** Where an object would fit a frame by its looks. */
final readonly class Placed
{
    /**
     * @param  float  $certainty  likeness to what it looks like at its keys, 0 to 1
     * @param  ?string  $unsure  why the place is not to be trusted; null when it is
     * @param  float  $misfit  0 to 1, how little of it lies over where it is taken to be
     */
    public function __construct(public Flat $shape, public float $certainty, public ?string $unsure, public float $misfit)
    {
    }

    public function isSure(): bool
    {
        return $this->unsure === null;
    }
}
