<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** A node of a skeleton; `x`, `y` in shares of its box, `twin` the key of its mirror image. */
final readonly class Node
{
    public function __construct(public string $key, public string $name, public float $x, public float $y, public ?string $twin = null, public ?string $group = null)
    {
    }
}
