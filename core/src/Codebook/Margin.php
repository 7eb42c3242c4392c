<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** How much air a box may leave around its object: `min` to `max`, in px or in per cent of the box's side. */
final readonly class Margin
{
    public function __construct(public float $min, public float $max, public bool $percent)
    {
    }

    /** @return array{float, float} least and most air in px for a side of this length */
    public function pixels(float $side): array
    {
        $unit = $this->percent ? $side / 100 : 1.0;

        return [$this->min * $unit, $this->max * $unit];
    }
}
