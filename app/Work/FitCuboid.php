<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\CloudStore;
use App\Models\Item;
use Skeno\Core\Cloud\Fitting;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** Fits a cuboid to the points of a frame, for the bench to be looked at: nothing is stored by it. */
final class FitCuboid
{
    public function __construct(private readonly CloudStore $clouds)
    {
    }

    /**
     * @param  Fields  $in  the `frame`, and what `Fitting` is asked
     * @return array{geometry: array<string, mixed>, points: int, found: bool} found: false, there are too few points to fit it to
     */
    public function __invoke(Item $item, Fields $in): array
    {
        if ($item->kind !== 'cloud') {
            throw InvalidValue::at('item', $item->path, 'a cloud');
        }
        $fitting = Fitting::asked($this->clouds->frame($item->asset, $in->int('frame', 0, max(0, ($item->places() ?? 1) - 1))), $in);

        return ['geometry' => $fitting->cuboid->toArray(), 'points' => $fitting->points, 'found' => $fitting->found];
    }
}
