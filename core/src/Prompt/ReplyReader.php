<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\AttributeType;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Option;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Text\Text;

/**
 * Reads what a model says of a text. A reply is a stranger's: it may be no JSON, name classes nobody has, words that are not there, offsets that
 * do not fit. What can be meant in one way only is mended and said; anything else is left out and said.
 */
final class ReplyReader
{
    /** Bytes of a reply that are looked at. */
    public const MOST_BYTES = 2_000_000;

    /** Spans of a reply. */
    private const MOST_SPANS = 5000;

    /** Lines of each list that are kept; of more the first. */
    private const MOST_LISTED = 200;

    /** @var list<array{what: string, how: string}> */
    private array $mended = [];

    /** @var list<array{what: string, why: string}> */
    private array $left = [];

    private function __construct(private readonly Codebook $codebook, private readonly Task $task, private readonly Text $text)
    {
    }

    /** @param  string  $said  by the model */
    public static function read(string $said, Text $text, Codebook $codebook, Task $task): Reply
    {
        $reader = new self($codebook, $task->within($codebook), $text);
        $data = $reader->json($said);

        return $data === null ? new Reply([], [], [], [], $reader->left) : $reader->all($data);
    }

    /** @param  array<array-key, mixed>  $data */
    private function all(array $data): Reply
    {
        $spans = $this->task->classes === [] ? [] : $this->spans($data['spans'] ?? null);
        $answers = $this->task->questions === [] ? [] : $this->answers($data['answers'] ?? null);
        $tags = $this->task->tags === [] ? [] : $this->tags($data['tags'] ?? null);

        return new Reply($spans, $answers, $tags, array_slice($this->mended, 0, self::MOST_LISTED), array_slice($this->left, 0, self::MOST_LISTED));
    }

    /** @return ?array<array-key, mixed> */
    private function json(string $said): ?array
    {
        if (strlen($said) > self::MOST_BYTES) {
            $this->leave('the reply', 'it is longer than '.(self::MOST_BYTES / 1e6).' MB');

            return null;
        }
        $data = json_decode($said, true, 32);
        if (is_array($data) && self::isObject($data, $said)) {
            return $data;
        }
        // words round it, a fence of code: there is one object from the first brace to the last
        [$from, $to] = [strpos($said, '{'), strrpos($said, '}')];
        $inner = $from === false || $to === false || $to < $from ? null : json_decode(substr($said, $from, $to - $from + 1), true, 32);
        if (is_array($inner) && self::isObject($inner, '{')) {
            $this->mend('the reply', 'words stood round its JSON');

            return $inner;
        }
        $this->leave('the reply', trim($said) === '' ? 'it is empty' : 'it is no JSON: '.mb_strimwidth(trim((string) preg_replace('/\s+/', ' ', mb_scrub($said))), 0, 80, '…'));

        return null;
    }

    /**
     * PHP has one empty array for the two of JSON.
     *
     * @param  array<array-key, mixed>  $data
     */
    private static function isObject(array $data, string $said): bool
    {
        return $data === [] ? str_starts_with(ltrim($said), '{') : ! array_is_list($data);
    }

    /** @return list<array{class: string, span: Span}> */
    private function spans(mixed $rows): array
    {
        if (! is_array($rows) || ! array_is_list($rows)) {
            $this->leave('spans', $rows === null ? 'the reply has none, not even an empty list' : 'they are no list');

            return [];
        }
        if (count($rows) > self::MOST_SPANS) {
            $this->leave('spans', 'of '.count($rows).' the first '.self::MOST_SPANS.' are taken');
        }
        $spans = [];
        foreach (array_slice($rows, 0, self::MOST_SPANS) as $i => $row) {
            $what = 'span '.($i + 1);
            if (! is_array($row)) {
                $this->leave($what, 'it is no object');

                continue;
            }
            $class = $this->known($what, $row['class'] ?? null, $this->task->classes, fn (string $key): string => $this->codebook->classes[$key]->name, 'class');
            $span = $class === null ? null : $this->span($what, $row);
            if ($class === null || $span === null) {
                continue;
            }
            $key = "{$class} {$span->start} {$span->end}";
            if (isset($spans[$key])) {
                $this->mend($what, 'it is there twice, and taken once');
            }
            $spans[$key] = ['class' => $class, 'span' => $span];
        }
        $spans = array_values($spans);
        usort($spans, static fn (array $a, array $b): int => [$a['span']->start, $a['span']->end, $a['class']] <=> [$b['span']->start, $b['span']->end, $b['class']]);

        return $spans;
    }

