<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * Where a mark lies, in picture pixels (see Box for the axes). Every kind is a value of its own; what all have in common is here.
 */
interface Geometry
{
    /** The smallest upright box around it. */
    public function bounds(): Box;

    /** Covered area in px²; 0 for what covers none (points, lines). */
    public function area(): float;

    /** Whether nothing can be seen of it: no length, no area, no pixel. */
    public function isEmpty(): bool;

    /** @return array<string, mixed> the JSON of its kind */
    public function toArray(): array;
}
