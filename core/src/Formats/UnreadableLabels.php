<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use RuntimeException;

/** A label file that is not what it should be; nothing of it was taken. */
final class UnreadableLabels extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
