<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a text, with the reason for people. */
final class RefusedText extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
