<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Axis;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/** One item of a dataset with its labels: a picture, a clip, a frame of one. */
final readonly class DatasetItem
{
    /** What is said of the picture as a whole. */
    public ItemAnswers $said;

    /**
     * @param  string  $path  set and file name, forward slashes, unique in the dataset
     * @param  int  $width  of the upright picture in px
     * @param  int  $height  of the upright picture in px
     * @param  string  $hash  SHA-256 of the picture's bytes, in hex
     * @param  list<Mark>  $marks  lowest in the stack first
     * @param  ?Part  $part  train, val or test; null without a split
     * @param  string  $state  of the item when the dataset was made
     * @param  ?Axis  $axis  of a clip: its frames; its marks are tracks
     * @param  ?int  $frame  of a picture that was one of a clip: which
     */
    public function __construct(
        public string $path,
        public int $width,
        public int $height,
        public string $hash,
        public Labelled $labelled,
        public array $marks,
        public ?Part $part = null,
        public string $state = 'accepted',
        public int $orientation = 1,
        ?ItemAnswers $said = null,
        public ?Axis $axis = null,
        public ?int $frame = null,
    ) {
        $this->said = $said ?? ItemAnswers::none();
        if (($marks !== []) !== ($labelled === Labelled::Objects)) {
            throw InvalidValue::at("{$path}.labelled", $labelled->value, $marks === [] ? 'nothing or unlabelled for an item without marks' : 'objects for an item with marks');
        }
    }

    /**
     * The same item with other marks; objects without any left become "nothing".
     *
     * @param  list<Mark>  $marks
     */
    public function withMarks(array $marks): self
    {
        $labelled = $this->labelled === Labelled::Unlabelled ? $this->labelled : ($marks === [] ? Labelled::Nothing : Labelled::Objects);

        return new self($this->path, $this->width, $this->height, $this->hash, $labelled, $marks, $this->part, $this->state, $this->orientation, $this->said, $this->axis, $this->frame);
    }

    public function withPart(?Part $part): self
    {
        return new self($this->path, $this->width, $this->height, $this->hash, $this->labelled, $this->marks, $part, $this->state, $this->orientation, $this->said, $this->axis, $this->frame);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path, bool $known = false): self
    {
        $fields = Fields::of($data, $path);
        $marks = [];
        foreach ($fields->list('marks') as $i => $mark) {
            // of our own marks none is faulty: a path to each would be written for nobody, a million times over
            $marks[] = Mark::fromArray($mark, $known ? $path : "{$path}.marks[{$i}]", $known);
        }
        $part = $fields->optionalString('split', 10);

        return new self(
            $fields->string('path', 1000),
            $fields->int('width', 1, 1_000_000),
            $fields->int('height', 1, 1_000_000),
            $fields->string('hash', 64),
            Labelled::tryFrom($fields->string('labelled', 20)) ?? throw InvalidValue::at("{$path}.labelled", $fields->raw('labelled'), 'objects, nothing or unlabelled'),
            $marks,
            $part === null ? null : (Part::tryFrom($part) ?? throw InvalidValue::at("{$path}.split", $part, 'train, val or test')),
            $fields->optionalString('state', 20) ?? 'accepted',
            $fields->optionalInt('orientation', 1, 8) ?? 1,
            ItemAnswers::fromArray($data, $path),
            $fields->has('clip') ? Axis::fromArray($fields->raw('clip'), "{$path}.clip") : null,
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['path' => $this->path, 'width' => $this->width, 'height' => $this->height, 'hash' => $this->hash, 'orientation' => $this->orientation, 'state' => $this->state, 'labelled' => $this->labelled->value]
            + ($this->part === null ? [] : ['split' => $this->part->value])
            + ($this->axis === null ? [] : ['clip' => $this->axis->toArray()])
            + $this->said->toArray()
            + ['marks' => array_map(static fn (Mark $mark): array => $mark->toArray(), $this->marks)];
    }
}
