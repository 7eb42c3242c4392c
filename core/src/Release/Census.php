<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Labelled;

/** Counts of a dataset, for the recipe page and the datasheet. Filled item by item. */
final class Census
{
    /** @var array<string, int> by Labelled */
    private array $items = ['objects' => 0, 'nothing' => 0, 'unlabelled' => 0];

    /** @var array<string, int> marks by class key */
    private array $classes = [];

    /** @var array<string, int> items by part of the split */
    private array $parts = [];

    /** @var array<string, int> marks by shorter side in px: under 16, 32, 96 and over */
    private array $sizes = ['under 16 px' => 0, '16 to 32 px' => 0, '32 to 96 px' => 0, 'over 96 px' => 0];

    /** @var list<string> */
    private array $unlabelled = [];

    /** @var list<string> */
    private array $nothing = [];

    public function add(DatasetItem $item): void
    {
        $this->items[$item->labelled->value]++;
        if ($item->labelled === Labelled::Unlabelled) {
            $this->unlabelled[] = $item->path;
        } elseif ($item->labelled === Labelled::Nothing) {
            $this->nothing[] = $item->path;
        }
        if ($item->part !== null) {
            $this->parts[$item->part->value] = ($this->parts[$item->part->value] ?? 0) + 1;
        }
        foreach ($item->marks as $mark) {
            $this->classes[$mark->class] = ($this->classes[$mark->class] ?? 0) + 1;
            $box = $mark->geometry->bounds();
            $side = min($box->width, $box->height);
            $this->sizes[match (true) {
                $side < 16 => 'under 16 px',
                $side < 32 => '16 to 32 px',
                $side < 96 => '32 to 96 px',
                default => 'over 96 px',
            }]++;
        }
    }

    public function marks(): int
    {
        return array_sum($this->classes);
    }

    /** @return array{items: array<string, int>, marks: int, classes: array<string, int>, split: array<string, int>, sizes: array<string, int>} */
    public function toArray(): array
    {
        ksort($this->classes);

        return ['items' => $this->items, 'marks' => $this->marks(), 'classes' => $this->classes, 'split' => $this->parts, 'sizes' => $this->sizes];
    }

    /** @return array{nothing: list<string>, unlabelled: list<string>} paths */
    public function lists(): array
    {
        return ['nothing' => $this->nothing, 'unlabelled' => $this->unlabelled];
    }
}