    /** @param  array<array-key, mixed>  $row */
    private function span(string $what, array $row): ?Span
    {
        [$start, $end] = [$row['start'] ?? null, $row['end'] ?? null];
        $words = is_string($row['text'] ?? null) && $row['text'] !== '' && mb_check_encoding($row['text'], 'UTF-8') ? $row['text'] : null;
        $at = is_int($start) && is_int($end) && $start >= 0 && $end > $start && $end <= $this->text->length ? Span::of($start, $end) : null;
        if ($words === null) {
            if ($at === null) {
                $this->leave($what, 'it says no words, and no offsets within the text');
            }

            return $at;
        }
        if ($at !== null && $this->text->words($at) === $words) {
            return $at;
        }
        $places = self::places($this->text, $words);
        $shown = '"'.mb_strimwidth($words, 0, 40, '…').'"';
        if ($places === []) {
            $places = $this->places($this->text, $words, true);
            if (count($places) === 1) {
                $this->mend($what, "{$shown} stands there in other letters or with other spaces");

                return $places[0];
            }
            $this->leave($what, $places === [] ? "{$shown} is not in the text" : "{$shown} may be meant in ".count($places).' places');

            return null;
        }
        if (count($places) === 1) {
            if ($start !== null || $end !== null) {
                $this->mend($what, "its offsets did not fit {$shown}, which the text has once");
            }

            return $places[0];
        }
        // several places: offsets that were counted in another way say which
        $meant = is_int($start) ? array_values(array_filter($places, fn (Span $place): bool => $this->isCountedSo($place, $start))) : [];
        if (count($meant) === 1) {
            $this->mend($what, "the offsets of {$shown} were counted in bytes or in UTF-16");

            return $meant[0];
        }
        $this->leave($what, "{$shown} is in the text ".count($places).' times, and its offsets fit none of them');

        return null;
    }

    private function isCountedSo(Span $place, int $start): bool
    {
        $before = substr($this->text->body, 0, $this->text->byte($place->start));

        return strlen($before) === $start || intdiv(strlen(mb_convert_encoding($before, 'UTF-16LE', 'UTF-8')), 2) === $start;
    }

    /**
     * Where some words stand; the first fifty.
     *
     * @param  bool  $loose  whatever letters are large, and however wide spaces are
     * @return list<Span>
     */
    private static function places(Text $text, string $words, bool $loose = false): array
    {
        if ($loose) {
            $parts = preg_split('/\s+/u', trim($words), -1, PREG_SPLIT_NO_EMPTY) ?: [];
            $found = $parts === [] || count($parts) > 200 || preg_match_all('/'.implode('\s+', array_map(static fn (string $part): string => preg_quote($part, '/'), $parts)).'/iu', $text->body, $all, PREG_OFFSET_CAPTURE) === false ? [] : $all[0];

            return array_map(static fn (array $one): Span => Span::of($text->offset((int) $one[1]), $text->offset((int) $one[1] + strlen((string) $one[0]))), array_slice($found, 0, 50));
        }
        $places = [];
        for ($byte = strpos($text->body, $words); $byte !== false && count($places) < 50; $byte = strpos($text->body, $words, $byte + 1)) {
            $places[] = Span::of($text->offset($byte), $text->offset($byte + strlen($words)));
        }

        return $places;
    }

    /** @return array<string, Answer> */
    private function answers(mixed $rows): array
    {
        if (! is_array($rows) || ($rows !== [] && array_is_list($rows))) {
            $this->leave('answers', $rows === null ? 'the reply has none' : 'they are no object');

            return [];
        }
        $answers = [];
        foreach ($rows as $word => $value) {
            $key = $this->known("answer \"{$word}\"", (string) $word, $this->task->questions, fn (string $key): string => $this->codebook->attributes[$key]->name, 'question');
            $answer = $key === null ? null : $this->answer($this->codebook->attributes[$key], $value);
            if ($key !== null && $answer !== null) {
                $answers[$key] = $answer;
            }
        }
        ksort($answers);

        return $answers;
    }

