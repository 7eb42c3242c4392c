<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Closure;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\TurnedBox;

/**
 * Shapes that are a few numbers: each number goes evenly from the one key to the other, angles by the shorter way round (at exactly half a turn
 * clockwise).
 */
final readonly class BetweenNumbers implements InBetween
{
    /**
     * @param  list<float>  $from
     * @param  list<float>  $change
     * @param  Closure(list<float>): Geometry  $shape
     */
    private function __construct(private array $from, private array $change, private Closure $shape)
    {
    }

    public static function boxes(Box $a, Box $b): self
    {
        return self::of(self::box($a), self::box($b), null, 0.0, static fn (array $n): Box => Box::of($n[0], $n[1], max(0.0, $n[2]), max(0.0, $n[3])));
    }

    /** A turned box keeps its sides: turned by half a turn it is another one. */
    public static function turnedBoxes(TurnedBox $a, TurnedBox $b): self
    {
        return self::of([$a->cx, $a->cy, $a->width, $a->height, $a->angle], [$b->cx, $b->cy, $b->width, $b->height, $b->angle], 4, 360.0, static fn (array $n): TurnedBox => TurnedBox::of($n[0], $n[1], max(0.0, $n[2]), max(0.0, $n[3]), $n[4]));
    }

    /** An ellipse is the same after half a turn. */
    public static function ellipses(Ellipse $a, Ellipse $b): self
    {
        return self::of([$a->cx, $a->cy, $a->rx, $a->ry, $a->angle], [$b->cx, $b->cy, $b->rx, $b->ry, $b->angle], 4, 180.0, static fn (array $n): Ellipse => Ellipse::of($n[0], $n[1], max(0.0, $n[2]), max(0.0, $n[3]), $n[4]));
    }

    public static function faces(Faces $a, Faces $b): self
    {
        return self::of([...self::box($a->front), ...self::box($a->back)], [...self::box($b->front), ...self::box($b->back)], null, 0.0, static fn (array $n): Faces => Faces::of(
            Box::of($n[0], $n[1], max(0.0, $n[2]), max(0.0, $n[3])),
            Box::of($n[4], $n[5], max(0.0, $n[6]), max(0.0, $n[7])),
        ));
    }

    public static function cuboids(Cuboid $a, Cuboid $b): self
    {
        return self::of([...$a->center, ...$a->size, $a->heading], [...$b->center, ...$b->size, $b->heading], 6, 360.0, static fn (array $n): Cuboid => Cuboid::of(
            [$n[0], $n[1], $n[2]],
            [max(0.0, $n[3]), max(0.0, $n[4]), max(0.0, $n[5])],
            $n[6],
        ));
    }

    /** The way from one angle to another that is the shorter, in degrees: more than -period/2, at most period/2. */
    public static function turn(float $from, float $to, float $period): float
    {
        $way = fmod($to - $from, $period);

        return match (true) {
            $way > $period / 2 => $way - $period,
            $way <= -$period / 2 => $way + $period,
            default => $way,
        };
    }

    public function at(float $t): Geometry
    {
        $numbers = [];
        foreach ($this->from as $i => $from) {
            $numbers[] = $from + $t * $this->change[$i];
        }

        return ($this->shape)($numbers);
    }

    /** @return list<float> */
    private static function box(Box $box): array
    {
        return [$box->x, $box->y, $box->width, $box->height];
    }

    /**
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @param  ?int  $angle  which of them is an angle
     * @param  float  $period  degrees after which it is the same again
     * @param  Closure(list<float>): Geometry  $shape
     */
    private static function of(array $a, array $b, ?int $angle, float $period, Closure $shape): self
    {
        $change = [];
        foreach ($a as $i => $from) {
            $change[] = $i === $angle ? self::turn($from, $b[$i], $period) : $b[$i] - $from;
        }

        return new self($a, $change, $shape);
    }
}
