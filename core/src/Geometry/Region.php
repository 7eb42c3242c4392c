<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/** A flat geometry that covers an area and can say it by rings: even-odd over all of them. */
interface Region extends Flat
{
    /** @return list<list<float>> closed rings, flat x, y, x, y …; the last point joins the first */
    public function rings(): array;
}
