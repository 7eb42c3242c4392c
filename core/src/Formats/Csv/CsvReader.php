<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Csv;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/**
 * Reads `marks.csv` (and `items.csv` beside it) as CsvWriter makes them, or any table of boxes with the columns path (or file, filename,
 * image), class (or label, name) and x, y, width, height.
 */
final class CsvReader implements LabelReader
{
    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $marks = is_dir($path) ? "{$path}/marks.csv" : $path;
        $items = dirname($marks).'/items.csv';
        $spans = dirname($marks).'/spans.csv';
        $alone = $spans === $marks;
        if (! $alone && ! is_file($marks)) {
            throw UnreadableLabels::because('there is no marks.csv in the folder');
        }
        /** @var array<array-key, true> $had */
        $had = [];
        if (! $alone) {
            yield from $this->marks($marks, $pictures, $had);
        }
        if (is_file($spans)) {
            yield from (new SpanReader($this->codebook, $this->newId))->read($spans, $pictures, $had);
        }
        if (is_file($items) && realpath($items) !== realpath($marks)) {
            yield from $this->items($items, $pictures, $had);
        }
    }

    /**
     * @param  array<array-key, true>  $had  ids of pictures with marks, filled
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function marks(string $file, KnownPictures $pictures, array &$had): iterable
    {
        $name = basename($file);
        $of = null;
        $marks = $ids = $wholes = [];
        foreach (Cells::lines($file) as $number => $cells) {
            $place = "line {$number}";
            $picture = $pictures->find(Cells::first($cells, ['path', 'file', 'filename', 'file_name', 'image']) ?? '');
            $word = Cells::first($cells, ['class', 'label', 'name', 'class_name']) ?? '';
            $class = $this->codebook->classNamed($word);
            if (is_string($picture) || $class === null) {
                yield new Skipped($name, $place, is_string($picture) ? $picture : "the codebook has no class \"{$word}\"");

                continue;
            }
            if ($of !== null && $of->id !== $picture->id) {
                yield new ReadLabels($of, ReadLabels::linked($marks, $ids, $wholes));
                $marks = $ids = $wholes = [];
            }
            $of = $picture;
            $had[$picture->id] = true;
            try {
                $notices = [];
                $mark = $this->mark($cells, $class, $picture, $notices);
                foreach ($notices as $notice) {
                    yield new Notice($notice);
                }
                if (count($marks) === ReadLabels::MOST) {
                    yield new Skipped($name, $place, 'there are more than '.ReadLabels::MOST.' objects on its picture');

                    continue;
                }
                $marks[] = $mark;
                if (($cells['id'] ?? '') !== '') {
                    $ids[$cells['id']] = $mark->id;
                }
                if (($cells['part_of'] ?? '') !== '') {
                    $wholes[$mark->id] = $cells['part_of'];
                }
            } catch (InvalidValue $e) {
                yield new Skipped($name, $place, $e->getMessage());
            }
        }
        if ($of !== null) {
            yield new ReadLabels($of, ReadLabels::linked($marks, $ids, $wholes));
        }
    }

    /**
     * @param  array<array-key, true>  $had
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function items(string $file, KnownPictures $pictures, array $had): iterable
    {
        foreach (Cells::lines($file) as $number => $cells) {
            $picture = $pictures->find($cells['path'] ?? '');
            if (is_string($picture)) {
                yield new Skipped(basename($file), "line {$number}", $picture);

                continue;
            }
            $notices = [];
            $answers = Cells::answers($cells, $this->codebook->itemAttributes(), $notices);
            $words = array_values(array_filter(explode(' ', $cells['tags'] ?? ''), static fn (string $tag): bool => $tag !== ''));
            $tags = array_values(array_filter($words, fn (string $tag): bool => isset($this->codebook->tags[$tag])));
            array_push($notices, ...array_fill(0, count($words) - count($tags), 'tags the codebook has not were left out'));
            foreach ($notices as $notice) {
                yield new Notice($notice);
            }
            $said = ItemAnswers::of($answers, $tags);
            $part = Part::tryFrom($cells['split'] ?? '');
            if (! isset($had[$picture->id]) || ! $said->isEmpty() || $part !== null) {
                yield new ReadLabels($picture, [], isset($had[$picture->id]) ? Labelled::Objects : Labelled::tryFrom($cells['labelled'] ?? ''), $part, $said->isEmpty() ? null : $said);
            }
        }
    }

    /**
     * @param  array<string, string>  $cells
     * @param  list<string>  $notices
     */
    private function mark(array $cells, \Skeno\Core\Codebook\LabelClass $class, KnownPicture $picture, array &$notices): Mark
    {
        $kind = Shape::tryFrom($cells['kind'] ?? '');
        if (($cells['geometry'] ?? '') !== '' && $kind !== null && $kind->isFlat()) {
            $data = json_decode($cells['geometry'], true, 16);
            $geometry = $kind->geometry(Fields::of($data, 'geometry'), 'geometry');
        } else {
            $fields = Fields::of($cells);
            $geometry = Box::of($fields->number('x', true), $fields->number('y', true), $fields->number('width', true), $fields->number('height', true));
        }
        [$geometry, $notice] = Fit::into($class, $geometry, $picture->width, $picture->height);
        if ($notice !== null) {
            $notices[] = $notice;
        }
        $flags = array_values(array_filter(array_map(Flag::tryFrom(...), explode(' ', $cells['flags'] ?? ''))));
        $stack = is_numeric($cells['stack'] ?? '') ? (int) $cells['stack'] : null;

        return Mark::of(($this->newId)(), $class->key, $geometry, Cells::answers($cells, $this->codebook->attributesOf($class), $notices), $stack, flags: $flags);
    }
}
