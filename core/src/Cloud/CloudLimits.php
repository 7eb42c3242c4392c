<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** How large a point cloud may be, so that one file can't take the machine. What a header announces is held against them before anything is read. */
final readonly class CloudLimits
{
    public function __construct(public int $maxPoints = 5_000_000, public int $maxBytes = 2_000_000_000)
    {
    }

    /** @throws RefusedCloud */
    public function mustHold(int $points): void
    {
        if ($points < 1) {
            throw RefusedCloud::because('it has no points');
        }
        if ($points > $this->maxPoints) {
            throw RefusedCloud::because('it says it has '.number_format($points).' points; at most '.number_format($this->maxPoints).' are taken');
        }
    }

    /** @throws RefusedCloud */
    public function mustWeigh(int $bytes): void
    {
        if ($bytes > $this->maxBytes) {
            throw RefusedCloud::because(sprintf('the file has %s MB; at most %s MB are taken', round($bytes / 1e6, 1), round($this->maxBytes / 1e6, 1)));
        }
    }
}
