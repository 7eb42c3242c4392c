<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Geometry\BoxIndex;

/** The rules every mark on an item must keep before it is submitted, accepted or taken in as a label. */
final readonly class MarkCheck
{
    /** How far past the edge a box may reach, in px: what rounding to whole pixels by other writers leaves. */
    public const EDGE_TOLERANCE = 0.5;

    /** Two boxes of one class with at least this IoU are the same object drawn twice. */
    public const DUPLICATE_IOU = 0.9;

    public function __construct(private Codebook $codebook)
    {
    }

    /**
     * @param  list<Mark>  $marks  all marks of the item's layer
     * @param  int  $width  of the picture in px
     * @param  int  $height  of the picture in px
     * @return list<Finding> in the order of the marks
     */
    public function item(array $marks, int $width, int $height): array
    {
        $findings = $numbers = $boxes = [];
        foreach ($marks as $mark) {
            $class = $this->codebook->class($mark->class);
            $numbers[$mark->class] = ($numbers[$mark->class] ?? 0) + 1;
            $name = ($class->name ?? $mark->class).' '.$numbers[$mark->class];
            if ($class === null) {
                $findings[] = new Finding('class_unknown', "{$name}: the codebook has no class \"{$mark->class}\"", true, $mark->id);

                continue;
            }
            array_push($findings, ...$this->geometry($mark, $class, $name, $width, $height), ...$this->answers($mark, $class, $name));
            $boxes[$mark->class][$mark->id] = $mark->geometry;
        }
        foreach ($boxes as $key => $ofClass) {
            foreach (BoxIndex::coinciding($ofClass, self::DUPLICATE_IOU) as [, $second, $iou]) {
                $name = $this->codebook->class($key)->name ?? $key;
                $findings[] = new Finding('duplicate', sprintf('two boxes of %s nearly coincide (IoU %.2f)', $name, $iou), false, (string) $second);
            }
        }
        $limit = $this->codebook->maxObjects;
        if ($limit !== null && count($marks) > $limit) {
            $findings[] = new Finding('too_many_objects', count($marks)." objects; the codebook allows {$limit} per item");
        }
        // an item without objects is for "nothing there" to answer, not for this limit
        if ($marks !== [] && count($marks) < ($this->codebook->minObjects ?? 0)) {
            $findings[] = new Finding('too_few_objects', count($marks)." objects; the codebook asks for {$this->codebook->minObjects} per item");
        }

        return $findings;
    }

    /** @return list<Finding> */
    private function geometry(Mark $mark, LabelClass $class, string $name, int $width, int $height): array
    {
        $box = $mark->geometry;
        $findings = [];
        if (! $class->allows($mark->kind)) {
            $findings[] = new Finding('shape_not_allowed', "{$name}: {$class->name} is not drawn as {$mark->kind->value}", true, $mark->id);
        }
        $overhang = $box->overhang($width, $height);
        if ($box->isEmpty()) {
            $findings[] = new Finding('box_empty', sprintf('%s: the box has no size (%s × %s px)', $name, round($box->width, 2), round($box->height, 2)), true, $mark->id);
        } elseif ($box->liesOutside($width, $height)) {
            $findings[] = new Finding('box_outside', "{$name}: the box lies outside the picture", true, $mark->id);
        } elseif ($overhang > self::EDGE_TOLERANCE) {
            $findings[] = new Finding('box_outside', sprintf('%s: the box reaches %s px past the edge of the picture', $name, round($overhang, 1)), true, $mark->id);
        } elseif ($class->minSize !== null && min($box->width, $box->height) < $class->minSize) {
            $findings[] = new Finding('too_small', sprintf('%s: %s px on the shorter side; the rule asks for %s', $name, round(min($box->width, $box->height), 1), $class->minSize), false, $mark->id);
        }

        return $findings;
    }

    /** @return list<Finding> */
    private function answers(Mark $mark, LabelClass $class, string $name): array
    {
        $findings = [];
        foreach ($mark->answers as $key => $answer) {
            $attribute = $this->codebook->attributes[$key] ?? null;
            if ($attribute === null || ! in_array($key, $class->attributes, true)) {
                $findings[] = new Finding('answer_unknown', "{$name}: {$class->name} has no question \"{$key}\"", true, $mark->id, $key);
            } elseif (($objection = $attribute->objection($answer)) !== null) {
                $findings[] = new Finding('answer_not_allowed', "{$name}: {$objection}", true, $mark->id, $key);
            }
        }
        foreach ($this->codebook->asked($class, $mark->answers) as $attribute) {
            if ($attribute->required && $attribute->type->isAsked() && ! isset($mark->answers[$attribute->key])) {
                $findings[] = new Finding('answer_missing', "{$name}: {$attribute->name} is not answered", true, $mark->id, $attribute->key);
            }
        }

        return $findings;
    }
}