    private function answer(Attribute $question, mixed $value): ?Answer
    {
        $what = "answer \"{$question->key}\"";
        $objection = 'it is none';
        foreach ($this->meant($question, $value) as $i => $tried) {
            try {
                $answer = Answer::of($tried);
            } catch (InvalidValue) {
                continue;
            }
            $objection = $question->objection($answer);
            if ($objection === null) {
                if ($i > 0) {
                    $this->mend($what, 'it was said in other words than the codebook has: '.InvalidValue::show($value));
                }

                return $answer;
            }
        }
        $this->leave($what, $objection);

        return null;
    }

    /** @return list<string|bool|int|float|list<string>> as it was said, then as it may be meant */
    private function meant(Attribute $question, mixed $value): array
    {
        $said = is_string($value) || is_bool($value) || is_int($value) || is_float($value) ? [$value] : [];
        $word = is_string($value) ? mb_strtolower(trim($value)) : null;

        return match ($question->type) {
            AttributeType::YesNo => [...$said, ...match ($word) {
                'yes', 'true' => [true],
                'no', 'false' => [false],
                default => [],
            }],
            AttributeType::Number => [...$said, ...(is_string($value) && is_numeric(trim($value)) ? [trim($value) + 0] : [])],
            AttributeType::One => [...$said, ...self::choices($question, $value)],
            AttributeType::Many => [...(is_array($value) && array_is_list($value) && array_filter($value, is_string(...)) === $value ? [$value] : []), ...self::lists($question, $value)],
            default => $said,
        };
    }

    /** @return list<string> the key of the one choice a word may be */
    private static function choices(Attribute $question, mixed $value): array
    {
        $word = is_string($value) ? mb_strtolower(trim($value)) : '';
        $found = array_values(array_filter($question->options, static fn (Option $option): bool => mb_strtolower($option->name) === $word || mb_strtolower($option->key) === $word));

        return count($found) === 1 ? [$found[0]->key] : [];
    }

    /** @return list<list<string>> */
    private static function lists(Attribute $question, mixed $value): array
    {
        $keys = [];
        foreach (is_array($value) ? $value : [$value] as $one) {
            $found = self::choices($question, $one);
            if ($found === []) {
                return [];
            }
            $keys[] = $found[0];
        }

        return $keys === [] ? [] : [array_values(array_unique($keys))];
    }

    /** @return list<string> */
    private function tags(mixed $rows): array
    {
        if (! is_array($rows) || ! array_is_list($rows)) {
            $this->leave('tags', $rows === null ? 'the reply has none, not even an empty list' : 'they are no list');

            return [];
        }
        $tags = [];
        foreach ($rows as $i => $word) {
            $key = $this->known('tag '.($i + 1), $word, $this->task->tags, fn (string $key): string => $this->codebook->tags[$key]->name, 'tag');
            if ($key !== null) {
                $tags[$key] = $key;
            }
        }

        return array_values($tags);
    }

    /**
     * @param  list<string>  $keys  that were asked for
     * @param  callable(string): string  $name
     */
    private function known(string $what, mixed $word, array $keys, callable $name, string $kind): ?string
    {
        if (is_string($word) && in_array($word, $keys, true)) {
            return $word;
        }
        $low = is_string($word) ? mb_strtolower(trim($word)) : '';
        $found = $low === '' ? [] : array_values(array_filter($keys, static fn (string $key): bool => mb_strtolower($key) === $low || mb_strtolower($name($key)) === $low));
        if (count($found) === 1) {
            $this->mend($what, "\"{$word}\" is {$found[0]}");

            return $found[0];
        }
        $this->leave($what, 'no '.$kind.' that was asked for: '.InvalidValue::show($word));

        return null;
    }

    private function mend(string $what, string $how): void
    {
        $this->mended[] = ['what' => $what, 'how' => $how];
    }

    private function leave(string $what, string $why): void
    {
        $this->left[] = ['what' => $what, 'why' => $why];
    }
}
