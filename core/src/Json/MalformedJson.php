<?php

declare(strict_types=1);

namespace Skeno\Core\Json;

use RuntimeException;

/** A file that is not the JSON it should be, with the place. */
final class MalformedJson extends RuntimeException
{
    public static function at(string $where, string $why): self
    {
        return new self("not valid JSON: {$where} {$why}");
    }
}
