<?php

declare(strict_types=1);

namespace App\Looks;

use App\Models\Project;
use App\Support\Job;
use Illuminate\Support\Facades\DB;
use Throwable;

/** Looks at objects and pictures that are new, a while at a time, so that imports and releases do not wait for it. */
final class LookAtProject extends Job
{
    public int $timeout = 1200;

    public function __construct(private readonly int $project)
    {
        $this->onQueue(self::BEHIND);
    }

    public function subject(): string
    {
        return "looks:{$this->project}";
    }

    public function handle(LookAtObjects $look): void
    {
        $project = Project::query()->find($this->project);
        if ($project === null) {
            return;
        }
        $all = $look->run($project);
        DB::transaction(function () use ($project, $all): void {
            // what came in while it looked did not ask again
            $more = ! $all || LookAtObjects::due($project->id) > 0;
            $project->update(['looks_asked_at' => $more ? now() : null]);
            if ($more) {
                self::dispatch($this->project);
            }
        });
    }

    /** Nothing hangs on it; it is asked for again with the next change, or by the upkeep. */
    public function failed(?Throwable $e): void
    {
        Project::query()->whereKey($this->project)->update(['looks_asked_at' => null]);
    }
}
