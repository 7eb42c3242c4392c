<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Project;
use App\Quality\LookAtObjects;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;

/** Looks at objects and pictures that are new, a while at a time, so that imports and releases do not wait for it. */
final class LookAtProject implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 1200;

    public function __construct(private readonly int $project)
    {
    }

    public function handle(LookAtObjects $look): void
    {
        $project = Project::query()->find($this->project);
        if ($project === null) {
            return;
        }
        // what came in while it looked did not ask again
        if (! $look->run($project) || LookAtObjects::due($project->id) > 0) {
            $project->update(['looks_asked_at' => now()]);
            self::dispatch($this->project);
        } else {
            $project->update(['looks_asked_at' => null]);
        }
    }
}
