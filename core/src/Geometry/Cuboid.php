<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * A box in space, standing upright: `{center: [x, y, z], size: [length, width, height], heading}` in metres and degrees. x is ahead, y to
 * the left, z up (ISO 8855); the heading turns its length from x counter-clockwise as seen from above, in (-180, 180].
 */
final readonly class Cuboid implements Geometry
{
    private const LIMIT = 1_000_000.0;

    /**
     * @param  array{float, float, float}  $center
     * @param  array{float, float, float}  $size
     */
    private function __construct(public array $center, public array $size, public float $heading)
    {
    }

    /**
     * @param  array{float, float, float}  $center
     * @param  array{float, float, float}  $size  length, width, height, each 0 or more
     *
     * @throws InvalidValue
     */
    public static function of(array $center, array $size, float $heading, string $path = 'cuboid'): self
    {
        foreach ([...$center, ...$size, $heading] as $i => $value) {
            $name = $i < 3 ? "center[{$i}]" : ($i < 6 ? 'size['.($i - 3).']' : 'heading');
            if (! is_finite($value) || abs($value) > self::LIMIT) {
                throw InvalidValue::at("{$path}.{$name}", $value, 'a number of at most '.(int) self::LIMIT);
            }
            if ($i >= 3 && $i < 6 && $value < 0) {
                throw InvalidValue::at("{$path}.{$name}", $value, 'a side of 0 or more');
            }
        }
        $turned = fmod($heading, 360.0);
        $turned += $turned <= -180.0 ? 360.0 : ($turned > 180.0 ? -360.0 : 0.0);

        return new self($center, $size, $turned);
    }

    /** @throws InvalidValue */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of(self::three($fields, 'center', $path), self::three($fields, 'size', $path), $fields->number('heading'), $path);
    }

    /** In m³. */
    public function volume(): float
    {
        return $this->size[0] * $this->size[1] * $this->size[2];
    }

    /** Whether a point lies in it or on its faces. */
    public function contains(float $x, float $y, float $z): bool
    {
        [$cos, $sin] = [cos(deg2rad($this->heading)), sin(deg2rad($this->heading))];
        [$dx, $dy] = [$x - $this->center[0], $y - $this->center[1]];

        return abs($dx * $cos + $dy * $sin) <= $this->size[0] / 2 + 1e-9
            && abs($dy * $cos - $dx * $sin) <= $this->size[1] / 2 + 1e-9
            && abs($z - $this->center[2]) <= $this->size[2] / 2 + 1e-9;
    }

    /** @return list<array{float, float, float}> the lower four from behind on the right, counter-clockwise as seen from above, then those over them */
    public function corners(): array
    {
        [$cos, $sin] = [cos(deg2rad($this->heading)), sin(deg2rad($this->heading))];
        [$l, $w, $h] = [$this->size[0] / 2, $this->size[1] / 2, $this->size[2] / 2];
        $corners = [];
        foreach ([-$h, $h] as $z) {
            foreach ([[-$l, -$w], [$l, -$w], [$l, $w], [-$l, $w]] as [$u, $v]) {
                $corners[] = [$this->center[0] + $u * $cos - $v * $sin, $this->center[1] + $u * $sin + $v * $cos, $this->center[2] + $z];
            }
        }

        return $corners;
    }

    /** By how much another one differs at most in one of its numbers, in metres. @param  float  $degree  metres a degree counts as */
    public function apart(self $other, float $degree = 1.0): float
    {
        $turn = abs($this->heading - $other->heading);
        $most = $degree * min($turn, 360.0 - $turn);
        foreach ([0, 1, 2] as $axis) {
            $most = max($most, abs($this->center[$axis] - $other->center[$axis]), abs($this->size[$axis] - $other->size[$axis]));
        }

        return $most;
    }

    public function isEmpty(): bool
    {
        return $this->volume() <= 0.0;
    }

    /** @return array{center: array{float, float, float}, size: array{float, float, float}, heading: float} */
    public function toArray(): array
    {
        return ['center' => $this->center, 'size' => $this->size, 'heading' => $this->heading];
    }

    /** @return array{float, float, float} */
    private static function three(Fields $fields, string $key, string $path): array
    {
        $numbers = $fields->list($key);
        foreach ($numbers as $i => $number) {
            if (! is_int($number) && ! is_float($number)) {
                throw InvalidValue::at("{$path}.{$key}[{$i}]", $number, 'a number');
            }
        }
        if (count($numbers) !== 3) {
            throw InvalidValue::at("{$path}.{$key}", $numbers, 'three numbers');
        }

        return [(float) $numbers[0], (float) $numbers[1], (float) $numbers[2]];
    }
}
