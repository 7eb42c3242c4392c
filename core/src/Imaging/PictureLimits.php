<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

/** How large a picture may be, so that one file can't take the machine. */
final readonly class PictureLimits
{
    public function __construct(public int $maxBytes = 100_000_000, public int $maxPixels = 100_000_000)
    {
    }
}
