<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Run;
use App\Support\Cancelled;
use App\Support\Job;
use Throwable;

final class RunModel extends Job
{
    public function __construct(private readonly int $run)
    {
    }

    public function subject(): string
    {
        return "run:{$this->run}";
    }

    public function handle(Runs $runs): void
    {
        $run = Run::query()->with(['project', 'asked.endpoint'])->find($this->run);
        if ($run === null || ! in_array($run->state, ['waiting', 'working'], true)) {
            return;
        }
        try {
            $runs->work($run);
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
        Run::query()->whereKey($this->run)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => self::why($e)]);
    }
}
