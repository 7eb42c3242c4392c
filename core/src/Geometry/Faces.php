<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** A cuboid as seen on a picture: its near and its far face, both upright boxes: `{front: box, back: box}`. */
final readonly class Faces implements Flat
{
    private function __construct(public Box $front, public Box $back)
    {
    }

    public static function of(Box $front, Box $back): self
    {
        return new self($front, $back);
    }

    /** @throws InvalidValue */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return new self(Box::fromFields($fields->object('front'), "{$path}.front"), Box::fromFields($fields->object('back'), "{$path}.back"));
    }

    public function bounds(): Box
    {
        return Box::fromCorners(
            min($this->front->x, $this->back->x),
            min($this->front->y, $this->back->y),
            max($this->front->right(), $this->back->right()),
            max($this->front->bottom(), $this->back->bottom()),
        );
    }

    /** Of what it covers on the picture: the convex hull of both faces (the silhouette). */
    public function area(): float
    {
        return abs(Coordinates::signedArea($this->silhouette()));
    }

    /**
     * Convex hull of the eight corners (Andrew's monotone chain).
     *
     * @return list<float>
     */
    public function silhouette(): array
    {
        $corners = [];
        foreach ([$this->front, $this->back] as $box) {
            array_push($corners, [$box->x, $box->y], [$box->right(), $box->y], [$box->right(), $box->bottom()], [$box->x, $box->bottom()]);
        }
        sort($corners);
        $hull = [];
        foreach ([$corners, array_reverse($corners)] as $pass) {
            $chain = [];
            foreach ($pass as $p) {
                while (($n = count($chain)) >= 2 && ($chain[$n - 1][0] - $chain[$n - 2][0]) * ($p[1] - $chain[$n - 2][1]) - ($chain[$n - 1][1] - $chain[$n - 2][1]) * ($p[0] - $chain[$n - 2][0]) <= 0) {
                    array_pop($chain);
                }
                $chain[] = $p;
            }
            array_pop($chain);
            array_push($hull, ...$chain);
        }

        return array_merge(...$hull);
    }

    public function isEmpty(): bool
    {
        return $this->front->isEmpty();
    }

    /** @return array{front: array{x: float, y: float, width: float, height: float}, back: array{x: float, y: float, width: float, height: float}} */
    public function toArray(): array
    {
        return ['front' => $this->front->toArray(), 'back' => $this->back->toArray()];
    }
}
