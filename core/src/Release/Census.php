<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Codebook\Shape;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;

/** Counts of a dataset, for the recipe page and the datasheet. Filled item by item. */
final class Census
{
    /** @var array<string, int> by Labelled */
    private array $items = ['objects' => 0, 'nothing' => 0, 'unlabelled' => 0];

    /** @var array<string, int> marks by class key */
    private array $classes = [];

    /** @var array<string, int> relations between marks by key */
    private array $relations = [];

    /** @var array<string, int> items by part of the split */
    private array $parts = [];

    /** Marks by the shorter side of their box, in px. */
    public const SIZES = ['under 16 px', '16 to 32 px', '32 to 96 px', 'over 96 px'];

    /** @var array<int, int> in the order of SIZES */
    private array $sizes = [0, 0, 0, 0];

    /** @var list<string> */
    private array $unlabelled = [];

    /** @var list<string> */
    private array $nothing = [];

    public function add(DatasetItem $item): void
    {
        $this->addItems($item->labelled, 1);
        if ($item->labelled === Labelled::Unlabelled) {
            $this->unlabelled[] = $item->path;
        } elseif ($item->labelled === Labelled::Nothing) {
            $this->nothing[] = $item->path;
        }
        if ($item->part !== null) {
            $this->addParts($item->part, 1);
        }
        foreach ($item->marks as $mark) {
            $mark->kind === Shape::Relation ? $this->addRelations($mark->class, 1) : $this->addMarks($mark->class, $mark->geometry instanceof Flat ? self::size($mark->geometry->bounds()) : null, 1);
        }
    }

    /** So many items that are labelled, or not, in the same way: where they have been counted elsewhere. */
    public function addItems(Labelled $labelled, int $count): void
    {
        $this->items[$labelled->value] += $count;
    }

    public function addParts(Part $part, int $count): void
    {
        $this->parts[$part->value] = ($this->parts[$part->value] ?? 0) + $count;
    }

    /** @param  ?int<0, 3>  $size one of SIZES; null: they lie on no plane */
    public function addMarks(string $class, ?int $size, int $count): void
    {
        $this->classes[$class] = ($this->classes[$class] ?? 0) + $count;
        if ($size !== null) {
            $this->sizes[$size] += $count;
        }
    }

    public function addRelations(string $relation, int $count): void
    {
        $this->relations[$relation] = ($this->relations[$relation] ?? 0) + $count;
    }

    /** @return int<0, 3> which of SIZES the shorter side falls into */
    public static function size(Box $bounds): int
    {
        $side = min($bounds->width, $bounds->height);

        return match (true) {
            $side < 16 => 0,
            $side < 32 => 1,
            $side < 96 => 2,
            default => 3,
        };
    }

    public function marks(): int
    {
        return array_sum($this->classes);
    }

    /** @return array{items: array<string, int>, marks: int, classes: array<string, int>, split: array<string, int>, sizes: array<string, int>, relations?: array<string, int>} */
    public function toArray(): array
    {
        ksort($this->classes);
        ksort($this->relations);

        return ['items' => $this->items, 'marks' => $this->marks(), 'classes' => $this->classes, 'split' => $this->parts, 'sizes' => array_combine(self::SIZES, $this->sizes)] + ($this->relations === [] ? [] : ['relations' => $this->relations]);
    }

    /** @return array{nothing: list<string>, unlabelled: list<string>} paths */
    public function lists(): array
    {
        return ['nothing' => $this->nothing, 'unlabelled' => $this->unlabelled];
    }
}
