<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\CodebookChange;
use App\Projects\RewriteMarks;
use DateTimeInterface;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;

/** Puts the labels of a project into the words of its new codebook. Run again, it goes on where it was stopped. */
final class ApplyCodebookChange implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 3600;

    /** 0: again and again until `retryUntil`, since a full disk or a killed worker must not leave a project half changed */
    public int $tries = 0;

    public int $backoff = 5;

    public function __construct(private readonly int $change)
    {
    }

    public function retryUntil(): DateTimeInterface
    {
        return now()->addDays(7);
    }

    public function handle(RewriteMarks $rewrite): void
    {
        $change = CodebookChange::query()->with('project')->findOrFail($this->change);
        if ($change->state === 'working') {
            $rewrite($change);
        }
    }
}
