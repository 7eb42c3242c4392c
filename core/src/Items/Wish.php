<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** How whoever brings files in wants what is of many pictures to be taken. */
final readonly class Wish
{
    /** px an inch pages can be drawn at. */
    public const LEAST_RESOLUTION = 36;

    public const MOST_RESOLUTION = 600;

    /** mm from a voxel to the next, at most. */
    private const MOST_SPACING = 100_000.0;

    /**
     * @param  ?int  $resolution  px an inch pages of documents are drawn at; null: as the installation says
     * @param  bool  $bundles  the pictures of a folder are the pages of one document
     * @param  bool  $frames  the scans of a folder are the frames of one sequence
     * @param  ?array{float, float, float}  $slices  the pictures of a folder are the slices of one volume: mm across, down and from slice to slice
     */
    public function __construct(public ?int $resolution = null, public bool $bundles = false, public ?array $slices = null, public bool $frames = false)
    {
    }

    /**
     * Reads `{resolution?, bundles?, slices?: [x, y, z], frames?}`.
     *
     * @throws InvalidValue
     */
    public static function fromFields(Fields $in): self
    {
        $slices = null;
        if ($in->has('slices')) {
            $spacing = [];
            foreach ($in->list('slices') as $i => $mm) {
                $spacing[] = (is_int($mm) || is_float($mm)) && $mm > 0 && $mm <= self::MOST_SPACING ? (float) $mm : throw InvalidValue::at($in->path("slices[{$i}]"), $mm, 'mm, more than 0');
            }
            $slices = count($spacing) === 3 ? [$spacing[0], $spacing[1], $spacing[2]] : throw InvalidValue::at($in->path('slices'), $in->raw('slices'), 'three numbers: mm across, down and from slice to slice');
        }
        $bundles = $in->bool('bundles');
        if ($bundles && $slices !== null) {
            throw InvalidValue::at($in->path('slices'), $in->raw('slices'), 'nothing, since the pictures are the pages of documents');
        }

        return new self($in->optionalInt('resolution', self::LEAST_RESOLUTION, self::MOST_RESOLUTION), $bundles, $slices, $in->bool('frames'));
    }

    /** Whether pictures are put together. */
    public function gathersPictures(): bool
    {
        return $this->bundles || $this->slices !== null;
    }

    /** Whether files are put together at all. */
    public function gathers(): bool
    {
        return $this->gathersPictures() || $this->frames;
    }

    /** @return array{resolution?: int, bundles?: true, slices?: array{float, float, float}, frames?: true} */
    public function toArray(): array
    {
        return ($this->resolution === null ? [] : ['resolution' => $this->resolution]) + ($this->bundles ? ['bundles' => true] : []) + ($this->slices === null ? [] : ['slices' => $this->slices]) + ($this->frames ? ['frames' => true] : []);
    }
}
