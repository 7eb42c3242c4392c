<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

/** What a model knows by name: classes, and nodes of skeletons. */
final readonly class Knows
{
    /**
     * @param  list<string>  $classes
     * @param  list<string>  $nodes
     */
    public function __construct(public array $classes, public array $nodes = [])
    {
    }
}
