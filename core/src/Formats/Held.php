<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Marks\Mark;

/** A mark beside what a format holds of it: its shape after conversion and rounding. */
final readonly class Held
{
    /**
     * @param  bool  $converted  the format has no such shape and holds another one for it, so coordinates can't be compared
     * @param  ?int  $place  of a track: where on the axis this is held
     * @param  ?Geometry  $true  of a track: how it truly is there
     * @param  bool  $hidden  of a track: it is held as hidden there
     */
    public function __construct(public Mark $mark, public Geometry $geometry, public bool $converted = false, public ?int $place = null, public ?Geometry $true = null, public bool $hidden = false)
    {
    }
}
