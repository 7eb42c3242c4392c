<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Geometry\Cuboid;

/** Where what one frame shows lies in another: turned about what is up, then moved. */
final readonly class Motion
{
    private float $cos;

    private float $sin;

    /**
     * @param  float  $turn  degrees, counter-clockwise as seen from above
     * @param  float  $x  metres
     */
    public function __construct(public float $turn, public float $x, public float $y, public float $z = 0.0)
    {
        [$this->cos, $this->sin] = [cos(deg2rad($turn)), sin(deg2rad($turn))];
    }

    public static function none(): self
    {
        return new self(0.0, 0.0, 0.0);
    }

    /**
     * From where the scanner was at both frames.
     *
     * @param  Rigid  $from  from the axes of a frame to those of the ground
     */
    public static function ofPoses(Rigid $from, Rigid $to): self
    {
        // where the origin of the first is in the second, and its x
        [$origin, $ahead] = [$to->back(...$from->place(0, 0, 0)), $to->back(...$from->place(1, 0, 0))];

        return new self(rad2deg(atan2($ahead[1] - $origin[1], $ahead[0] - $origin[0])), ...$origin);
    }

    /** @return array{float, float} */
    public function place(float $x, float $y): array
    {
        return [$this->cos * $x - $this->sin * $y + $this->x, $this->sin * $x + $this->cos * $y + $this->y];
    }

    public function cuboid(Cuboid $cuboid): Cuboid
    {
        [$x, $y] = $this->place($cuboid->center[0], $cuboid->center[1]);

        return Cuboid::of([$x, $y, $cuboid->center[2] + $this->z], $cuboid->size, $cuboid->heading + $this->turn);
    }

    /** This one, and then another. */
    public function then(self $next): self
    {
        [$x, $y] = $next->place($this->x, $this->y);

        return new self($this->turn + $next->turn, $x, $y, $this->z + $next->z);
    }
}
