<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Jsonl;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Json\Lines;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/**
 * JSONL by docs/text.schema.json: an object a text, its spans and relations as annotations of the W3C Web Annotation Data Model with a
 * TextPositionSelector, whose offsets are code points, end excluded. One file for each part of the split (`dataset.jsonl` without one); documents
 * in files of their own, `documents.jsonl` or `train-documents.jsonl` …
 */
final readonly class JsonlWriter implements DatasetWriter
{
    /** What the names of files of documents end with. */
    public const DOCUMENTS = 'documents.jsonl';

    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $files = [];
        $relations = 0;
        $documents = new DocumentLines($this->codebook, static fn (): string => '');
        foreach ($dataset->items() as $item) {
            $isDocument = $item->sheets !== null;
            $name = $isDocument ? ($item->part === null ? '' : "{$item->part->value}-").self::DOCUMENTS : ($item->part->value ?? 'dataset').'.jsonl';
            $files[$name] ??= $folder->create($name);
            $line = Lines::encode($item->sheets === null ? $this->object($item) : $documents->object($item, $item->sheets))."\n";
            $relations += $isDocument ? count(array_filter($item->marks, static fn (Mark $mark): bool => $mark->isRelation())) : 0;
            if (@fwrite($files[$name], $line) !== strlen($line)) {
                throw new \RuntimeException('the texts could not be written: is the disk full?');
            }
        }
        array_map(fclose(...), $files);
        if ($files === []) {
            $folder->write('dataset.jsonl', '');
        }

        $report = new MappingReport;
        if ($relations > 0) {
            $report->count('relations between marks on pages can not be said in this format', $relations);
        }

        return $report;
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $marks = $item->sheets === null ? $item->marks : array_filter($item->marks, static fn (Mark $mark): bool => ! $mark->isRelation());

        return array_values(array_map(static fn (Mark $mark): Held => new Held($mark, $mark->geometry), $marks));
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    /** @return array<string, mixed> */
    private function object(DatasetItem $item): array
    {
        $text = $item->text ?? throw new \LogicException('only texts are written as JSONL');
        $said = $item->said->toArray();

        return ['id' => $item->path, 'text' => $text->body, 'labelled' => $item->labelled->value]
            + ($text->tokens === null ? [] : ['tokens' => $text->tokens->toArray()])
            + (isset($said['tags']) ? ['tags' => $said['tags']] : [])
            + (isset($said['answers']) ? ['answers' => $said['answers']] : [])
            + ['annotations' => array_map(fn (Mark $mark): array => $this->annotation($item, $mark), $item->marks)];
    }

    /** @return array<string, mixed> */
    private function annotation(DatasetItem $item, Mark $mark): array
    {
        $word = ['type' => 'TextualBody', 'purpose' => 'classifying', 'value' => $mark->class];
        $said = ['id' => "urn:ulid:{$mark->id}", 'type' => 'Annotation', 'motivation' => $mark->geometry instanceof Join ? 'linking' : 'classifying'];
        $where = $mark->geometry instanceof Join
            ? ['body' => [$word, ['type' => 'SpecificResource', 'purpose' => 'linking', 'source' => "urn:ulid:{$mark->geometry->to}"]], 'target' => ['source' => "urn:ulid:{$mark->geometry->from}"]]
            : ['body' => $word, 'target' => ['source' => $item->path, 'selector' => ['type' => 'TextPositionSelector'] + $mark->geometry->toArray()]];

        return $said + $where
            + ($mark->author === null ? [] : ['creator' => ['type' => 'Person', 'name' => $mark->author]])
            + ($mark->answers === [] ? [] : ['answers' => array_map(static fn (Answer $answer): array => $answer->toArray(), $mark->answers)])
            + ($mark->partOf === null ? [] : ['part_of' => "urn:ulid:{$mark->partOf}"])
            + ($mark->flags === [] ? [] : ['flags' => array_map(static fn (Flag $flag): string => $flag->value, $mark->flags)])
            + ($mark->confidence === null ? [] : ['confidence' => $mark->confidence])
            + ($this->codebook->class($mark->class)?->ignore === true ? ['ignore' => true] : []);
    }
}
