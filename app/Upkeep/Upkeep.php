<?php

declare(strict_types=1);

namespace App\Upkeep;

use Throwable;

/** What the worker does beside its jobs, every few minutes. */
final class Upkeep
{
    private const SECONDS = 180;

    private const SWEEP_SECONDS = 3600;

    private static float $last = 0.0;

    private static float $swept = 0.0;

    public function __construct(private readonly Resume $resume, private readonly Sweep $sweep)
    {
    }

    public function whenDue(): void
    {
        $now = hrtime(true) / 1e9;
        if (self::$last > 0.0 && $now - self::$last < self::SECONDS) {
            return;
        }
        self::$last = $now;
        try {
            ($this->resume)();
            if ($now - self::$swept > self::SWEEP_SECONDS) {
                self::$swept = $now;
                ($this->sweep)();
            }
        } catch (Throwable $e) {
            // upkeep must never keep the worker from its jobs; it is tried again in a few minutes
            report($e);
        }
    }
}
