<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Conll;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Formats\Csv\Csv;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;

/**
 * CoNLL: a token and its tag a line, a blank line after each sentence, `-DOCSTART- O` before each text; tags are BIO with the keys of the classes.
 * One file for each part of the split (`dataset.conll` without one), and `texts.csv`, which says which text of which file has which path.
 */
final class ConllWriter implements DatasetWriter
{
    /** @var array{DatasetItem, Bio}|null the text at hand: it is asked for twice */
    private ?array $last = null;

    public function __construct(private readonly Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $index = $folder->create('texts.csv');
        self::put($index, Csv::line(['file', 'number', 'path', 'tokens']));
        $files = $numbers = [];
        foreach ($dataset->items() as $item) {
            if ($item->labelled === Labelled::Unlabelled) {
                $report->count('texts nobody has labelled were left out: their tokens would look as if nothing were there');

                continue;
            }
            $bio = $this->bio($item);
            $name = ($item->part->value ?? 'dataset').'.conll';
            $files[$name] ??= $folder->create($name);
            $numbers[$name] = ($numbers[$name] ?? 0) + 1;
            self::put($files[$name], self::lines($bio));
            self::put($index, Csv::line([$name, $numbers[$name], $item->path, count($bio->words)]));
            $this->report($item, $bio, $report);
        }
        array_map(fclose(...), $files);
        fclose($index);
        if ($files === []) {
            $folder->write('dataset.conll', '');
        }

        return $report;
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        return $item->labelled === Labelled::Unlabelled ? [] : array_map(static fn (array $one): Held => new Held($one[0], $one[1], true), $this->bio($item)->joined());
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    private function bio(DatasetItem $item): Bio
    {
        if ($this->last === null || $this->last[0] !== $item) {
            $this->last = [$item, Bio::of($item->text ?? throw new \LogicException('only texts are written as CoNLL'), $item->marks)];
        }

        return $this->last[1];
    }

    private static function lines(Bio $bio): string
    {
        $lines = "-DOCSTART- O\n\n";
        $at = 0;
        foreach ($bio->sentences as $count) {
            for ($end = $at + $count; $at < $end; $at++) {
                $lines .= "{$bio->words[$at]} {$bio->tags[$at]}\n";
            }
            $lines .= "\n";
        }

        return $lines;
    }

    private function report(DatasetItem $item, Bio $bio, MappingReport $report): void
    {
        $count = static function (string $what, int $n) use ($report): void {
            if ($n > 0) {
                $report->count($what, $n);
            }
        };
        $spans = array_filter($item->marks, static fn (Mark $mark): bool => $mark->kind === Shape::Span);
        $count('spans over which another lies were left out: a token has one tag', $bio->over);
        $count('spans without a token were left out', $bio->empty);
        $count('spans that begin or end within a token were widened to it', $bio->widened);
        $count('tokens with white space in them are written with _', $bio->spaced);
        $count('relations can not be said in CoNLL', count($item->marks) - count($spans));
        $count('answers about spans can not be said in CoNLL', array_sum(array_map(static fn (Mark $mark): int => count($mark->answers), $spans)));
        $count('parts and wholes can not be said in CoNLL', count(array_filter($spans, static fn (Mark $mark): bool => $mark->partOf !== null)));
        $count('flags can not be said in CoNLL', count(array_filter($spans, static fn (Mark $mark): bool => $mark->flags !== [])));
        $count('answers about texts can not be said in CoNLL', count($item->said->answers));
        $count('tags of texts can not be said in CoNLL', count($item->said->tags));
        foreach ($spans as $mark) {
            if ($this->codebook->class($mark->class)?->ignore === true) {
                $report->count('spans to be ignored are written like the others');
            }
        }
    }

    /** @param  resource  $stream */
    private static function put($stream, string $line): void
    {
        if (@fwrite($stream, $line) !== strlen($line)) {
            throw new \RuntimeException('the texts could not be written: is the disk full?');
        }
    }
}
