<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

/** How large a clip may be and what decoding it may take, so that one file can't take the machine. */
final readonly class ClipLimits
{
    /**
     * @param  int  $maxPixels  of a frame
     * @param  int  $maxSeconds  the clip may last
     * @param  int  $memory  bytes of address space a decoder may have
     * @param  int  $patience  seconds a decoder may run
     */
    public function __construct(
        public int $maxBytes = 20_000_000_000,
        public int $maxPixels = 36_000_000,
        public int $maxFrames = 60_000,
        public int $maxSeconds = 14_400,
        public int $memory = 6_000_000_000,
        public int $patience = 3_000,
    ) {
    }
}
