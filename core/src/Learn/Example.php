<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Closure;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Imaging\Colours;

/** One accepted picture: what a model learns from, or is measured by. */
final readonly class Example
{
    /**
     * @param  Closure(int, int, int, int, int, int): Colours  $part  a part of the picture in a size: left, top, width, height, columns, rows
     * @param  int  $width  of the picture in px, $height likewise
     * @param  list<array{class: string, geometry: Geometry}>  $things  that are on it, in px of the picture
     * @param  list<Geometry>  $unknown  what is not to be judged: neither a thing nor ground
     */
    public function __construct(public Closure $part, public int $width, public int $height, public array $things, public array $unknown = [])
    {
    }

    /** The whole picture in a size. */
    public function picture(int $columns, int $rows): Colours
    {
        return ($this->part)(0, 0, $this->width, $this->height, $columns, $rows);
    }
}
