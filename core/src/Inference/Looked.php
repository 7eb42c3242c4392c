<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

/** All that came of asking a model about a picture. */
final readonly class Looked
{
    /** @param  list<Found>  $things  on it, the surest first */
    public function __construct(public array $things, public Told $told = new Told)
    {
    }
}
