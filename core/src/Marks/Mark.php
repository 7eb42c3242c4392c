<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\InvalidValue;

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

    /** Its shape, where marks are on a plane. @throws InvalidValue when it is not */
    public function flat(): Flat
    {
        return $this->geometry instanceof Flat ? $this->geometry : throw InvalidValue::at('kind', $this->kind->value, 'a shape on a plane');
    }

    /** The same mark with another shape. */
    public function as(Geometry $geometry): self
    {
        return new self($this->id, $this->class, Shape::of($geometry), $geometry, $this->answers, $this->stack, $this->author, $this->partOf, $this->flags, $this->confidence);
    }

    /** The same mark under another id, as a part of another. */
    public function copy(string $id, ?string $partOf): self
    {
        return new self($id, $this->class, $this->kind, $this->geometry, $this->answers, $this->stack, $this->author, $partOf, $this->flags, $this->confidence);
    }

    /**
     * Reads `{id, class, kind, geometry, answers?, stack?, author?, part_of?, flags?, confidence?}`.
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
        );
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
