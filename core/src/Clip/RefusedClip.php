<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a clip, with the reason for people. */
final class RefusedClip extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
