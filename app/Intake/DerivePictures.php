<?php

declare(strict_types=1);

namespace App\Intake;

use App\Files\AssetStore;
use App\Looks\LookAtObjects;
use App\Models\Item;
use App\Support\Job;
use Skeno\Core\Imaging\RefusedPicture;
use Throwable;

/** Makes thumbnail and screen copy of some items. May run any number of times; what it does not come to is made when it is asked for. */
final class DerivePictures extends Job
{
    public int $timeout = 1200;

    /** @param  list<int>  $items */
    public function __construct(private readonly array $items)
    {
        $this->onQueue(self::BEHIND);
    }

    public function subject(): string
    {
        return 'copies:'.($this->items[0] ?? 0);
    }

    public function handle(AssetStore $store): void
    {
        $projects = [];
        foreach (Item::query()->whereIn('id', $this->items)->with('asset')->get() as $item) {
            $projects[$item->project_id] = true;
            if ($store->isComplete($item->asset)) {
                continue;
            }
            try {
                $store->derived($item->asset, 'thumb');
                $store->derived($item->asset, 'screen');
                $store->tile($item->asset);
            } catch (RefusedPicture $e) {
                // one that has become unreadable must not keep the others waiting
                report($e);
            }
            $item->asset->update(['derived_at' => now()]);
        }
        foreach (array_keys($projects) as $project) {
            LookAtObjects::ask($project);
        }
    }

    /** Nobody waits for it: copies are made when they are asked for, and it is asked for again by the upkeep. */
    public function failed(?Throwable $e): void
    {
    }
}
