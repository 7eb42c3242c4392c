<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** `{cx, cy, rx, ry, angle}`: half-axes in px, turned about the centre by degrees clockwise on the screen. */
final readonly class Ellipse implements Region
{
    private function __construct(public float $cx, public float $cy, public float $rx, public float $ry, public float $angle)
    {
    }

    /** @throws InvalidValue */
    public static function of(float $cx, float $cy, float $rx, float $ry, float $angle = 0.0, string $path = 'ellipse'): self
    {
        foreach (['cx' => $cx, 'cy' => $cy, 'rx' => $rx, 'ry' => $ry, 'angle' => $angle] as $name => $value) {
            Coordinates::number($value, "{$path}.{$name}");
        }
        foreach (['rx' => $rx, 'ry' => $ry] as $name => $value) {
            if ($value < 0) {
                throw InvalidValue::at("{$path}.{$name}", $value, 'a half-axis of 0 or more');
            }
        }

        return new self($cx, $cy, $rx, $ry, $angle);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->number('cx'), $fields->number('cy'), $fields->number('rx'), $fields->number('ry'), $fields->optionalNumber('angle') ?? 0.0, $path);
    }

    /**
     * The outline as a polygon with its points on the ellipse, so fine that no point of the ellipse is farther than a quarter of a pixel
     * from it (sagitta of a circle of the longer half-axis: r(1 − cos(π/n))).
     */
    public function rings(): array
    {
        $longest = max($this->rx, $this->ry, 0.5);
        $n = (int) min(720, max(12, ceil(M_PI / acos(max(0.0, 1 - 0.25 / $longest)))));
        $cos = cos(deg2rad($this->angle));
        $sin = sin(deg2rad($this->angle));
        $ring = [];
        for ($i = 0; $i < $n; $i++) {
            $x = $this->rx * cos(2 * M_PI * $i / $n);
            $y = $this->ry * sin(2 * M_PI * $i / $n);
            array_push($ring, $this->cx + $x * $cos - $y * $sin, $this->cy + $x * $sin + $y * $cos);
        }

        return [$ring];
    }

    public function bounds(): Box
    {
        $cos = cos(deg2rad($this->angle));
        $sin = sin(deg2rad($this->angle));
        $dx = hypot($this->rx * $cos, $this->ry * $sin);
        $dy = hypot($this->rx * $sin, $this->ry * $cos);

        return Box::of($this->cx - $dx, $this->cy - $dy, 2 * $dx, 2 * $dy);
    }

    public function area(): float
    {
        return M_PI * $this->rx * $this->ry;
    }

    public function isEmpty(): bool
    {
        return $this->rx <= 0.0 || $this->ry <= 0.0;
    }

    /** @return array{cx: float, cy: float, rx: float, ry: float, angle: float} */
    public function toArray(): array
    {
        return ['cx' => $this->cx, 'cy' => $this->cy, 'rx' => $this->rx, 'ry' => $this->ry, 'angle' => $this->angle];
    }
}
