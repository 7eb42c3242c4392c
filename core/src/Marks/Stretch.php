<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Places;

/** What is said of some places of an item's axis, one after the other: a tag, or the answer to a question of scope `frame`. */
final readonly class Stretch
{
    /**
     * @param  string  $key  of the tag or the question
     * @param  ?Answer  $answer  null: it is a tag
     * @param  int  $first  place, from 0
     * @param  int  $last  place, included
     */
    private function __construct(public string $key, public ?Answer $answer, public int $first, public int $last)
    {
    }

    /** @throws InvalidValue */
    public static function tag(string $key, int $first, int $last): self
    {
        Places::stretch($first, $last);

        return new self($key, null, $first, $last);
    }

    /** @throws InvalidValue */
    public static function answer(string $question, Answer $answer, int $first, int $last): self
    {
        Places::stretch($first, $last);

        return new self($question, $answer, $first, $last);
    }

    public function isTag(): bool
    {
        return $this->answer === null;
    }

    /** What it is about: two of one subject never lie over each other. */
    public function subject(): string
    {
        return ($this->isTag() ? 'tag ' : 'question ').$this->key;
    }

    /**
     * Reads `{tag, first, last}` or `{question, first, last, answer}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path): self
    {
        $fields = Fields::of($data, $path);
        if ($fields->has('tag') === $fields->has('question')) {
            throw InvalidValue::at($path, $data, 'either a tag or a question');
        }
        $first = $fields->int('first', 0, Places::LIMIT);
        $last = $fields->int('last', $first, Places::LIMIT);

        return $fields->has('tag')
            ? new self($fields->string('tag', 64), null, $first, $last)
            : new self($fields->string('question', 64), Answer::fromArray($fields->raw('answer'), $fields->path('answer')), $first, $last);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [$this->isTag() ? 'tag' : 'question' => $this->key, 'first' => $this->first, 'last' => $this->last] + ($this->answer === null ? [] : ['answer' => $this->answer->toArray()]);
    }
}
