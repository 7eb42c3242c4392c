<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Trial;
use App\Support\RowJob;

final class MeasureModel extends RowJob
{
    protected static function rows(): string
    {
        return Trial::class;
    }

    protected static function name(): string
    {
        return 'trial';
    }

    protected function work(): void
    {
        app(Trials::class)->work(Trial::query()->with(['project', 'asked.endpoint'])->findOrFail($this->row));
    }
}
