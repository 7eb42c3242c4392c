<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** A box turned about its centre. `{cx, cy, width, height, angle}`: px, and degrees clockwise on the screen, 0 ≤ angle < 360. */
final readonly class TurnedBox implements Region
{
    private function __construct(public float $cx, public float $cy, public float $width, public float $height, public float $angle)
    {
    }

    /** @throws InvalidValue when a number is not finite or beyond the limit, or a side negative */
    public static function of(float $cx, float $cy, float $width, float $height, float $angle, string $path = 'turned_box'): self
    {
        foreach (['cx' => $cx, 'cy' => $cy, 'width' => $width, 'height' => $height, 'angle' => $angle] as $name => $value) {
            Coordinates::number($value, "{$path}.{$name}");
        }
        foreach (['width' => $width, 'height' => $height] as $name => $value) {
            if ($value < 0) {
                throw InvalidValue::at("{$path}.{$name}", $value, 'a side of 0 or more');
            }
        }
        $angle = fmod($angle, 360.0);

        return new self($cx, $cy, $width, $height, $angle < 0 ? ($angle + 360.0 < 360.0 ? $angle + 360.0 : 0.0) : $angle);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->number('cx'), $fields->number('cy'), $fields->number('width'), $fields->number('height'), $fields->number('angle'), $path);
    }

    /**
     * The turned box whose four corners these are: the first side (from the first corner to the second) is its width. For corners
     * that are not quite a rectangle (rounded by a format) sides are the means of opposite ones.
     *
     * @param  list<float>  $corners  eight numbers
     */
    public static function fromCorners(array $corners): self
    {
        Coordinates::check($corners, 'corners', 4, 4);
        [$x1, $y1, $x2, $y2, $x3, $y3, $x4, $y4] = $corners;
        $wx = ($x2 - $x1 + $x3 - $x4) / 2;
        $wy = ($y2 - $y1 + $y3 - $y4) / 2;
        $hx = ($x4 - $x1 + $x3 - $x2) / 2;
        $hy = ($y4 - $y1 + $y3 - $y2) / 2;

        return self::of(($x1 + $x2 + $x3 + $x4) / 4, ($y1 + $y2 + $y3 + $y4) / 4, hypot($wx, $wy), hypot($hx, $hy), rad2deg(atan2($wy, $wx)));
    }

    public function rings(): array
    {
        return [Coordinates::turnedCorners($this->cx, $this->cy, $this->width, $this->height, $this->angle)];
    }

    public function bounds(): Box
    {
        return Coordinates::bounds(Coordinates::turnedCorners($this->cx, $this->cy, $this->width, $this->height, $this->angle));
    }

    public function area(): float
    {
        return $this->width * $this->height;
    }

    public function isEmpty(): bool
    {
        return $this->width <= 0.0 || $this->height <= 0.0;
    }

    /** @return array{cx: float, cy: float, width: float, height: float, angle: float} */
    public function toArray(): array
    {
        return ['cx' => $this->cx, 'cy' => $this->cy, 'width' => $this->width, 'height' => $this->height, 'angle' => $this->angle];
    }
}
