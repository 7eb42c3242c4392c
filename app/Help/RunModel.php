<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Run;

final class RunModel extends HelpJob
{
    protected static function rows(): string
    {
        return Run::class;
    }

    protected static function name(): string
    {
        return 'run';
    }

    protected function work(): void
    {
        app(Runs::class)->work(Run::query()->with(['project', 'asked.endpoint'])->findOrFail($this->row));
    }
}
