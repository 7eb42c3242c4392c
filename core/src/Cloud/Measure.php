<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/** What lists of cuboids are narrowed by. */
final readonly class Measure
{
    /**
     * @param  ?int  $points  in it; null: nobody knows now
     * @param  float  $distance  metres on the ground from where the axes of its frame begin, which is where the scanner stood
     * @param  float  $length  metres along its heading
     */
    private function __construct(public ?int $points, public float $distance, public float $length, public float $width)
    {
    }

    /**
     * @param  array<array-key, mixed>  $geometries  cuboids as they are stored
     * @param  ?Frame  $frame  they are on; null: it has to be made again first
     * @return list<self> in the same order
     *
     * @throws InvalidValue
     */
    public static function all(array $geometries, ?Frame $frame): array
    {
        $cuboids = array_map(static fn (mixed $geometry): Cuboid => Cuboid::fromFields(Fields::of($geometry)), array_values($geometries));
        $points = $frame === null ? [] : (new Inside($cuboids))->count($frame);

        return array_map(static fn (Cuboid $cuboid, int $i): self => new self($points[$i] ?? null, round(hypot($cuboid->center[0], $cuboid->center[1]), 3), $cuboid->size[0], $cuboid->size[1]), $cuboids, array_keys($cuboids));
    }
}
