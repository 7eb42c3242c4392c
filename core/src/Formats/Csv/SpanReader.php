<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/** Reads `spans.csv`, the spans of one text after the other, with the relations between them where `relations.csv` lies beside. */
final class SpanReader
{
    /** @var list<Mark> of the text at hand */
    private array $marks = [];

    /** @var array<array-key, string> id of a mark by its id in the file */
    private array $ids = [];

    /** @var array<string, string> id in the file of what a mark is a part of */
    private array $wholes = [];

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    /**
     * @param  array<array-key, true>  $had  ids of items with marks, filled
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    public function read(string $file, KnownPictures $pictures, array &$had): iterable
    {
        $joins = self::joins(dirname($file).'/relations.csv');
        $of = null;
        $path = '';
        foreach (Cells::lines($file) as $number => $cells) {
            $known = $pictures->find(Cells::first($cells, ['path', 'file', 'filename']) ?? '');
            if (is_string($known) || $known->length === null) {
                yield new Skipped(basename($file), "line {$number}", is_string($known) ? $known : "\"{$known->path}\" is no text");

                continue;
            }
            if ($of !== null && $of->id !== $known->id) {
                yield from $this->done($of, $joins[$path] ?? []);
            }
            [$of, $path] = [$known, $cells['path'] ?? ''];
            try {
                foreach ($this->take($cells, $known, $known->length) as $notice) {
                    yield new Notice($notice);
                }
                $had[$known->id] = true;
            } catch (InvalidValue $e) {
                yield new Skipped(basename($file), "line {$number}", $e->getMessage());
            }
        }
        if ($of !== null) {
            yield from $this->done($of, $joins[$path] ?? []);
        }
    }

    /**
     * @param  array<string, string>  $cells
     * @return list<string> what of it was left out
     *
     * @throws InvalidValue
     */
    private function take(array $cells, KnownPicture $known, int $length): array
    {
        $word = Cells::first($cells, ['class', 'label', 'class_name']) ?? '';
        $class = $this->codebook->classNamed($word) ?? throw InvalidValue::at('class', $word, 'a class of the codebook');
        $span = Span::of(self::offset($cells, 'start'), self::offset($cells, 'end'));
        if ($span->end > $length) {
            throw InvalidValue::at('end', $span->end, "an offset up to {$length}, where \"{$known->path}\" ends");
        }
        $notices = [];
        $flags = array_values(array_filter(array_map(Flag::tryFrom(...), explode(' ', $cells['flags'] ?? ''))));
        $this->marks[] = $mark = Mark::of(($this->newId)(), $class->key, $span, Cells::answers($cells, $this->codebook->attributesOf($class), $notices), flags: $flags);
        if (($cells['id'] ?? '') !== '') {
            $this->ids[$cells['id']] = $mark->id;
        }
        if (($cells['part_of'] ?? '') !== '') {
            $this->wholes[$mark->id] = $cells['part_of'];
        }

        return $notices;
    }

    /** @param  array<string, string>  $cells */
    private static function offset(array $cells, string $column): int
    {
        $offset = filter_var($cells[$column] ?? '', FILTER_VALIDATE_INT);

        return $offset !== false ? $offset : throw InvalidValue::at($column, $cells[$column] ?? null, 'an offset from 0');
    }

    /**
     * @param  list<array{int, string, string, string}>  $joins
     * @return iterable<ReadLabels|Skipped>
     */
    private function done(KnownPicture $of, array $joins): iterable
    {
        $marks = ReadLabels::linked($this->marks, $this->ids, $this->wholes);
        foreach ($joins as [$line, $relation, $from, $to]) {
            if (isset($this->ids[$from], $this->ids[$to], $this->codebook->relations[$relation]) && $from !== $to) {
                $marks[] = Mark::of(($this->newId)(), $relation, Join::of($this->ids[$from], $this->ids[$to]));
            } else {
                yield new Skipped('relations.csv', "line {$line}", isset($this->codebook->relations[$relation]) ? 'what it joins is not there' : "the codebook has no relation \"{$relation}\"");
            }
        }
        [$this->marks, $this->ids, $this->wholes] = [[], [], []];
        yield new ReadLabels($of, $marks);
    }

    /** @return array<string, list<array{int, string, string, string}>> line, relation and both ends, by path */
    private static function joins(string $file): array
    {
        $joins = [];
        foreach (is_file($file) ? Cells::lines($file) : [] as $number => $cells) {
            $joins[$cells['path'] ?? ''][] = [$number, $cells['relation'] ?? '', $cells['from'] ?? '', $cells['to'] ?? ''];
        }

        return $joins;
    }
}
