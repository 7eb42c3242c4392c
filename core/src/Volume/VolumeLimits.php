<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/** How large a volume may be, so that one file can't take the machine. What a header announces is held against them before anything is read. */
final readonly class VolumeLimits
{
    /**
     * @param  int  $maxSide  voxels along an axis
     * @param  int  $maxBytes  of the file as it comes
     */
    public function __construct(public int $maxVoxels = 1_100_000_000, public int $maxSide = 4_096, public int $maxBytes = 20_000_000_000)
    {
    }

    /**
     * @param  array{int, int, int}  $sizes
     *
     * @throws RefusedVolume
     */
    public function mustHold(array $sizes): void
    {
        $words = implode(' × ', $sizes);
        if (min($sizes) < 1) {
            throw RefusedVolume::because("it says it has {$words} voxels: an axis without any");
        }
        if (max($sizes) > $this->maxSide || $this->maxVoxels < $sizes[0] * $sizes[1] * $sizes[2]) {
            throw RefusedVolume::because("it says it has {$words} voxels; at most ".number_format($this->maxSide).' along an axis and '.number_format($this->maxVoxels / 1e6).' million in all are taken');
        }
    }

    /** @throws RefusedVolume */
    public function mustWeigh(int $bytes): void
    {
        if ($bytes > $this->maxBytes) {
            throw RefusedVolume::because(sprintf('the file has %s MB; at most %s MB are taken', round($bytes / 1e6, 1), round($this->maxBytes / 1e6, 1)));
        }
    }
}
