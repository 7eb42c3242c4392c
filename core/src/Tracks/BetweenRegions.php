<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Raster\Simplification;

/**
 * Regions that can't be followed point by point (parts join, holes close, outlines would cross): both are laid upon each other on a fine grid, and
 * what lies between is worked out as for masks. Its outline is that of the grid, made plain; it never crosses itself.
 */
final readonly class BetweenRegions implements InBetween
{
    /** Cells of the grid along its longer side. */
    private const CELLS = 320;

    /** Cells per px at most, for small regions. */
    private const FINEST = 4.0;

    /** Tolerance of the outline, in cells: the steps of the grid are half a cell from what was meant. */
    private const TOLERANCE = 0.75;

    /**
     * @param  array{float, float}  $origin  px of the grid's corner, with the first region where it is
     * @param  array{float, float}  $way  px
     */
    private function __construct(private BetweenMasks $grid, private array $origin, private float $scale, private array $way)
    {
    }

    /** Where one is too thin for the grid the first holds until the second. */
    public static function of(Polygon $a, Polygon $b): InBetween
    {
        [$one, $two] = [$a->bounds(), $b->bounds()];
        $scale = min(self::FINEST, self::CELLS / max(1e-6, $one->width, $one->height, $two->width, $two->height));
        [$first, $second] = [self::laid($a, $one, $scale), self::laid($b, $two, $scale)];
        if ($first->isEmpty() || $second->isEmpty()) {
            return new Still($a);
        }
        [$ax, $ay] = BetweenMasks::center($first);
        [$bx, $by] = BetweenMasks::center($second);
        $way = [$two->x + $bx / $scale - $one->x - $ax / $scale, $two->y + $by / $scale - $one->y - $ay / $scale];
        // once more, both on one grid
        $both = Box::fromCorners(min($one->x, $two->x - $way[0]), min($one->y, $two->y - $way[1]), max($one->right(), $two->right() - $way[0]), max($one->bottom(), $two->bottom() - $way[1]));
        [$first, $second] = [self::laid($a, $both, $scale), self::laid($b, Box::of($both->x + $way[0], $both->y + $way[1], $both->width, $both->height), $scale)];

        return $first->isEmpty() || $second->isEmpty() ? new Still($a) : new self(BetweenMasks::of($first, $second), [$both->x, $both->y], $scale, $way);
    }

    public function at(float $t): Polygon
    {
        $rings = $plain = [];
        $points = 0;
        foreach (Contours::rings($this->grid->at($t)) as $ring) {
            $rings[] = $this->back($ring, $t);
            $plain[] = $this->back(Simplification::ring($ring, self::TOLERANCE), $t);
            $points += intdiv(count($ring), 2);
        }
        try {
            return Polygon::of($plain);
        } catch (InvalidValue) {
            // made plain they touch each other badly: the steps of the grid themselves never cross
            return Polygon::of($points <= Coordinates::MOST ? $rings : [$rings[0]], known: true);
        }
    }

    /**
     * @param  list<float>  $ring
     * @return list<float>
     */
    private function back(array $ring, float $t): array
    {
        return self::placed(self::placed($ring, 0.0, 0.0, 1 / $this->scale), $this->origin[0] + $t * $this->way[0], $this->origin[1] + $t * $this->way[1], 1.0);
    }

    /**
     * @param  list<float>  $ring
     * @return list<float> moved, then scaled
     */
    private static function placed(array $ring, float $dx, float $dy, float $scale): array
    {
        $placed = [];
        foreach ($ring as $i => $value) {
            $placed[] = ($value + ($i % 2 === 0 ? $dx : $dy)) * $scale;
        }

        return $placed;
    }

    /** The pixels of a region on a grid over a part of the plane. */
    private static function laid(Polygon $polygon, Box $part, float $scale): Mask
    {
        $rings = array_map(static fn (array $ring): array => self::placed($ring, -$part->x, -$part->y, $scale), $polygon->rings());

        return ScanConversion::mask($rings, max(1, (int) ceil($part->width * $scale)), max(1, (int) ceil($part->height * $scale)));
    }
}
