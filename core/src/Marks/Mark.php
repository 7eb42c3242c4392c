<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Join;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Face;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;
use Skeno\Core\Ulid;

/** One annotation: a shape of a class with its answers. Whether codebook and picture allow it is MarkCheck's to say. */
final readonly class Mark
{
    /**
     * @param  string  $class  key in the codebook
     * @param  array<string, Answer>  $answers  by attribute key, sorted by key
     * @param  ?int  $stack  own place in the stack; null: the class's
     * @param  ?string  $author  a person's name where a release carries names, or "import"
     * @param  ?string  $partOf  id of the mark this is a part of
     * @param  list<Flag>  $flags  in the order of the enum
     * @param  ?float  $confidence  how sure the model it came from was, 0 to 1; null for what a hand has drawn
     * @param  ?int  $place  on the item's axis the geometry is of, of a document its page; null where there is no axis
     * @param  ?Places  $there  of a track: where the object is there; null: no track
     * @param  list<Key>  $keys  of a track, in order, also those that lie where the object is not there (any more); empty where only a track's face is at hand
     */
    private function __construct(
        public string $id,
        public string $class,
        public Shape $kind,
        public Geometry $geometry,
        public array $answers,
        public ?int $stack,
        public ?string $author,
        public ?string $partOf,
        public array $flags,
        public ?float $confidence = null,
        public ?int $place = null,
        public ?Places $there = null,
        public array $keys = [],
    ) {
    }

    /**
     * @param  array<string, Answer>  $answers
     * @param  list<Flag>  $flags
     */
    public static function of(string $id, string $class, Geometry $geometry, array $answers = [], ?int $stack = null, ?string $author = null, ?string $partOf = null, array $flags = [], ?float $confidence = null): self
    {
        ksort($answers);
        if ($confidence !== null && ! ($confidence >= 0 && $confidence <= 1)) {
            throw InvalidValue::at('confidence', $confidence, '0 to 1');
        }

        return new self($id, $class, Shape::of($geometry), $geometry, $answers, $stack, $author, $partOf, self::sorted($flags), $confidence);
    }

    /**
     * A mark along the axis of its item. Its own geometry is its face: that of a key where it is well seen.
     *
     * @param  non-empty-list<Key>  $keys
     * @param  array<string, Answer>  $answers  those that do not vary
     * @param  list<Flag>  $flags
     *
     * @throws InvalidValue when no key has a shape
     */
    public static function along(string $id, string $class, array $keys, Places $there, array $answers = [], ?int $stack = null, array $flags = [], ?float $confidence = null): self
    {
        $face = Face::among($keys) ?? throw InvalidValue::at('keys', $id, 'a key with a shape');

        return self::of($id, $class, $face->geometry ?? throw InvalidValue::at('keys', $id, 'a key with a shape'), $answers, $stack, flags: $flags, confidence: $confidence)->through($face->place, $there, $keys);
    }

    /** The same mark on a page of a document; null: on a picture of that page. */
    public function on(?int $page): self
    {
        return $this->through($page, null, []);
    }

    /**
     * The same mark as a track.
     *
     * @param  list<Key>  $keys
     */
    public function through(?int $place, ?Places $there, array $keys): self
    {
        return new self($this->id, $this->class, $this->kind, $this->geometry, $this->answers, $this->stack, $this->author, $this->partOf, $this->flags, $this->confidence, $place, $there, $keys);
    }

    /** Whether it joins two other marks, rather than being an object itself. */
    public function isRelation(): bool
    {
        return $this->kind === Shape::Relation;
    }

    /**
     * Whether both marks a relation joins are among these; of any other mark true.
     *
     * @param  array<string, string>  $ids  by themselves or by older ones
     */
    public function hasEndsAmong(array $ids): bool
    {
        return ! $this->geometry instanceof Join || $this->geometry->among($ids) !== null;
    }

    public function isTrack(): bool
    {
        return $this->there !== null;
    }

    /**
     * The object along the axis, by the keys that lie where it is there.
     *
     * @throws InvalidValue when it is no track
     */
    public function track(): Track
    {
        $there = $this->there ?? throw InvalidValue::at('stretches', null, 'the stretches in which a track is there');
        $keys = $this->keys === [] && $this->place !== null ? [Key::of($this->place, $this->geometry)] : $this->keys;
        $live = array_values(array_filter($keys, static fn (Key $key): bool => $there->has($key->place)));

        return Track::of($live, $there);
    }

    /** Its shape, where marks are on a plane. @throws InvalidValue when it is not */
    public function flat(): Flat
    {
        return $this->geometry instanceof Flat ? $this->geometry : throw InvalidValue::at('kind', $this->kind->value, 'a shape on a plane');
    }

    /** The same mark with another shape. */
    public function as(Geometry $geometry): self
    {
        return new self($this->id, $this->class, Shape::of($geometry), $geometry, $this->answers, $this->stack, $this->author, $this->partOf, $this->flags, $this->confidence, $this->place, $this->there, $this->keys);
    }

    /**
     * The same mark under another id, as a part of another.
     *
     * @param  array<string, string>  $ids  of the marks copied with it, new by old: a relation leads between the copies
     */
    public function copy(string $id, ?string $partOf, array $ids = []): self
    {
        $geometry = $this->geometry instanceof Join ? $this->geometry->among($ids) ?? $this->geometry : $this->geometry;

        return new self($id, $this->class, $this->kind, $geometry, $this->answers, $this->stack, $this->author, $partOf, $this->flags, $this->confidence, $this->place, $this->there, $this->keys);
    }

    /**
     * Reads `{id, class, kind, geometry, answers?, stack?, author?, part_of?, flags?, confidence?, place?, stretches?, keys?}`.
     *
     * @param  bool  $known  it comes from our own storage, so costly checks of its geometry are not made again
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'mark', bool $known = false): self
    {
        $fields = Fields::of($data, $path);
        $kind = Shape::tryFrom($fields->string('kind', 40));
        if ($kind === null) {
            throw InvalidValue::at($fields->path('kind'), $fields->raw('kind'), implode(', ', array_column(Shape::cases(), 'value')));
        }
        $flags = [];
        foreach ($fields->strings('flags') as $i => $word) {
            $flags[] = Flag::tryFrom($word) ?? throw InvalidValue::at($fields->path("flags[{$i}]"), $word, implode(', ', array_column(Flag::cases(), 'value')));
        }

        $confidence = $fields->optionalNumber('confidence');
        if ($confidence !== null && ($confidence < 0 || $confidence > 1)) {
            throw InvalidValue::at($fields->path('confidence'), $confidence, '0 to 1');
        }

        return new self(
            Ulid::check($fields->raw('id'), $fields->path('id')),
            $fields->string('class', 64),
            $kind,
            $kind->geometry($fields->object('geometry'), $fields->path('geometry'), $known),
            self::answers($fields),
            $fields->optionalInt('stack', -1_000_000, 1_000_000),
            $fields->optionalString('author', 200),
            $fields->has('part_of') ? Ulid::check($fields->raw('part_of'), $fields->path('part_of')) : null,
            self::sorted($flags),
            $confidence,
            $fields->optionalInt('place', 0, Places::LIMIT),
            $fields->has('stretches') ? Places::fromArray($fields->raw('stretches'), $fields->path('stretches')) : null,
            self::keysOf($fields, $kind, $known),
        );
    }

    /**
     * @return list<Key> in order
     *
     * @throws InvalidValue
     */
    private static function keysOf(Fields $fields, Shape $kind, bool $known): array
    {
        $keys = [];
        foreach ($fields->has('keys') ? $fields->list('keys') : [] as $i => $data) {
            $key = Key::fromArray($data, $kind, $fields->path("keys[{$i}]"), $known);
            if (isset($keys[$key->place])) {
                throw InvalidValue::at($fields->path("keys[{$i}].place"), $key->place, 'one key for each place');
            }
            $keys[$key->place] = $key;
        }
        ksort($keys);

        return array_values($keys);
    }

    /**
     * @return array<string, Answer> sorted by key
     *
     * @throws InvalidValue
     */
    public static function answers(Fields $fields): array
    {
        $answers = [];
        foreach ($fields->has('answers') ? $fields->map('answers') : [] as $key => $answer) {
            $answers[$key] = Answer::fromArray($answer, $fields->path("answers.{$key}"));
        }
        ksort($answers);

        return $answers;
    }

    public function has(Flag $flag): bool
    {
        return in_array($flag, $this->flags, true);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        $data = ['id' => $this->id, 'class' => $this->class, 'kind' => $this->kind->value, 'geometry' => $this->geometry->toArray()];
        if ($this->answers !== []) {
            $data['answers'] = array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers);
        }
        if ($this->stack !== null) {
            $data['stack'] = $this->stack;
        }
        if ($this->author !== null) {
            $data['author'] = $this->author;
        }
        if ($this->partOf !== null) {
            $data['part_of'] = $this->partOf;
        }
        if ($this->flags !== []) {
            $data['flags'] = array_map(static fn (Flag $flag): string => $flag->value, $this->flags);
        }

        if ($this->confidence !== null) {
            $data['confidence'] = $this->confidence;
        }
        if ($this->place !== null) {
            $data['place'] = $this->place;
        }
        if ($this->there !== null) {
            $data['stretches'] = $this->there->toArray();
        }
        if ($this->keys !== []) {
            $data['keys'] = array_map(static fn (Key $key): array => $key->toArray(), $this->keys);
        }

        return $data;
    }

    public function equals(self $other): bool
    {
        return $this->toArray() === $other->toArray();
    }

    /**
     * @param  list<Flag>  $flags
     * @return list<Flag>
     */
    private static function sorted(array $flags): array
    {
        return $flags === [] ? [] : array_values(array_filter(Flag::cases(), static fn (Flag $flag): bool => in_array($flag, $flags, true)));
    }
}
