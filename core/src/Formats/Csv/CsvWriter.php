<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Json\Lines;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/**
 * Tables (RFC 4180, UTF-8): `marks.csv`, a line a mark with its box, its geometry as JSON and a column for each question asked of objects; of texts
 * `spans.csv` with the words in place of a box, `relations.csv` and `texts.csv` with the texts themselves;
 * `stretches.csv`, a line for each tag or answer that holds for some frames of a clip; `items.csv`, a line a picture with what it is labelled as, its tags and a column for each question asked of items. Ways of having
 * no value are written as (none), (not_visible), (unsure); several choices are joined by a space.
 */
final readonly class CsvWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $marks = $folder->create('marks.csv');
        $items = $folder->create('items.csv');
        $ofObjects = $this->questions(Scope::Object);
        // (of a document an item is a page here, and what is asked of pages is asked of it)
        $ofItems = [...$this->questions(Scope::Item), ...$this->questions(Scope::Page)];
        self::put($items, Csv::line(['path', 'width', 'height', 'hash', 'state', 'split', 'labelled', 'tags', ...$ofItems]));
        self::put($marks, Csv::line(['path', 'id', 'class', 'class_name', 'kind', 'x', 'y', 'width', 'height', 'geometry', 'stack', 'part_of', 'flags', 'author', ...$ofObjects]));
        $words = new SpanTables($this->codebook, $folder, $ofObjects, static fn (array $answers): array => self::answers($answers, $ofObjects));
        foreach ($dataset->items() as $item) {
            self::put($items, Csv::line([$item->path, $item->text === null ? $item->width : null, $item->text === null ? $item->height : null, $item->hash, $item->state, $item->part?->value, $item->labelled->value, implode(' ', $item->said->tags), ...self::answers($item->said->answers, $ofItems)]));
            if ($item->text !== null) {
                $words->add($item, $item->text);

                continue;
            }
            foreach ($item->marks as $mark) {
                $box = $mark->flat()->bounds();
                self::put($marks, Csv::line([
                    $item->path, $mark->id, $mark->class, $this->codebook->exportName($this->codebook->classes[$mark->class]), $mark->kind->value,
                    round($box->x, 6), round($box->y, 6), round($box->width, 6), round($box->height, 6), Lines::encode($mark->geometry->toArray()),
                    $mark->stack, $mark->partOf, implode(' ', array_map(static fn (Flag $flag): string => $flag->value, $mark->flags)), $mark->author,
                    ...self::answers($mark->answers, $ofObjects),
                ]));
            }
            if ($pictures) {
                $folder->take("images/{$item->path}", $dataset->pictureFile($item));
            }
        }
        fclose($marks);
        fclose($items);
        $words->close();
        $this->stretches($dataset, $folder);

        return new MappingReport;
    }

    /** A table of what is said along clips and volumes, where anything is: frames or slices from 0, both ends included, and of clips times in seconds; the last frame ends where the next begins. */
    private function stretches(Dataset $dataset, Folder $folder): void
    {
        $out = null;
        foreach ($dataset->clips() as $item) {
            if ($item->places() === null) {
                continue;
            }
            $axis = $item->axis;
            foreach ($item->said->stretches as $stretch) {
                if ($out === null) {
                    $out = $folder->create('stretches.csv');
                    self::put($out, Csv::line(['path', 'kind', 'key', 'name', 'answer', 'first', 'last', 'from_seconds', 'to_seconds']));
                }
                $name = $stretch->isTag() ? $this->codebook->tags[$stretch->key]->name ?? $stretch->key : $this->codebook->attributes[$stretch->key]->name ?? $stretch->key;
                self::put($out, Csv::line([
                    $item->path, $stretch->isTag() ? 'tag' : 'answer', $stretch->key, $name, $stretch->answer === null ? null : self::answers([$stretch->key => $stretch->answer], [$stretch->key])[0],
                    $stretch->first, $stretch->last, $axis === null ? null : round($axis->seconds($stretch->first), 6), $axis === null ? null : round($axis->seconds($stretch->last + 1), 6),
                ]));
            }
        }
        if ($out !== null) {
            fclose($out);
        }
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        return array_map(static fn (Mark $mark): Held => new Held($mark, $mark->geometry), $item->marks);
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    /** @return list<string> keys */
    private function questions(Scope $scope): array
    {
        $keys = [];
        foreach ($this->codebook->attributes as $attribute) {
            if ($attribute->scope === $scope) {
                $keys[] = $attribute->key;
            }
        }

        return $keys;
    }

    /**
     * @param  array<string, Answer>  $answers
     * @param  list<string>  $keys
     * @return list<string|int|float|null>
     */
    private static function answers(array $answers, array $keys): array
    {
        return array_map(static function (string $key) use ($answers): string|int|float|null {
            $answer = $answers[$key] ?? null;

            return match (true) {
                $answer === null => null,
                $answer->noValue !== null => "({$answer->noValue->value})",
                is_bool($answer->value) => $answer->value ? 'yes' : 'no',
                is_array($answer->value) => implode(' ', $answer->value),
                default => $answer->value,
            };
        }, $keys);
    }

    /** @param  resource  $stream */
    public static function put($stream, string $line): void
    {
        if (@fwrite($stream, $line) !== strlen($line)) {
            throw new \RuntimeException('the table could not be written: is the disk full?');
        }
    }
}
