<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

use Closure;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;

/** What CsvWriter writes of texts: their spans, the relations between them and the texts, each a table of its own, begun with the first line of it. */
final class SpanTables
{
    /** @var array<string, resource> by name */
    private array $tables = [];

    /**
     * @param  list<string>  $questions  keys of those asked of objects, a column each
     * @param  Closure(array<string, Answer>): list<string|int|float|null>  $answers  the cells of these columns
     */
    public function __construct(private readonly Codebook $codebook, private readonly Folder $folder, private readonly array $questions, private readonly Closure $answers)
    {
    }

    public function add(DatasetItem $item, Text $text): void
    {
        $this->put('texts.csv', ['path', 'text'], [$item->path, $text->body]);
        foreach ($item->marks as $mark) {
            $where = $mark->geometry;
            if ($where instanceof Join) {
                $this->put('relations.csv', ['path', 'id', 'relation', 'relation_name', 'from', 'to', 'author'], [$item->path, $mark->id, $mark->class, $this->codebook->nameOf($mark->class), $where->from, $where->to, $mark->author]);
            } elseif ($where instanceof Span) {
                $this->put('spans.csv', ['path', 'id', 'class', 'class_name', 'start', 'end', 'text', 'part_of', 'flags', 'author', ...$this->questions], $this->span($item, $mark, $where, $text));
            }
        }
    }

    public function close(): void
    {
        array_map(fclose(...), $this->tables);
    }

    /** @return list<string|int|float|null> */
    private function span(DatasetItem $item, Mark $mark, Span $span, Text $text): array
    {
        return [
            $item->path, $mark->id, $mark->class, $this->codebook->exportName($this->codebook->classes[$mark->class]), $span->start, $span->end, $text->words($span),
            $mark->partOf, implode(' ', array_map(static fn (Flag $flag): string => $flag->value, $mark->flags)), $mark->author, ...($this->answers)($mark->answers),
        ];
    }

    /**
     * @param  list<string>  $columns
     * @param  list<string|int|float|null>  $cells
     */
    private function put(string $table, array $columns, array $cells): void
    {
        if (! isset($this->tables[$table])) {
            $this->tables[$table] = $this->folder->create($table);
            CsvWriter::put($this->tables[$table], Csv::line($columns));
        }
        CsvWriter::put($this->tables[$table], Csv::line($cells));
    }
}
