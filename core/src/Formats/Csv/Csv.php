<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

/** Lines of RFC 4180. A text that a spreadsheet would run as a formula is prefixed by an apostrophe; numbers stay numbers. */
final class Csv
{
    /** @param  list<string|int|float|null>  $cells */
    public static function line(array $cells): string
    {
        return implode(',', array_map(self::cell(...), $cells))."\r\n";
    }

    public static function cell(string|int|float|null $value): string
    {
        if (! is_string($value)) {
            return $value === null ? '' : (string) json_encode($value);
        }
        if ($value !== '' && str_contains("=+-@\t\r", $value[0])) {
            $value = "'{$value}";
        }

        return strpbrk($value, "\",\r\n") === false ? $value : '"'.str_replace('"', '""', $value).'"';
    }

    /** What `cell` made of a text, turned back. */
    public static function text(string $cell): string
    {
        return strlen($cell) > 1 && $cell[0] === "'" && str_contains("=+-@\t\r", $cell[1]) ? substr($cell, 1) : $cell;
    }
}
