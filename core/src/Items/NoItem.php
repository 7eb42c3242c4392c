<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

/** A file that is no item but belongs to one, such as a map of its labels: it is passed over rather than refused. */
final class NoItem extends RefusedFile
{
    public static function because(string $why): self
    {
        return new self($why);
    }
}
