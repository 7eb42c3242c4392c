<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\Item;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Volume\Solid;

/** Works on an object of a volume as one body, for the bench to be looked at: nothing is stored by it. */
final class ReworkSolid
{
    private const OPERATIONS = ['largest', 'smooth', 'fill'];

    /**
     * @param  Fields  $in  `{op, slices: [{place, geometry}]}`: what it covers of each slice
     * @return array{slices: list<array{place: int, geometry: array<string, mixed>}>, parts: ?int} what it covers then, and of how many parts the largest was taken
     */
    public function __invoke(Item $item, Fields $in): array
    {
        if ($item->kind !== 'volume') {
            throw InvalidValue::at('item', $item->path, 'a volume');
        }
        $op = $in->string('op', 20);
        if (! in_array($op, self::OPERATIONS, true)) {
            throw InvalidValue::at('op', $op, implode(', ', self::OPERATIONS));
        }
        $slices = [];
        foreach ($in->objects('slices') as $i => $slice) {
            $mask = Mask::fromFields($slice->object('geometry'), "slices[{$i}].geometry");
            if ($mask->width !== $item->asset->width || $mask->height !== $item->asset->height) {
                throw InvalidValue::at("slices[{$i}].geometry.size", "{$mask->width} × {$mask->height}", "{$item->asset->width} × {$item->asset->height}, the size of a slice");
            }
            $slices[$slice->int('place', 0, ($item->places() ?? 1) - 1)] = $mask;
        }
        $solid = $slices === [] ? throw InvalidValue::at('slices', [], 'a slice at least') : Solid::of($slices);
        $parts = null;
        if ($op === 'largest') {
            [$solid, $parts] = $solid->largest();
        } else {
            $solid = $op === 'fill' ? $solid->filled() : $solid->smoothed();
        }
        $all = [];
        $last = ($item->places() ?? 1) - 1;
        foreach ($solid->slices() as $place => $mask) {
            // what was smoothed out over the ends of the scan is none
            if ($place >= 0 && $place <= $last) {
                $all[] = ['place' => $place, 'geometry' => $mask->toArray()];
            }
        }

        return ['slices' => $all, 'parts' => $parts];
    }
}
