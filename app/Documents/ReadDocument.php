<?php

declare(strict_types=1);

namespace App\Documents;

use App\Models\Reading;
use App\Support\RowJob;

/** Reads the pages of a document that brought no words, behind everything else. */
final class ReadDocument extends RowJob
{
    /** Seconds after which it hands on to one that follows, so that others get their turn. */
    private const SECONDS = 8;

    protected static function rows(): string
    {
        return Reading::class;
    }

    protected static function name(): string
    {
        return 'reading';
    }

    protected function work(): void
    {
        if (! app(Readings::class)->run($this->row, self::SECONDS)) {
            dispatch((new self($this->row))->onQueue(self::BEHIND));
        }
    }
}
