<?php

declare(strict_types=1);

namespace Skeno\Core\Assist;

use Skeno\Core\Codebook\Margin;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Plane;

/**
 * How much air a box leaves around its object, side by side, from the picture's edges. For each side the columns (rows) near it are
 * weighed by how strongly brightness changes across them along the middle half of the side's object; the outermost column that reaches
 * half of the strongest weight is taken for the object's edge. Where nothing stands out, the side is unclear and nothing is claimed.
 */
final class Tightness
{
    /** How far from the side the object's edge is looked for: a share of the box, and never more or less than these px. */
    private const REACH = 0.25;

    private const LEAST = 4;

    private const MOST = 40;

    /** Weight, in grey levels a pixel, below which nothing stands out. */
    private const FAINT = 4.0;

    /**
     * @param  Plane  $plane  brightness of the picture, or of a part with the box in it
     * @param  float  $dx  of the plane's left edge in the picture
     * @param  float  $dy  of its upper edge
     * @return array<'left'|'top'|'right'|'bottom', array{air: ?float, verdict: 'fits'|'loose'|'cuts'|'unclear'}> air in px, negative where the box cuts
     */
    public static function of(Plane $plane, Box $box, Margin $margin, float $dx = 0.0, float $dy = 0.0): array
    {
        $left = $box->x - $dx;
        $top = $box->y - $dy;
        $sides = [];
        foreach (['left', 'top', 'right', 'bottom'] as $side) {
            $upright = $side === 'left' || $side === 'right';
            $length = $upright ? $box->width : $box->height;
            $at = match ($side) {
                'left' => $left,
                'right' => $left + $box->width,
                'top' => $top,
                'bottom' => $top + $box->height,
            };
            // along the side only its middle: corners of a box hold background
            $span = $upright ? [$top + $box->height / 4, $top + $box->height * 3 / 4] : [$left + $box->width / 4, $left + $box->width * 3 / 4];
            $reach = (int) max(self::LEAST, min(self::MOST, $length * self::REACH));
            $outward = $side === 'left' || $side === 'top' ? -1 : 1;
            $air = self::air($plane, $upright, $at, $span, $reach, $outward);
            [$least, $most] = $margin->pixels($length);
            $sides[$side] = [
                'air' => $air === null ? null : round($air, 1),
                'verdict' => match (true) {
                    $air === null => 'unclear',
                    // edges are found to about a pixel
                    $air > $most + 1.0 => 'loose',
                    $air < $least - 1.0 => 'cuts',
                    default => 'fits',
                },
            ];
        }

        return $sides;
    }

    /** @param  array{float, float}  $span */
    private static function air(Plane $plane, bool $upright, float $at, array $span, int $reach, int $outward): ?float
    {
        $weights = [];
        $from = (int) floor($span[0]);
        $to = max($from + 1, (int) ceil($span[1]));
        for ($offset = -$reach; $offset <= $reach; $offset++) {
            // the border between two pixels, counted outward from the side
            $border = (int) round($at) + $outward * $offset;
            $sum = 0.0;
            $n = 0;
            for ($along = $from; $along < $to; $along++) {
                $a = $upright ? $plane->at($border - 1, $along) : $plane->at($along, $border - 1);
                $b = $upright ? $plane->at($border, $along) : $plane->at($along, $border);
                if ($a !== null && $b !== null) {
                    $sum += abs($a - $b);
                    $n++;
                }
            }
            $weights[$offset] = $n > 0 ? $sum / $n : 0.0;
        }
        $sorted = array_values($weights);
        sort($sorted);
        $strongest = $sorted[count($sorted) - 1] ?? 0.0;
        // an edge must stand out from what is usual here: leaves and noise have gradients everywhere
        $usual = $sorted[intdiv(count($sorted), 2)];
        if ($strongest < self::FAINT || $strongest < 2 * $usual) {
            return null;
        }
        for ($offset = $reach; $offset >= -$reach; $offset--) {
            if ($weights[$offset] >= $strongest / 2) {
                return (float) -$offset;
            }
        }

        return null;
    }
}
