<?php

declare(strict_types=1);

namespace Skeno\Core\Archive;

use RuntimeException;

/** An archive refused as a whole: it is not one, or breaks a limit. Nothing of it has been taken. */
final class UnsafeArchive extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
