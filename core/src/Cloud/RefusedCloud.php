<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Items\RefusedFile;

/** A file that is not taken as a point cloud, with the reason for people. */
final class RefusedCloud extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
