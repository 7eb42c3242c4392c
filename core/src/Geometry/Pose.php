<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * Where the nodes of a skeleton lie: `{nodes: {KEY: {x, y, state}}}`, state `visible` or `hidden`. A node that is not there is absent:
 * cut off, or not to be placed even by guess.
 */
final readonly class Pose implements Flat
{
    public const VISIBLE = 'visible';

    public const HIDDEN = 'hidden';

    /** @param  array<string, array{x: float, y: float, state: 'visible'|'hidden'}>  $nodes  by key, sorted by key, at least one */
    private function __construct(public array $nodes)
    {
    }

    /**
     * @param  array<array-key, mixed>  $nodes
     *
     * @throws InvalidValue
     */
    public static function of(array $nodes, string $path = 'nodes'): self
    {
        if ($nodes === [] || count($nodes) > 500) {
            throw InvalidValue::at($path, count($nodes).' nodes', '1 to 500 nodes');
        }
        $checked = [];
        foreach ($nodes as $key => $node) {
            $fields = Fields::of($node, "{$path}.{$key}");
            $state = $fields->raw('state');
            if ($state !== self::VISIBLE && $state !== self::HIDDEN) {
                throw InvalidValue::at("{$path}.{$key}.state", $state, 'visible or hidden');
            }
            $checked[(string) $key] = ['x' => Coordinates::number($fields->raw('x'), "{$path}.{$key}.x"), 'y' => Coordinates::number($fields->raw('y'), "{$path}.{$key}.y"), 'state' => $state];
        }
        ksort($checked);

        return new self($checked);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->map('nodes'), "{$path}.nodes");
    }

    public function bounds(): Box
    {
        $points = [];
        foreach ($this->nodes as $node) {
            array_push($points, $node['x'], $node['y']);
        }

        return Coordinates::bounds($points);
    }

    public function area(): float
    {
        return 0.0;
    }

    public function isEmpty(): bool
    {
        return false;
    }

    /** @return array{nodes: array<string, array{x: float, y: float, state: 'visible'|'hidden'}>} */
    public function toArray(): array
    {
        return ['nodes' => $this->nodes];
    }
}
