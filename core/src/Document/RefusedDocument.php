<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a document, with the reason for people. */
final class RefusedDocument extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
