<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Texts;

use Skeno\Core\Formats\Csv\Csv;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\FactsTable;
use Skeno\Core\Text\Text;

/** A table of texts: CSV with a header, or JSONL with an object a line. What is in the columns is said by Columns. */
final class Table implements TextsReader
{
    /** Columns of a table at most. */
    private const MOST = 500;

    /** Bytes of a record of a CSV at most. */
    private const RECORD = 32 << 20;

    private const LONGEST_FACT = 200;

    /** @param  bool  $json  JSONL; else CSV */
    public function __construct(private readonly bool $json, private readonly Columns $columns)
    {
    }

    public static function isNamed(string $name): ?bool
    {
        return match (strtolower(pathinfo($name, PATHINFO_EXTENSION))) {
            'jsonl', 'ndjson' => true,
            'csv', 'tsv' => false,
            default => null,
        };
    }

    /**
     * What lies in a file, to be seen before it is taken.
     *
     * @return array{columns: list<string>, rows: list<array<array-key, string>>, guess: array{text: ?string, id: ?string, facts: list<string>}} the first rows, cells cut short
     *
     * @throws UnreadableLabels
     */
    public function look(string $file, int $rows = 5): array
    {
        $seen = $names = [];
        foreach ($this->rows($file) as $row) {
            if (! is_array($row)) {
                continue;
            }
            $names += array_fill_keys(array_map(strval(...), array_keys($row)), true);
            $cells = [];
            foreach ($row as $column => $cell) {
                $cells[(string) $column] = mb_strimwidth(self::word($cell), 0, 160, '…');
            }
            $seen[] = $cells;
            if (count($seen) === $rows) {
                break;
            }
        }
        $names = array_map(strval(...), array_keys($names));

        return ['columns' => $names, 'rows' => $seen, 'guess' => $this->columns->among($names)];
    }

    /** Whether a file is a table of texts, rather than one of labels: it has a column for them, and none for a class. */
    public static function isOfTexts(string $file): bool
    {
        try {
            $seen = (new self(self::isNamed($file) === true, Columns::guessed()))->look($file, 1);
        } catch (UnreadableLabels) {
            return false;
        }

        return $seen['guess']['text'] !== null && array_intersect(array_map(mb_strtolower(...), $seen['columns']), ['class', 'label', 'start']) === [];
    }

    public function texts(string $file): iterable
    {
        foreach ($this->entries($file) as $entry) {
            yield is_array($entry) ? $entry[0] : $entry;
        }
    }

    /**
     * The texts, each with all that stands in its row.
     *
     * @return iterable<array{ComingText, array<array-key, mixed>}|Skipped|Notice>
     */
    public function entries(string $file): iterable
    {
        $name = basename($file);
        $known = null;
        foreach ($this->rows($file) as $number => $row) {
            if (is_string($row)) {
                yield new Skipped($name, "line {$number}", $row);

                continue;
            }
            if ($known === null || $this->json) {
                // of a table the first row has all columns; of objects each has its own
                $names = array_map(strval(...), array_keys($row));
                $known = $this->known($names, $name, $number);
            }
            $body = $row[$known['text'] ?? ''] ?? null;
            if (! is_string($body) || $body === '') {
                yield new Skipped($name, "line {$number}", $body === '' ? 'its text is empty' : "it has no text in the column \"{$known['text']}\"");

                continue;
            }
            $facts = [];
            foreach ($known['facts'] as $column) {
                $value = mb_strimwidth(trim(self::word($row[$column] ?? '')), 0, self::LONGEST_FACT, '…');
                if ($value === '') {
                    continue;
                }
                if (! FactsTable::isKey($column) || count($facts) >= FactsTable::MOST_FACTS) {
                    yield new Notice('the column "'.mb_strimwidth($column, 0, 60, '…').'" can not be a fact and was left out');

                    continue;
                }
                $facts[$column] = $value;
            }
            if (str_contains($body, "\0")) {
                yield new Skipped($name, "line {$number}", 'its text holds null characters');

                continue;
            }
            yield [new ComingText($known['id'] === null ? '' : trim(self::word($row[$known['id']] ?? '')), "line {$number}", Text::of($body), $facts), $row];
        }
    }

