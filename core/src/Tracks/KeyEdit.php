<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

/** A change of one key of a track: the key as it is to be, or null to take it away. `base` is the revision the hand saw, 0 before there is one. */
final readonly class KeyEdit
{
    public function __construct(public int $place, public int $base, public ?Key $key)
    {
    }

    /** Whether it fits the key there is, deleted ones counting as none. */
    public function fits(?Key $there): bool
    {
        return $this->base === ($there->revision ?? 0) && ($this->key === null || $this->key->place === $this->place);
    }
}
