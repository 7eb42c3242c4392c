<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;

/** The regions of an item's marks as pixels, each pixel given to the mark highest in the stack. */
final readonly class Painting
{
    /**
     * @param  list<array{Mark, Mask}>  $layers  marks that cover an area with the pixels left to them, lowest in the stack first
     * @param  int  $decided  pixels that more than one mark covers
     */
    private function __construct(public array $layers, public int $decided)
    {
    }

    /** The pixels left to a mark; null when it covers none, or others cover all of them. */
    public function left(Mark $mark): ?Mask
    {
        foreach ($this->layers as [$layer, $pixels]) {
            if ($layer->id === $mark->id && ! $pixels->isEmpty()) {
                return $pixels;
            }
        }

        return null;
    }

    /**
     * @param  bool  $boxes  whether upright boxes count as regions
     */
    public static function of(DatasetItem $item, bool $boxes = false): self
    {
        $covered = Mask::none($item->width, $item->height);
        $layers = [];
        $sum = 0.0;
        foreach (array_reverse($item->marks) as $mark) {
            $mask = $boxes || ! $mark->geometry instanceof Box ? self::mask($mark->geometry, $item->width, $item->height) : null;
            if ($mask === null) {
                continue;
            }
            $sum += $mask->area();
            $layers[] = [$mark, $mask->without($covered)];
            $covered = $covered->union($mask);
        }

        return new self(array_reverse($layers), (int) ($sum - $covered->area()));
    }

    /** The pixels a geometry covers; null for what covers no area. */
    public static function mask(Geometry $geometry, int $width, int $height): ?Mask
    {
        return match (true) {
            $geometry instanceof Mask => $geometry,
            $geometry instanceof Region => ScanConversion::mask($geometry->rings(), $width, $height),
            default => null,
        };
    }
}
