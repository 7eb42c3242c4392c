<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Plane;

/** The part of a frame in which an object is looked for, reduced so that the object is small enough to be compared quickly. */
final readonly class Sight
{
    private function __construct(private Sums $sums, private int $left, private int $top, private int $step)
    {
    }

    /**
     * @param  int  $size  px the longer side of the object comes to have at most about
     * @param  float  $rx  px by which the object may have moved to either side, $ry up or down
     */
    public static function of(Plane $plane, Box $box, int $size, float $rx, float $ry): self
    {
        $step = self::step($box, $size);
        // a rim for what grows and for samples between pixels; the grid is that of the whole picture, so that a still picture stays still
        $left = (int) floor(($box->x - $rx) / $step - 0.1 * $box->width / $step - 2) * $step;
        $top = (int) floor(($box->y - $ry) / $step - 0.1 * $box->height / $step - 2) * $step;
        $width = (int) ceil((1.2 * $box->width + 2 * $rx) / $step) + 5;
        $height = (int) ceil((1.2 * $box->height + 2 * $ry) / $step) + 5;

        return new self(Sums::of($plane->reduced($left, $top, $width, $height, $step)), $left, $top, $step);
    }

    /** px of the picture that become one. */
    public static function step(Box $box, int $size): int
    {
        return (int) max(1, round(max($box->width, $box->height) / $size));
    }

    /** What a part looks like; in px of the whole picture. */
    public function patch(Box $box): Patch
    {
        return Patch::of($this->sums, ($box->x - $this->left) / $this->step, ($box->y - $this->top) / $this->step, $box->width / $this->step, $box->height / $this->step);
    }

    /** The same with all samples counting alike. */
    public function even(Box $box): Patch
    {
        return Patch::of($this->sums, ($box->x - $this->left) / $this->step, ($box->y - $this->top) / $this->step, $box->width / $this->step, $box->height / $this->step, even: true);
    }

    /** The same on fewer samples, by whole pixels. */
    public function rough(Box $box, int $grid): Patch
    {
        return Patch::rough($this->sums, ($box->x - $this->left) / $this->step, ($box->y - $this->top) / $this->step, $box->width / $this->step, $box->height / $this->step, $grid);
    }
}
