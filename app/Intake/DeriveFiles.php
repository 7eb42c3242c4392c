<?php

declare(strict_types=1);

namespace App\Intake;

use App\Help\ModelStage;
use App\Intake\Kinds\Kinds;
use App\Looks\LookAtObjects;
use App\Models\Item;
use App\Models\Project;
use App\Support\Job;
use Skeno\Core\Items\RefusedFile;
use Throwable;

/** Makes what is needed on the screen of some items: thumbnails, copies, tiles, what a bench plays. May run any number of times; what it does not come to is made when it is asked for. */
final class DeriveFiles extends Job
{
    public int $timeout = 3600;

    /** @param  list<int>  $items */
    public function __construct(private readonly array $items)
    {
        $this->onQueue(self::BEHIND);
    }

    public function subject(): string
    {
        return 'copies:'.($this->items[0] ?? 0);
    }

    public function handle(Kinds $kinds, ModelStage $stage): void
    {
        $projects = $unfinished = [];
        foreach (Item::query()->whereIn('id', $this->items)->with('asset')->get() as $item) {
            $projects[$item->project_id] = true;
            $kind = $kinds->of($item->asset->kind);
            if ($kind->isComplete($item->asset)) {
                continue;
            }
            try {
                if (! $kind->complete($item->asset)) {
                    $unfinished[] = $item->id;

                    continue;
                }
            } catch (RefusedFile $e) {
                // one that has become unreadable must not keep the others waiting
                report($e);
            }
            $item->asset->update(['derived_at' => now()]);
        }
        if ($unfinished !== []) {
            // behind whatever has come in meanwhile
            dispatch(new self($unfinished));
        }
        foreach (array_keys($projects) as $project) {
            LookAtObjects::ask($project);
            $of = Project::query()->find($project);
            $of === null || $stage->begin($of);
        }
    }

    /** Nobody waits for it: copies are made when they are asked for, and it is asked for again by the upkeep. */
    public function failed(?Throwable $e): void
    {
    }
}
