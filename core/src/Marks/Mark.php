<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;

/** One annotation: a shape of a class with its answers. Whether codebook and picture allow it is MarkCheck's to say. */
final readonly class Mark
{
    /**
     * @param  string  $class  key in the codebook
     * @param  array<string, Answer>  $answers  by attribute key, sorted by key
     * @param  ?int  $stack  own place in the stack; null: the class's
     * @param  ?string  $author  a person's name where a release carries names, or "import"
     */
    private function __construct(
        public string $id,
        public string $class,
        public Shape $kind,
        public Box $geometry,
        public array $answers,
        public ?int $stack,
        public ?string $author,
    ) {
    }

    /** @param  array<string, Answer>  $answers */
    public static function box(string $id, string $class, Box $geometry, array $answers = [], ?int $stack = null, ?string $author = null): self
    {
        ksort($answers);

        return new self($id, $class, Shape::Box, $geometry, $answers, $stack, $author);
    }

    /**
     * Reads `{id, class, kind, geometry, answers?, stack?, author?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'mark'): self
    {
        $fields = Fields::of($data, $path);
        $kind = self::kind($fields);
        $answers = [];
        if ($fields->has('answers')) {
            foreach ($fields->map('answers') as $key => $answer) {
                $answers[$key] = Answer::fromArray($answer, $fields->path("answers.{$key}"));
            }
            ksort($answers);
        }

        return new self(
            Ulid::check($fields->raw('id'), $fields->path('id')),
            $fields->string('class', 64),
            $kind,
            Box::fromFields($fields->object('geometry'), $fields->path('geometry')),
            $answers,
            $fields->optionalInt('stack', -1_000_000, 1_000_000),
            $fields->optionalString('author', 200),
        );
    }

    private static function kind(Fields $fields): Shape
    {
        $kind = Shape::tryFrom($fields->string('kind', 40));
        if ($kind === null || ! $kind->isDrawn()) {
            throw InvalidValue::at($fields->path('kind'), $fields->raw('kind'), 'box');
        }

        return $kind;
    }

    /** @return array{id: string, class: string, kind: string, geometry: array<string, float>, answers?: array<string, array<string, mixed>>, stack?: int, author?: string} */
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

        return $data;
    }

    public function equals(self $other): bool
    {
        return $this->toArray() === $other->toArray();
    }
}
