<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a volume, with the reason for people. */
final class RefusedVolume extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
