<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

/** The stations of a route. */
enum Stage: string
{
    case Model = 'model';
    case Label = 'label';
    case Review = 'review';
    case Expert = 'expert';

    /** Whether somebody there decides on the work of an earlier station, instead of doing it. */
    public function decides(): bool
    {
        return $this === self::Review || $this === self::Expert;
    }

    /** @return list<self> */
    public static function deciding(): array
    {
        return array_values(array_filter(self::cases(), static fn (self $stage): bool => $stage->decides()));
    }
}
