<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Jsonl;

use Closure;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\ComingText;
use Skeno\Core\Formats\Texts\Lines as TextLines;
use Skeno\Core\Formats\Texts\Table;
use Skeno\Core\Formats\Texts\TextsReader;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;

/**
 * Reads JSONL as JsonlWriter makes it (docs/text.schema.json), and objects by other writers as far as they are W3C annotations of the text: a
 * selector that is a list, a quote in place of offsets where the text has it once.
 */
final class JsonlReader implements LabelReader, TextsReader
{
    /** Members of an object that are no facts of the text. */
    private const OWN = ['labelled', 'tags', 'answers', 'tokens', 'annotations', 'split'];

    private readonly Columns $columns;

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId, ?Columns $columns = null)
    {
        $this->columns = $columns ?? Columns::guessed();
    }

    public function texts(string $file): iterable
    {
        $name = basename($file);
        $part = Part::tryFrom(pathinfo($file, PATHINFO_FILENAME));
        foreach ((new Table(true, $this->columns))->entries($file) as $entry) {
            if (! is_array($entry)) {
                yield $entry;

                continue;
            }
            [$coming, $row] = $entry;
            $skipped = [];
            try {
                $text = isset($row['tokens']) ? Text::of($coming->text->body, Tokens::fromArray($row['tokens'])) : $coming->text;
                $said = $this->said($row, $skipped);
            } catch (InvalidValue $e) {
                yield new Skipped($name, $coming->place, $e->getMessage());

                continue;
            }
            $marks = array_key_exists('annotations', $row) ? $this->marks($row['annotations'], $text, $skipped) : [];
            foreach ($skipped as $place => $reason) {
                yield new Skipped($name, "{$coming->place}, {$place}", $reason);
            }
            $told = is_string($row['labelled'] ?? null) ? Labelled::tryFrom($row['labelled']) : null;
            $objects = array_filter($marks, static fn (Mark $mark): bool => ! $mark->geometry instanceof Join) !== [];
            $labelled = $objects ? Labelled::Objects : ($told === Labelled::Objects ? Labelled::Nothing : $told);
            $facts = array_key_exists('annotations', $row) ? array_diff_key($coming->facts, array_flip(self::OWN)) : $coming->facts;
            yield new ComingText($coming->name, $coming->place, $text, $facts, $marks, array_key_exists('annotations', $row) || $told !== null ? $labelled : Labelled::Unlabelled, $said, $part);
        }
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $files = is_dir($path) ? (array) glob("{$path}/*.jsonl") : [$path];
        if ($files === []) {
            throw UnreadableLabels::because('there is no .jsonl file in the folder');
        }
        foreach ($files as $file) {
            if (str_ends_with((string) $file, JsonlWriter::DOCUMENTS)) {
                yield from $this->documents((string) $file, $pictures);

                continue;
            }
            foreach ($this->texts((string) $file) as $coming) {
                if (! $coming instanceof ComingText) {
                    yield $coming;

                    continue;
                }
                $known = $pictures->find($coming->name);
                $there = is_string($known) ? null : $pictures->text($known);
                if (is_string($known) || $known->length === null) {
                    yield new Skipped(basename((string) $file), $coming->place, is_string($known) ? $known : 'it is no text');
                } elseif ($there === null ? $known->length !== $coming->text->length : $there->body !== $coming->text->body) {
                    yield new Skipped(basename((string) $file), $coming->place, "its text is not that of \"{$known->path}\", so its offsets would lie elsewhere");
                } else {
                    yield new ReadLabels($known, $coming->marks, $coming->labelled, $coming->part, $coming->said);
                }
            }
        }
    }

    /** @return iterable<ReadLabels|Skipped> */
    private function documents(string $file, KnownPictures $pictures): iterable
    {
        $lines = new DocumentLines($this->codebook, $this->newId);
        $name = basename($file);
        $part = Part::tryFrom((string) preg_replace('/-?documents\.jsonl$/', '', $name));
        foreach (TextLines::of($file) as $number => $line) {
            if (trim($line) === '') {
                continue;
            }
            $place = "line {$number}";
            $row = json_decode($line, true, 64);
            $id = is_array($row) && is_string($row['id'] ?? null) ? $row['id'] : null;
            $known = $id === null ? 'it is no object with an id' : $pictures->find($id);
            if (is_string($known) || $known->sheets === null) {
                yield new Skipped($name, $place, is_string($known) ? $known : "\"{$known->path}\" is no document");

                continue;
            }
            $skipped = [];
            try {
                [$marks, $said] = $lines->read($row, $known->sheets, $skipped);
            } catch (InvalidValue $e) {
                yield new Skipped($name, $place, $e->getMessage());

                continue;
            }
            foreach ($skipped as $at => $reason) {
                yield new Skipped($name, "{$place}, {$at}", $reason);
            }
            $word = is_array($row) ? $row['labelled'] ?? null : null;
            $told = is_string($word) ? Labelled::tryFrom($word) : null;
            yield new ReadLabels($known, $marks, $marks !== [] ? Labelled::Objects : ($told === Labelled::Objects ? Labelled::Nothing : $told), $part, $said->isEmpty() ? null : $said);
        }
    }

    /**
     * @param  array<array-key, mixed>  $row
     * @param  array<string, string>  $skipped  reasons by place, filled
     */
    private function said(array $row, array &$skipped): ?ItemAnswers
    {
        $tags = [];
        foreach (is_array($row['tags'] ?? null) ? $row['tags'] : [] as $tag) {
            if (is_string($tag) && isset($this->codebook->tags[$tag])) {
                $tags[] = $tag;
            } else {
                $skipped['tags'] = 'the codebook has no tag '.InvalidValue::show($tag);
            }
        }
        $answers = [];
        foreach (is_array($row['answers'] ?? null) ? Mark::answers(Fields::of(['answers' => $row['answers']])) : [] as $key => $answer) {
            if (isset($this->codebook->attributes[$key])) {
                $answers[$key] = $answer;
            } else {
                $skipped["answers.{$key}"] = "the codebook has no question \"{$key}\"";
            }
        }

        return $tags === [] && $answers === [] ? null : ItemAnswers::of($answers, $tags);
    }

    /**
     * @param  array<string, string>  $skipped  reasons by place, filled
     * @return list<Mark>
     */
    private function marks(mixed $annotations, Text $text, array &$skipped): array
    {
        $marks = $ids = $links = $wholes = [];
        foreach (is_array($annotations) ? $annotations : [] as $i => $annotation) {
            try {
                $fields = Fields::of($annotation, "annotations[{$i}]");
                $linked = self::linked($fields);
                if ($linked !== null) {
                    $links[$i] = [$fields, $linked];

                    continue;
                }
                $word = $this->word($fields);
                $class = $this->codebook->classNamed($word) ?? throw InvalidValue::at($fields->path('body'), $word, 'a class of the codebook');
                $mark = $this->mark($fields, $class->key, $text);
                if ($fields->has('id')) {
                    $ids[$fields->string('id', 200)] = $mark->id;
                }
                if ($fields->has('part_of')) {
                    $wholes[$mark->id] = $fields->string('part_of', 200);
                }
                $marks[] = $mark;
            } catch (InvalidValue $e) {
                $skipped["annotations[{$i}]"] = $e->getMessage();
            }
        }
        $marks = ReadLabels::linked($marks, $ids, $wholes);
        foreach ($links as $i => [$fields, [$from, $to]]) {
            try {
                $word = $this->word($fields);
                if (! isset($this->codebook->relations[$word])) {
                    throw InvalidValue::at($fields->path('body'), $word, 'a relation of the codebook');
                }
                $marks[] = Mark::of(($this->newId)(), $word, Join::of($ids[$from] ?? throw InvalidValue::at($fields->path('target.source'), $from, 'an annotation of this text'), $ids[$to] ?? throw InvalidValue::at($fields->path('body'), $to, 'an annotation of this text')));
            } catch (InvalidValue $e) {
                $skipped["annotations[{$i}]"] = $e->getMessage();
            }
        }

        return $marks;
    }

    private function mark(Fields $fields, string $class, Text $text): Mark
    {
        $span = self::span($fields, $text);
        $answers = Mark::answers($fields);
        foreach (array_keys($answers) as $question) {
            if (! in_array($question, $this->codebook->classes[$class]->attributes, true)) {
                throw InvalidValue::at($fields->path('answers'), $question, "a question of {$this->codebook->nameOf($class)}");
            }
        }
        $flags = array_values(array_filter(array_map(Flag::tryFrom(...), $fields->strings('flags'))));
        $confidence = $fields->optionalNumber('confidence');

        return Mark::of(($this->newId)(), $class, $span, array_map(static fn (Answer $answer): Answer => $answer, $answers), null, null, null, $flags, $confidence);
    }

    /** Where the annotation lies: by its offsets, else by its quote where the text has that once. */
    private static function span(Fields $fields, Text $text): Span
    {
        $target = $fields->raw('target');
        $target = is_array($target) && array_is_list($target) ? $target[0] ?? null : $target;
        $at = Fields::of($target, $fields->path('target'));
        $selector = $at->raw('selector');
        $selectors = is_array($selector) ? (array_is_list($selector) ? $selector : [$selector]) : [];
        $quote = null;
        foreach ($selectors as $one) {
            $type = is_array($one) ? $one['type'] ?? null : null;
            if ($type === 'TextPositionSelector') {
                $span = Span::fromFields(Fields::of($one), $at->path('selector'));

                return $span->end <= $text->length ? $span : throw InvalidValue::at($at->path('selector.end'), $span->end, "an offset up to {$text->length}, where the text ends");
            }
            $quote = $type === 'TextQuoteSelector' && is_string($one['exact'] ?? null) && $one['exact'] !== '' ? $one['exact'] : $quote;
        }
        if ($quote === null) {
            throw InvalidValue::at($at->path('selector'), $selector, 'a TextPositionSelector with start and end');
        }
        $byte = strpos($text->body, $quote);
        if ($byte === false || strpos($text->body, $quote, $byte + 1) !== false) {
            throw InvalidValue::at($at->path('selector.exact'), $quote, $byte === false ? 'words of the text' : 'words the text has once, or offsets');
        }

        return Span::of($text->offset($byte), $text->offset($byte + strlen($quote)));
    }

    /** @return ?array{string, string} ids of the annotations a relation leads between; null: it is none */
    private static function linked(Fields $fields): ?array
    {
        $body = $fields->raw('body');
        foreach (is_array($body) && array_is_list($body) ? $body : [] as $one) {
            if (is_array($one) && ($one['purpose'] ?? null) === 'linking' && is_string($one['source'] ?? null)) {
                return [$fields->object('target')->string('source', 200), $one['source']];
            }
        }

        return null;
    }

    /** What the annotation says of its words. */
    private function word(Fields $fields): string
    {
        $body = $fields->raw('body');
        foreach (is_array($body) && array_is_list($body) ? $body : [$body] as $one) {
            if (is_string($one)) {
                return $one;
            }
            if (is_array($one) && is_string($one['value'] ?? null)) {
                return $one['value'];
            }
        }
        throw InvalidValue::at($fields->path('body'), $body, 'a TextualBody whose value is a class');
    }
}
