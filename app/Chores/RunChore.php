<?php

declare(strict_types=1);

namespace App\Chores;

use App\Models\Chore;
use App\Support\RowJob;

final class RunChore extends RowJob
{
    protected static function rows(): string
    {
        return Chore::class;
    }

    protected static function name(): string
    {
        return 'chore';
    }

    protected function work(): void
    {
        app(Chores::class)->run(Chore::query()->with('project')->findOrFail($this->row));
    }
}
