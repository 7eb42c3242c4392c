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
        // what comes in from now on asks for itself
        $project->update(['looks_asked_at' => null]);
        if (! $look->run($project)) {
            $project->update(['looks_asked_at' => now()]);
            self::dispatch($this->project);
        }
    }
}
