<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** Nodes and the bones between them. Places are shares of the skeleton's own box, 0 to 1, y down. */
final readonly class Skeleton
{
    /**
     * @param  array<string, Node>  $nodes  by key, in order
     * @param  list<array{string, string}>  $edges  keys of joined nodes
     */
    public function __construct(public string $key, public string $name, public array $nodes, public array $edges)
    {
    }

    /** @return list<int> for each node the place of its twin, its own without one: what a flip of the picture turns it into */
    public function flip(): array
    {
        $places = array_flip(array_keys($this->nodes));

        return array_values(array_map(static fn (Node $node): int => $places[$node->twin ?? $node->key], $this->nodes));
    }

    /** @return list<array{int, int}> bones as places of nodes from 0 */
    public function bones(): array
    {
        $places = array_flip(array_keys($this->nodes));

        return array_map(static fn (array $edge): array => [$places[$edge[0]], $places[$edge[1]]], $this->edges);
    }
}
