<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Geometry\Join;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Workflow\ItemState;

/** What a release is made from. */
final readonly class Recipe
{
    /**
     * @param  bool  $anyState  true: items in any state that have been labelled; false: accepted ones only
     * @param  bool  $withUnlabelled  true: items nobody labelled are in it too, and listed
     * @param  list<string>  $classes  class keys; empty: all
     * @param  list<string>  $sets  paths of sets; empty: all
     * @param  bool  $names  whether marks carry their authors' names
     */
    private function __construct(
        public bool $anyState,
        public bool $withUnlabelled,
        public array $classes,
        public array $sets,
        public ?Split $split,
        public bool $names,
    ) {
    }

    /**
     * Reads `{states?: accepted|any, with_unlabelled?, classes?, sets?, split?: {train, val, test, seed}, names?}`. Classes may be
     * given by key or name.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, Codebook $codebook): self
    {
        $fields = Fields::of($data, 'recipe');
        $states = $fields->optionalString('states', 20) ?? 'accepted';
        if (! in_array($states, ['accepted', 'any'], true)) {
            throw InvalidValue::at('recipe.states', $states, 'accepted or any');
        }
        $classes = [];
        foreach ($fields->strings('classes') as $i => $word) {
            $class = $codebook->classNamed($word) ?? throw InvalidValue::at("recipe.classes[{$i}]", $word, 'a class of the codebook: '.implode(', ', array_keys($codebook->classes)));
            $classes[$class->key] = $class->index;
        }
        asort($classes);
        $split = null;
        if ($fields->has('split')) {
            $shares = $fields->object('split');
            $split = Split::of($shares->number('train'), $shares->number('val'), $shares->number('test'), $shares->optionalInt('seed') ?? 1);
        }
        $sets = array_values(array_unique($fields->strings('sets')));
        sort($sets, SORT_STRING);

        return new self($states === 'any', $fields->bool('with_unlabelled'), array_keys($classes), $sets, $split, $fields->bool('names'));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'states' => $this->anyState ? 'any' : 'accepted',
            'with_unlabelled' => $this->withUnlabelled,
            'classes' => $this->classes,
            'sets' => $this->sets,
            'split' => $this->split === null ? null : [
                'train' => round($this->split->shares['train'] * 100, 6),
                'val' => round($this->split->shares['val'] * 100, 6),
                'test' => round($this->split->shares['test'] * 100, 6),
                'seed' => $this->split->seed,
            ],
            'names' => $this->names,
        ];
    }

    /**
     * Whether an item goes in.
     *
     * @param  bool  $labelled  whether it has marks, or somebody said that nothing is there
     */
    public function takes(ItemState $state, bool $labelled, string $set): bool
    {
        if ($state === ItemState::Archived || ($this->sets !== [] && ! in_array($set, $this->sets, true))) {
            return false;
        }

        return $labelled ? $this->anyState || $state === ItemState::Accepted : $this->withUnlabelled;
    }

    /**
     * Without relations one end of which has been left out.
     *
     * @param  list<Mark>  $marks
     * @return list<Mark>
     */
    private static function joined(array $marks): array
    {
        $ids = array_map(static fn (Mark $mark): string => $mark->id, $marks);
        $ids = array_combine($ids, $ids);

        return array_values(array_filter($marks, static fn (Mark $mark): bool => ! $mark->geometry instanceof Join || $mark->geometry->among($ids) !== null));
    }

    /** The item with the classes asked for, its marks in stack order: class default, own place, then id (age). */
    public function prepare(DatasetItem $item, Codebook $codebook): DatasetItem
    {
        $marks = $item->marks;
        if ($this->classes !== []) {
            $marks = self::joined(array_values(array_filter($marks, fn (Mark $mark): bool => $mark->kind === Shape::Relation || in_array($mark->class, $this->classes, true))));
        }
        $places = array_map(static fn (Mark $mark): array => [$codebook->class($mark->class)->stack ?? 0, $mark->stack ?? 0, $mark->id], $marks);
        asort($places);

        return $item->withMarks(array_map(static fn (int $i): Mark => $marks[$i], array_keys($places)));
    }
}
