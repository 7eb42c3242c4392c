<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Run;
use App\Support\RowJob;
use Throwable;

final class RunModel extends RowJob
{
    protected static function rows(): string
    {
        return Run::class;
    }

    protected static function name(): string
    {
        return 'run';
    }

    public function failed(?Throwable $e): void
    {
        parent::failed($e);
        Runs::letGo($this->row);
    }

    protected function work(): void
    {
        // what is asked may be slow, and no job takes for ever: the rest is another's
        if (! app(Runs::class)->work(Run::query()->with(['project', 'asked.endpoint', 'prompt.asked.endpoint'])->findOrFail($this->row), Runs::SLICE)) {
            dispatch(new self($this->row));
        }
    }
}
