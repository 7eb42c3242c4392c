<?php

declare(strict_types=1);

namespace Skeno\Core;

/** The ids of marks and edits: 26 characters of Crockford's base 32, made where the mark is drawn. */
final class Ulid
{
    /** @throws InvalidValue */
    public static function check(mixed $id, string $path): string
    {
        if (! is_string($id) || preg_match('/^[0-7][0-9A-HJKMNP-TV-Z]{25}$/D', $id) !== 1) {
            throw InvalidValue::at($path, $id, 'a ULID (26 characters, upper case)');
        }

        return $id;
    }
}
