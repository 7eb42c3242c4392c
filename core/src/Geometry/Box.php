<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * An upright box in picture pixels: (0,0) is the top-left corner of the top-left pixel, x right, y down. A box over the whole of
 * a w×h picture is 0,0,w,h. Width and height may be 0 (a slip of the hand is kept and found by the check), never negative.
 */
final readonly class Box implements Region
{
    /** No picture is larger; a coordinate beyond it is a mistake or an attack. */
    public const LIMIT = 1_000_000.0;

    private function __construct(public float $x, public float $y, public float $width, public float $height)
    {
    }

    /** @throws InvalidValue when a number is not finite, a side negative, or a coordinate beyond ±LIMIT */
    public static function of(float $x, float $y, float $width, float $height, string $path = 'box'): self
    {
        foreach (['x' => $x, 'y' => $y, 'width' => $width, 'height' => $height] as $name => $value) {
            if (! is_finite($value) || abs($value) > self::LIMIT) {
                throw InvalidValue::at("{$path}.{$name}", $value, 'a number of at most '.(int) self::LIMIT);
            }
        }
        if ($width < 0 || $height < 0) {
            throw InvalidValue::at($path.($width < 0 ? '.width' : '.height'), min($width, $height), 'a side of 0 or more');
        }

        return new self($x, $y, $width, $height);
    }

    public static function fromCorners(float $x1, float $y1, float $x2, float $y2): self
    {
        return self::of(min($x1, $x2), min($y1, $y2), abs($x2 - $x1), abs($y2 - $y1));
    }

    /** Reads `{x, y, width, height}`. */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->number('x'), $fields->number('y'), $fields->number('width'), $fields->number('height'), $path);
    }

    /** @return array{x: float, y: float, width: float, height: float} */
    public function toArray(): array
    {
        return ['x' => $this->x, 'y' => $this->y, 'width' => $this->width, 'height' => $this->height];
    }

    /** As it is on a picture that is larger or smaller by this factor. */
    public function scaled(float $by): self
    {
        return $by === 1.0 ? $this : self::of($this->x * $by, $this->y * $by, $this->width * $by, $this->height * $by);
    }

    public function bounds(): self
    {
        return $this;
    }

    public function rings(): array
    {
        return [[$this->x, $this->y, $this->right(), $this->y, $this->right(), $this->bottom(), $this->x, $this->bottom()]];
    }

    public function right(): float
    {
        return $this->x + $this->width;
    }

    public function bottom(): float
    {
        return $this->y + $this->height;
    }

    public function area(): float
    {
        return $this->width * $this->height;
    }

    public function isEmpty(): bool
    {
        return $this->width <= 0.0 || $this->height <= 0.0;
    }

    /** The common part; null when the boxes share no area. */
    public function intersection(self $other): ?self
    {
        $x = max($this->x, $other->x);
        $y = max($this->y, $other->y);
        $width = min($this->right(), $other->right()) - $x;
        $height = min($this->bottom(), $other->bottom()) - $y;

        return $width > 0 && $height > 0 ? new self($x, $y, $width, $height) : null;
    }

    /** Intersection over union, 0 to 1; 1 for two equal boxes of no area. */
    public function iou(self $other): float
    {
        $common = $this->intersection($other)?->area() ?? 0.0;
        $union = $this->area() + $other->area() - $common;

        return $union > 0 ? $common / $union : (float) ($this->toArray() === $other->toArray());
    }

    /** How far the box reaches past the edges of a picture, in px; 0 when it lies inside. */
    public function overhang(int $width, int $height): float
    {
        return max(0.0, -$this->x, -$this->y, $this->right() - $width, $this->bottom() - $height);
    }

    /** The part inside a picture; null when none is. */
    public function clippedTo(int $width, int $height): ?self
    {
        return $this->overhang($width, $height) > 0 ? $this->intersection(new self(0, 0, $width, $height)) : $this;
    }

    public function liesOutside(int $width, int $height): bool
    {
        return $this->right() <= 0 || $this->bottom() <= 0 || $this->x >= $width || $this->y >= $height;
    }
}
