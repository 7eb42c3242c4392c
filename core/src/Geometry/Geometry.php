<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * Where a mark lies. Every kind is a value of its own; what all have in common is here. What lies on a plane is Flat; spans of a text and
 * cuboids in space are not.
 */
interface Geometry
{
    /** Whether nothing can be seen of it: no length, no area, no pixel. */
    public function isEmpty(): bool;

    /** @return array<string, mixed> the JSON of its kind */
    public function toArray(): array;
}
