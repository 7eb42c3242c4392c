<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Jsonl;

use Closure;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\Stretch;

/**
 * Documents by docs/document.schema.json: an object a document, its marks as annotations of the W3C Web Annotation Data Model with a
 * FragmentSelector (media fragment `xywh`, px of the page) that is refined by the page (from 0), the shape itself where it is no upright box, and
 * what is written there. Relations have no place and are not said.
 */
final readonly class DocumentLines
{
    private const FRAGMENTS = 'http://www.w3.org/TR/media-frags/';

    /** @param  Closure(): string  $newId */
    public function __construct(private Codebook $codebook, private Closure $newId)
    {
    }

    /** @return array<string, mixed> */
    public function object(DatasetItem $item, Sheets $sheets): array
    {
        $said = $item->said->toArray();
        $marks = array_values(array_filter($item->marks, static fn (Mark $mark): bool => $mark->place !== null));

        return ['id' => $item->path, 'labelled' => $item->labelled->value, 'resolution' => $item->resolution, 'pages' => $this->pages($item, $sheets)]
            + (isset($said['tags']) ? ['tags' => $said['tags']] : [])
            + (isset($said['answers']) ? ['answers' => $said['answers']] : [])
            + ['annotations' => array_map(fn (Mark $mark): array => $this->annotation($item, $mark), $marks)];
    }

    /** @return list<array<string, mixed>> */
    private function pages(DatasetItem $item, Sheets $sheets): array
    {
        $pages = [];
        for ($page = 0; $page < $sheets->count; $page++) {
            [$width, $height] = $sheets->size($page);
            $pages[] = ['page' => $page, 'width' => $width, 'height' => $height];
        }
        foreach ($item->said->stretches as $stretch) {
            for ($page = $stretch->first; $page <= min($stretch->last, $sheets->count - 1); $page++) {
                if ($stretch->answer === null) {
                    $pages[$page]['tags'][] = $stretch->key;
                } else {
                    $pages[$page]['answers'][$stretch->key] = $stretch->answer->toArray();
                }
            }
        }

        return $pages;
    }

    /** @return array<string, mixed> */
    private function annotation(DatasetItem $item, Mark $mark): array
    {
        $box = $mark->flat()->bounds();
        $class = $this->codebook->class($mark->class);
        $read = $class === null ? null : $this->codebook->readOf($class);
        $text = $read === null ? null : $mark->answers[$read->key]->value ?? null;
        $number = static fn (float $n): string => rtrim(rtrim(sprintf('%.6F', $n), '0'), '.');

        return ['id' => "urn:ulid:{$mark->id}", 'type' => 'Annotation', 'motivation' => 'classifying', 'body' => ['type' => 'TextualBody', 'purpose' => 'classifying', 'value' => $mark->class]]
            + ['target' => ['source' => $item->path, 'page' => $mark->place, 'selector' => ['type' => 'FragmentSelector', 'conformsTo' => self::FRAGMENTS, 'value' => 'xywh='.implode(',', array_map($number, [$box->x, $box->y, $box->width, $box->height]))]]]
            + (is_string($text) ? ['text' => $text] : [])
            + ($mark->kind === Shape::Box ? [] : ['shape' => ['kind' => $mark->kind->value, 'geometry' => $mark->geometry->toArray()]])
            + ($mark->author === null ? [] : ['creator' => ['type' => 'Person', 'name' => $mark->author]])
            + ($mark->answers === [] ? [] : ['answers' => array_map(static fn (Answer $answer): array => $answer->toArray(), $mark->answers)])
            + ($mark->partOf === null ? [] : ['part_of' => "urn:ulid:{$mark->partOf}"])
            + ($mark->flags === [] ? [] : ['flags' => array_map(static fn (Flag $flag): string => $flag->value, $mark->flags)])
            + ($mark->confidence === null ? [] : ['confidence' => $mark->confidence])
            + ($class?->ignore === true ? ['ignore' => true] : []);
    }

    /**
     * What such an object says of a document whose pages are these.
     *
     * @param  array<string, string>  $skipped  reasons by place, filled
     * @return array{list<Mark>, ItemAnswers}
     *
     * @throws InvalidValue when it is no such object, or of a document with other pages
     */
    public function read(mixed $object, Sheets $sheets, array &$skipped): array
    {
        $fields = Fields::of($object, '');
        $tags = $fields->strings('tags');
        $stretches = [];
        $pages = $fields->list('pages');
        if (count($pages) !== $sheets->count) {
            throw InvalidValue::at('pages', count($pages), "{$sheets->count} pages, as the document has");
        }
        foreach ($pages as $i => $page) {
            $of = Fields::of($page, "pages[{$i}]");
            if ([$of->int('width', 1, 1_000_000), $of->int('height', 1, 1_000_000)] !== $sheets->size($i)) {
                throw InvalidValue::at("pages[{$i}]", $of->int('width', 1, 1_000_000).' × '.$of->int('height', 1, 1_000_000), implode(' × ', $sheets->size($i)).' px, as that page has: its marks would lie elsewhere');
            }
            foreach ($of->strings('tags') as $tag) {
                $stretches[] = Stretch::tag($tag, $i, $i);
            }
            foreach (Mark::answers($of) as $question => $answer) {
                $stretches[] = Stretch::answer((string) $question, $answer, $i, $i);
            }
        }
        $marks = $ids = $wholes = [];
        foreach ($fields->list('annotations') as $i => $annotation) {
            try {
                $of = Fields::of($annotation, "annotations[{$i}]");
                $mark = $this->mark($of, $sheets);
                if ($of->has('id')) {
                    $ids[$of->string('id', 200)] = $mark->id;
                }
                if ($of->has('part_of')) {
                    $wholes[$mark->id] = $of->string('part_of', 200);
                }
                $marks[] = $mark;
            } catch (InvalidValue $e) {
                $skipped["annotations[{$i}]"] = $e->getMessage();
            }
        }

        return [\Skeno\Core\Formats\ReadLabels::linked($marks, $ids, $wholes), ItemAnswers::of(Mark::answers($fields), $tags, $stretches)];
    }

    private function mark(Fields $of, Sheets $sheets): Mark
    {
        $body = $of->raw('body');
        $word = is_string($body) ? $body : $of->object('body')->string('value', 200);
        $class = $this->codebook->classNamed($word) ?? throw InvalidValue::at($of->path('body'), $word, 'a class of the codebook');
        $target = $of->object('target');
        $answers = $this->answers($of, $class);

        return Mark::of(($this->newId)(), $class->key, self::shape($of, $target), $answers, null, null, null, array_values(array_filter(array_map(Flag::tryFrom(...), $of->strings('flags')))), $of->optionalNumber('confidence'))
            ->on($target->int('page', 0, $sheets->count - 1));
    }

    /** @return array<string, Answer> */
    private function answers(Fields $of, LabelClass $class): array
    {
        $answers = Mark::answers($of);
        foreach (array_keys($answers) as $question) {
            if (! in_array($question, $class->attributes, true)) {
                throw InvalidValue::at($of->path('answers'), $question, "a question of {$class->name}");
            }
        }
        $read = $this->codebook->readOf($class);
        $text = $of->optionalString('text', 20_000);

        return $answers + ($read === null || $text === null ? [] : [$read->key => Answer::of($text)]);
    }

    private static function shape(Fields $of, Fields $target): Geometry
    {
        if ($of->has('shape')) {
            $shape = $of->object('shape');
            $kind = Shape::tryFrom($shape->string('kind', 40)) ?? throw InvalidValue::at($shape->path('kind'), $shape->raw('kind'), implode(', ', Shape::flatKinds()));

            return $kind->flat($shape->object('geometry'), $shape->path('geometry'));
        }
        $selector = $target->object('selector');
        $value = $selector->string('value', 200);
        if (preg_match('/^xywh=(?:pixel:)?(-?[\d.]+),(-?[\d.]+),([\d.]+),([\d.]+)$/D', $value, $m) !== 1) {
            throw InvalidValue::at($selector->path('value'), $value, 'xywh=x,y,width,height in px of the page');
        }

        return \Skeno\Core\Geometry\Box::of((float) $m[1], (float) $m[2], (float) $m[3], (float) $m[4], $selector->path('value'));
    }
}
