<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Intake\AssetStore;
use App\Models\Item;
use App\Quality\LookAtObjects;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;

/** Makes thumbnail and screen copy of some items. May run any number of times. */
final class DerivePictures implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 1200;

    /** @param  list<int>  $items */
    public function __construct(private readonly array $items)
    {
    }

    public function handle(AssetStore $store): void
    {
        $projects = [];
        foreach (Item::query()->whereIn('id', $this->items)->with('asset')->get() as $item) {
            $store->derived($item->asset, 'thumb');
            $store->derived($item->asset, 'screen');
            $item->asset->update(['derived_at' => now()]);
            $projects[$item->project_id] = true;
        }
        foreach (array_keys($projects) as $project) {
            LookAtObjects::ask($project);
        }
    }
}
