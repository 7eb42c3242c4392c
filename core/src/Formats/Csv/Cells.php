<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\AttributeType;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Formats\UnreadableLabels;

/** Reads tables with a header cell by cell, and what cells say as answers. */
final class Cells
{
    private const LINE = 8 << 20;

    /**
     * @param  array<string, string>  $cells
     * @param  list<Attribute>  $attributes
     * @param  list<string>  $notices
     * @return array<string, Answer>
     */
    public static function answers(array $cells, array $attributes, array &$notices): array
    {
        $answers = [];
        foreach ($attributes as $attribute) {
            $cell = $cells[$attribute->key] ?? '';
            if ($cell === '') {
                continue;
            }
            $none = preg_match('/^\((\w+)\)$/', $cell, $m) === 1 ? NoValue::tryFrom($m[1]) : null;
            $answer = $none !== null ? Answer::none($none) : Answer::of(match ($attribute->type) {
                AttributeType::Many => explode(' ', $cell),
                AttributeType::YesNo => in_array(strtolower($cell), ['yes', 'true', '1'], true) ? true : (in_array(strtolower($cell), ['no', 'false', '0'], true) ? false : $cell),
                AttributeType::Number => is_numeric($cell) ? $cell + 0 : $cell,
                default => $cell,
            });
            $objection = $attribute->objection($answer);
            if ($objection !== null) {
                $notices[] = "an answer was left out: {$objection}";
            } else {
                $answers[$attribute->key] = $answer;
            }
        }

        return $answers;
    }

    /** @return iterable<int, array<string, string>> cells by column name, by the line's number in the table (the header is 1) */
    public static function lines(string $file): iterable
    {
        $stream = @fopen($file, 'rb');
        if ($stream === false) {
            throw UnreadableLabels::because('"'.basename($file).'" can\'t be read');
        }
        try {
            $header = fgetcsv($stream, self::LINE, ',', '"', '');
            if (! is_array($header) || ! isset($header[1])) {
                throw UnreadableLabels::because('"'.basename($file).'" is no table with columns');
            }
            $names = array_map(static fn (?string $name): string => strtolower(trim((string) preg_replace('/^\xEF\xBB\xBF/', '', (string) $name))), $header);
            for ($number = 2; ($row = fgetcsv($stream, self::LINE, ',', '"', '')) !== false; $number++) {
                if ($row === [null]) {
                    continue;
                }
                $cells = [];
                foreach ($names as $i => $name) {
                    $cells[$name] = mb_scrub(Csv::text($row[$i] ?? ''));
                }
                yield $number => $cells;
            }
        } finally {
            fclose($stream);
        }
    }

    /**
     * @param  array<string, string>  $cells
     * @param  list<string>  $names
     */
    public static function first(array $cells, array $names): ?string
    {
        foreach ($names as $name) {
            if (($cells[$name] ?? '') !== '') {
                return $cells[$name];
            }
        }

        return null;
    }
}
