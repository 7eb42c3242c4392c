<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\VolumeStore;
use App\Models\Item;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Volume\Growing;

/** Grows a region of a volume from a voxel, for the bench to be looked at: nothing is stored by it. */
final class GrowRegion
{
    /** mm: farther than any scan is wide. */
    private const FAR = 10_000.0;

    public function __construct(private readonly VolumeStore $volumes)
    {
    }

    /**
     * @param  Fields  $in  `{seed: [x, y, slice], low, high, distance}`, in the units of the scan and mm
     * @return array{slices: list<array{place: int, geometry: array<string, mixed>}>, voxels: int, ml: float, cut: bool}
     */
    public function __invoke(Item $item, Fields $in): array
    {
        if ($item->kind !== 'volume') {
            throw InvalidValue::at('item', $item->path, 'a volume');
        }
        $seed = $in->list('seed');
        if (count($seed) !== 3 || ! is_int($seed[0]) || ! is_int($seed[1]) || ! is_int($seed[2])) {
            throw InvalidValue::at('seed', $seed, 'three whole numbers');
        }
        $grown = Growing::from($this->volumes->planes($item->asset), [$seed[0], $seed[1], $seed[2]], $in->number('low'), $in->number('high'), min(self::FAR, $in->number('distance')));
        $slices = [];
        foreach ($grown->slices as $place => $mask) {
            $slices[] = ['place' => $place, 'geometry' => $mask->toArray()];
        }

        return ['slices' => $slices, 'voxels' => $grown->voxels, 'ml' => round($grown->voxels * VolumeStore::scan($item->asset)->grid->voxel() / 1000, 6), 'cut' => $grown->isCut];
    }
}
