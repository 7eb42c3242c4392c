<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\InvalidValue;

/** Where a picture lies in the picture a model looks at: stretched over all of it, or as large as it fits, in the middle. */
final readonly class Placement
{
    private function __construct(public int $left, public int $top, public int $columns, public int $rows, private int $width, private int $height)
    {
    }

    /** @throws InvalidValue when a side is less than 1 */
    public static function of(int $width, int $height, int $columns, int $rows, bool $keepsProportions): self
    {
        if (min($width, $height, $columns, $rows) < 1) {
            throw InvalidValue::at('size', "{$width} × {$height}", 'at least one pixel');
        }
        if (! $keepsProportions) {
            return new self(0, 0, $columns, $rows, $width, $height);
        }
        $scale = min($columns / $width, $rows / $height);
        [$w, $h] = [max(1, (int) round($width * $scale)), max(1, (int) round($height * $scale))];

        return new self(intdiv($columns - $w, 2), intdiv($rows - $h, 2), $w, $h, $width, $height);
    }

    /** A place across the model's picture, in px of the picture. */
    public function x(float $x): float
    {
        return ($x - $this->left) * $this->width / $this->columns;
    }

    /** A place down the model's picture, in px of the picture. */
    public function y(float $y): float
    {
        return ($y - $this->top) * $this->height / $this->rows;
    }
}
