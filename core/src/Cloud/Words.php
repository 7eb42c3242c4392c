<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Points in words, a line each, with whatever stands between their values. */
final class Words
{
    /** Bytes of a line. */
    public const MOST_LINE = 65_536;

    /**
     * @param  resource  $in
     * @param  list<string>  $names  of the columns, lower case
     * @param  ?int  $count  lines that are read; null: all
     * @param  string  $between  what parts values, as a pattern
     * @param  int  $line  number of the first line, for messages
     * @return iterable<Points>
     *
     * @throws RefusedCloud by line
     */
    public static function points($in, array $names, ?int $count, string $between = '\s+', int $line = 1, ?CloudLimits $limits = null): iterable
    {
        $columns = array_fill_keys($names, []);
        $read = 0;
        for (; $count === null || $read < $count; $line++) {
            $text = fgets($in, self::MOST_LINE);
            if ($text === false) {
                if ($count !== null) {
                    throw RefusedCloud::because('it is cut off: it says it has '.number_format($count).' points, and ends after '.number_format($read));
                }
                break;
            }
            $text = trim($text);
            if ($text === '' || str_starts_with($text, '#') || str_starts_with($text, '//')) {
                continue;
            }
            $words = preg_split("/{$between}/", $text) ?: [];
            foreach ($names as $i => $name) {
                $word = trim($words[$i] ?? '');
                $columns[$name][] = self::number($word) ?? throw RefusedCloud::because("line {$line} ".($word === '' ? 'lacks values' : 'says "'.mb_strimwidth(mb_scrub($word), 0, 20, '…').'" where a number belongs'));
            }
            $read++;
            $limits?->mustHold($read);
            if ($read % Points::SOME === 0) {
                yield Points::ofColumns($columns);
                $columns = array_fill_keys($names, []);
            }
        }
        if ($read % Points::SOME !== 0) {
            yield Points::ofColumns($columns);
        }
    }

    /** What a word says; no number where a scanner saw nothing. Null: it is no number at all. */
    public static function number(string $word): ?float
    {
        return is_numeric($word) ? (float) $word : (in_array(strtolower(ltrim($word, '+-')), ['nan', 'inf', 'infinity'], true) ? NAN : null);
    }
}
