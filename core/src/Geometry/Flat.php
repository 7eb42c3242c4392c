<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/** A geometry that lies on a plane: a picture, a frame, a slice, a page. In its pixels, see Box for the axes. */
interface Flat extends Geometry
{
    /** The smallest upright box around it. */
    public function bounds(): Box;

    /** Covered area in px²; 0 for what covers none (points, lines). */
    public function area(): float;
}
