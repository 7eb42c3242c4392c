<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\ModelVersion;
use App\Support\RowJob;

final class LearnVersion extends RowJob
{
    protected static function rows(): string
    {
        return ModelVersion::class;
    }

    protected static function name(): string
    {
        return 'version';
    }

    protected function work(): void
    {
        app(Learning::class)->work(ModelVersion::query()->select(ModelVersion::COLUMNS)->with('model')->findOrFail($this->row));
    }
}
