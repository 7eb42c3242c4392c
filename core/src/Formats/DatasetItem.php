<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Cloud\Rig;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Axis;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;
use Skeno\Core\Volume\Scan;

/** One item of a dataset with its labels: a picture, a clip, a frame of one, a volume, a slice of one, a cloud, a document, a page of one, a text. */
final readonly class DatasetItem
{
    /** What is said of the picture as a whole. */
    public ItemAnswers $said;

    /**
     * @param  string  $path  set and file name, forward slashes, unique in the dataset
     * @param  int  $width  of the upright picture in px; of a text or a cloud 0
     * @param  int  $height  of the upright picture in px; of a text 0
     * @param  string  $hash  SHA-256 of the picture's bytes, in hex; of a text what its asset is known by
     * @param  list<Mark>  $marks  lowest in the stack first
     * @param  ?Part  $part  train, val or test; null without a split
     * @param  string  $state  of the item when the dataset was made
     * @param  ?Axis  $axis  of a clip: its frames; its marks are tracks
     * @param  ?int  $frame  of a picture that was a frame of a clip or a slice of a volume: which
     * @param  ?Text  $text  of a text: itself
     * @param  ?Sheets  $sheets  of a document: its pages; its marks each lie on one of them
     * @param  int  $resolution  of a document: px an inch its pages are drawn at; 0: as its pictures are
     * @param  ?int  $page  of a picture that is one of a document: which
     * @param  ?Scan  $scan  of a volume: where its voxels are; its marks are tracks over its slices
     * @param  ?int  $frames  of a cloud: how many it has; its marks are tracks over them
     * @param  ?Rig  $rig  of a cloud: its cameras, and how its frames were called
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
        public ?Text $text = null,
        public ?Sheets $sheets = null,
        public int $resolution = 0,
        public ?int $page = null,
        public ?Scan $scan = null,
        public ?int $frames = null,
        public ?Rig $rig = null,
    ) {
        $this->said = $said ?? ItemAnswers::none();
        if (self::hasObjects($marks) !== ($labelled === Labelled::Objects)) {
            throw InvalidValue::at("{$path}.labelled", $labelled->value, $marks === [] ? 'nothing or unlabelled for an item without marks' : 'objects for an item with marks');
        }
    }

    /** What its marks lie on. */
    public function extent(): Extent
    {
        return match (true) {
            $this->text !== null => Extent::text($this->text->length),
            $this->sheets !== null => Extent::pages($this->sheets),
            $this->frames !== null => Extent::space($this->frames),
            $this->scan !== null => Extent::slices($this->width, $this->height, $this->scan->places()),
            default => Extent::plane($this->width, $this->height, $this->places()),
        };
    }

    /** How many frames or slices it has, along which its marks are tracks; null: none. */
    public function places(): ?int
    {
        return $this->axis->places ?? $this->scan?->places() ?? $this->frames;
    }

    /** @param  list<Mark>  $marks  of which a relation alone is no object */
    public static function hasObjects(array $marks): bool
    {
        foreach ($marks as $mark) {
            if ($mark->kind !== Shape::Relation) {
                return true;
            }
        }

        return false;
    }

    /**
     * The same item with other marks; objects without any left become "nothing".
     *
     * @param  list<Mark>  $marks
     */
    public function withMarks(array $marks): self
    {
        $labelled = $this->labelled === Labelled::Unlabelled ? $this->labelled : (self::hasObjects($marks) ? Labelled::Objects : Labelled::Nothing);

        return $this->as($labelled, $marks, $this->part);
    }

    public function withPart(?Part $part): self
    {
        return $this->as($this->labelled, $this->marks, $part);
    }

    /** @param  list<Mark>  $marks */
    private function as(Labelled $labelled, array $marks, ?Part $part): self
    {
        return new self($this->path, $this->width, $this->height, $this->hash, $labelled, $marks, $part, $this->state, $this->orientation, $this->said, $this->axis, $this->frame, $this->text, $this->sheets, $this->resolution, $this->page, $this->scan, $this->frames, $this->rig);
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
        $text = null;
        if ($fields->has('text')) {
            $text = Text::of($fields->string('text', PHP_INT_MAX), $fields->has('tokens') ? Tokens::fromArray($fields->raw('tokens'), "{$path}.tokens") : null, "{$path}.text");
        }

        // texts and clouds have no width in px
        $lies = $text === null && ! $fields->has('cloud');

        return new self(
            $fields->string('path', 1000),
            $lies ? $fields->int('width', 1, 1_000_000) : 0,
            $lies ? $fields->int('height', 1, 1_000_000) : 0,
            $fields->string('hash', 64),
            Labelled::tryFrom($fields->string('labelled', 20)) ?? throw InvalidValue::at("{$path}.labelled", $fields->raw('labelled'), 'objects, nothing or unlabelled'),
            $marks,
            $part === null ? null : (Part::tryFrom($part) ?? throw InvalidValue::at("{$path}.split", $part, 'train, val or test')),
            $fields->optionalString('state', 20) ?? 'accepted',
            $fields->optionalInt('orientation', 1, 8) ?? 1,
            ItemAnswers::fromArray($data, $path),
            $fields->has('clip') ? Axis::fromArray($fields->raw('clip'), "{$path}.clip") : null,
            null,
            $text,
            $fields->has('document') ? Sheets::fromArray($fields->object('document')->raw('sheets'), "{$path}.document.sheets") : null,
            $fields->has('document') ? $fields->object('document')->optionalInt('resolution', 0, 100_000) ?? 0 : 0,
            null,
            $fields->has('volume') ? Scan::fromArray($fields->raw('volume'), "{$path}.volume") : null,
            $fields->has('cloud') ? $fields->object('cloud')->int('frames', 1, 1_000_000) : null,
            $fields->has('cloud') && $fields->object('cloud')->has('rig') ? Rig::fromArray($fields->object('cloud')->raw('rig'), "{$path}.cloud.rig") : null,
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        $lies = $this->text === null && $this->frames === null ? ['width' => $this->width, 'height' => $this->height, 'hash' => $this->hash, 'orientation' => $this->orientation] : ['hash' => $this->hash];

        return ['path' => $this->path] + $lies + ['state' => $this->state, 'labelled' => $this->labelled->value]
            + ($this->part === null ? [] : ['split' => $this->part->value])
            + ($this->axis === null ? [] : ['clip' => $this->axis->toArray()])
            + ($this->scan === null ? [] : ['volume' => $this->scan->toArray()])
            + ($this->frames === null ? [] : ['cloud' => ['frames' => $this->frames] + ($this->rig === null ? [] : ['rig' => $this->rig->toArray()])])
            + ($this->sheets === null ? [] : ['document' => ['resolution' => $this->resolution, 'sheets' => $this->sheets->toArray()]])
            + ($this->text === null ? [] : ['text' => $this->text->body])
            + ($this->text?->tokens === null ? [] : ['tokens' => $this->text->tokens->toArray()])
            + $this->said->toArray()
            + ['marks' => array_map(static fn (Mark $mark): array => $mark->toArray(), $this->marks)];
    }
}
