<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use RuntimeException;

/** A file that is not taken as a picture, with the reason for people. */
final class RefusedPicture extends RuntimeException
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
