<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a picture, with the reason for people. */
final class RefusedPicture extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
