<?php

declare(strict_types=1);

namespace App\Chores;

use App\Models\Chore;
use App\Support\Cancelled;
use App\Support\Job;
use Throwable;

final class RunChore extends Job
{
    public function __construct(private readonly int $chore)
    {
    }

    public function subject(): string
    {
        return "chore:{$this->chore}";
    }

    public function handle(Chores $chores): void
    {
        $chore = Chore::query()->with('project')->find($this->chore);
        if ($chore === null || ! in_array($chore->state, ['waiting', 'working'], true)) {
            return;
        }
        try {
            $chores->run($chore);
        } catch (Cancelled) {
            return;
        } catch (Throwable $e) {
            if (! $this->givesUpOn($e)) {
                throw $e;
            }
        }
    }

    public function failed(?Throwable $e): void
    {
        Chore::query()->whereKey($this->chore)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => self::why($e)]);
    }
}
