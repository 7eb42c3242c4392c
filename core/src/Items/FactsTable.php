<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\InvalidValue;

/** Facts about pictures as a CSV table: a column that names the picture, and a column for each fact. */
final class FactsTable
{
    private const NAMES = ['path', 'file', 'filename', 'file_name', 'picture', 'image', 'name'];

    public const MOST_FACTS = 40;

    private const LONGEST = 200;

    /**
     * @param  string  $file  UTF-8, commas or semicolons, the first line naming the columns
     * @return iterable<int, array{0: string, 1: array<string, string>}> by line: the picture, and its facts; empty cells say nothing
     *
     * @throws InvalidValue when it is no such table; naming what was wrong
     */
    public static function read(string $file): iterable
    {
        $handle = fopen($file, 'rb') ?: throw InvalidValue::at('facts', basename($file), 'a file that can be read');
        try {
            $first = (string) fgets($handle, 100_000);
            $separator = substr_count($first, ';') > substr_count($first, ',') ? ';' : ',';
            $head = array_map(static fn (?string $cell): string => trim((string) $cell), str_getcsv((string) preg_replace('/^\xEF\xBB\xBF/', '', rtrim($first, "\r\n")), $separator, '"', ''));
            $of = null;
            foreach ($head as $i => $word) {
                $of ??= in_array(strtolower($word), self::NAMES, true) ? $i : null;
            }
            if ($of === null || count($head) < 2) {
                throw InvalidValue::at('facts', mb_strimwidth(mb_scrub($first), 0, 80, '…'), 'a first line with a column named '.implode(', ', self::NAMES).' and one for each fact');
            }
            $keys = array_diff_key($head, [$of => true]);
            foreach ($keys as $key) {
                if (! self::isKey($key)) {
                    throw InvalidValue::at('facts', $key, 'names of facts that begin with a letter, of letters, digits, spaces, dots, hyphens and underscores, 60 at most');
                }
            }
            if (count($keys) > self::MOST_FACTS || count(array_unique($keys)) < count($keys)) {
                throw InvalidValue::at('facts', count($keys), 'at most '.self::MOST_FACTS.' facts, each once');
            }
            for ($line = 2; ($cells = fgetcsv($handle, 100_000, $separator, '"', '')) !== false; $line++) {
                $facts = [];
                foreach ($keys as $i => $key) {
                    $value = mb_strimwidth(mb_scrub(trim($cells[$i] ?? '')), 0, self::LONGEST, '…');
                    if ($value !== '') {
                        $facts[$key] = $value;
                    }
                }
                $picture = mb_scrub(trim($cells[$of] ?? ''));
                if ($picture !== '') {
                    yield $line => [$picture, $facts];
                }
            }
        } finally {
            fclose($handle);
        }
    }

    public static function isKey(string $key): bool
    {
        return preg_match('/^\p{L}[\p{L}\p{N} ._-]{0,59}$/u', $key) === 1;
    }
}
