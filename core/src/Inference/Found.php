<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Geometry\Flat;

/** One thing a model has found: of which class by the model's own names, how sure it is, and its shapes. */
final readonly class Found
{
    /**
     * @param  list<Flat>  $shapes  of one thing: its box, mask, pose; the finest last
     * @param  array<string, float>  $nodes  how sure it is of each node, by the model's names
     */
    public function __construct(public string $class, public float $confidence, public array $shapes, public array $nodes = [])
    {
    }
}
