<?php

declare(strict_types=1);

namespace App\Rewording;

use App\Models\CodebookChange;
use App\Support\Job;
use DateTimeInterface;
use Throwable;

/** Puts the labels of a project into the words of its new codebook. Run again, it goes on where it was stopped. */
final class ApplyCodebookChange extends Job
{
    /** 0: again and again until `retryUntil`, since a full disk or a killed worker must not leave a project half changed */
    public int $tries = 0;

    public function __construct(private readonly int $change)
    {
    }

    public function subject(): string
    {
        return "change:{$this->change}";
    }

    public function retryUntil(): DateTimeInterface
    {
        return now()->addDays(7);
    }

    public function handle(RewriteMarks $rewrite): void
    {
        $change = CodebookChange::query()->with('project')->find($this->change);
        if ($change !== null && $change->state === 'working') {
            $rewrite($change);
        }
    }

    /** Half of the labels may be in the new words: it stays at work, is said, and the upkeep begins it again. */
    public function failed(?Throwable $e): void
    {
        CodebookChange::query()->whereKey($this->change)->where('state', 'working')->update(['error' => self::why($e)]);
    }
}