    /**
     * @param  list<string>  $names
     * @return array{text: ?string, id: ?string, facts: list<string>}
     */
    private function known(array $names, string $file, int $number): array
    {
        try {
            $known = $this->columns->among($names);
        } catch (InvalidValue $e) {
            if ($this->json && $number > 1) {
                // a line may lack what others have
                return ['text' => $this->columns->text, 'id' => null, 'facts' => []];
            }
            throw UnreadableLabels::because("\"{$file}\": {$e->getMessage()}");
        }

        return $known['text'] === null && $number <= 2 ? throw UnreadableLabels::because("\"{$file}\": it is not said which column is the text; there are ".implode(', ', array_slice($names, 0, 12))) : $known;
    }

    /** @return iterable<int, array<array-key, mixed>|string> cells by column, by line; or why there are none */
    private function rows(string $file): iterable
    {
        return $this->json ? self::objects($file) : self::cells($file);
    }

    /** @return iterable<int, array<array-key, mixed>|string> */
    private static function objects(string $file): iterable
    {
        foreach (Lines::of($file) as $number => $line) {
            if (trim($line) === '') {
                continue;
            }
            $object = json_decode($line, true, 64);
            yield $number => is_array($object) && ! array_is_list($object) ? (count($object) <= self::MOST ? $object : 'it has more than '.self::MOST.' members') : 'it is no JSON object'.($object === null ? ': '.json_last_error_msg() : '');
        }
    }

    /** @return iterable<int, array<array-key, mixed>|string> */
    private static function cells(string $file): iterable
    {
        [$stream, $encoding] = Lines::open($file);
        try {
            // (a header of a million columns is counted, not taken apart)
            $first = (string) fgets($stream, self::RECORD);
            $separator = self::separator($first);
            if (substr_count($first, $separator) >= self::MOST) {
                throw UnreadableLabels::because('"'.basename($file).'": it has more than '.self::MOST.' columns');
            }
            fclose($stream);
            [$stream] = Lines::open($file);
            $names = fgetcsv($stream, self::RECORD, $separator, '"', '');
            $names = is_array($names) ? array_map(static fn (?string $name): string => trim((string) $name), $names) : [];
            if ($names === [] || $names === ['']) {
                throw UnreadableLabels::because('"'.basename($file).'": it has no first line that names its columns');
            }
            if (count(array_unique($names)) < count($names)) {
                throw UnreadableLabels::because('"'.basename($file).'": two of its columns have the same name');
            }
            for ($number = 2; ($row = fgetcsv($stream, self::RECORD, $separator, '"', '')) !== false; $number++) {
                if ($row === [null]) {
                    continue;
                }
                $cells = [];
                foreach ($names as $i => $name) {
                    $cell = $row[$i] ?? '';
                    if (! mb_check_encoding($cell, 'UTF-8')) {
                        $cells = "it is not in {$encoding}, as the file begins";
                        break;
                    }
                    $cells[$name] = Csv::text($cell);
                }
                yield $number => $cells;
            }
        } finally {
            fclose($stream);
        }
    }

    /** What stands between the columns: of comma, semicolon and tab what is there most often. */
    private static function separator(string $line): string
    {
        $counts = [',' => substr_count($line, ','), ';' => substr_count($line, ';'), "\t" => substr_count($line, "\t")];
        arsort($counts);

        return (string) array_key_first($counts);
    }

    private static function word(mixed $cell): string
    {
        return is_string($cell) ? $cell : ($cell === null ? '' : (is_scalar($cell) ? (string) json_encode($cell) : ''));
    }
}
