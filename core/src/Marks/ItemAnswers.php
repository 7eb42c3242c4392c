<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What is said of an item as a whole: answers to the questions asked of it, and tags. Each layer has its own. */
final readonly class ItemAnswers
{
    /** How an edit says that it is about the item as a whole. */
    public const KIND = 'item';

    /**
     * @param  array<string, Answer>  $answers  by attribute key, sorted by key
     * @param  list<string>  $tags  keys, in the order they were put on, each once
     */
    private function __construct(public array $answers, public array $tags)
    {
    }

    public static function none(): self
    {
        return new self([], []);
    }

    /**
     * @param  array<string, Answer>  $answers
     * @param  list<string>  $tags
     */
    public static function of(array $answers, array $tags): self
    {
        ksort($answers);

        return new self($answers, array_values(array_unique($tags)));
    }

    /**
     * Reads `{answers?, tags?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'item'): self
    {
        $fields = Fields::of($data, $path);
        $tags = $fields->strings('tags');
        if (count($tags) > 500 || count(array_unique($tags)) !== count($tags)) {
            throw InvalidValue::at($fields->path('tags'), $tags, 'each tag once, at most 500');
        }

        return new self(Mark::answers($fields), $tags);
    }

    public function isEmpty(): bool
    {
        return $this->answers === [] && $this->tags === [];
    }

    /** @return array{answers?: array<string, array<string, mixed>>, tags?: list<string>} */
    public function toArray(): array
    {
        return ($this->answers === [] ? [] : ['answers' => array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers)])
            + ($this->tags === [] ? [] : ['tags' => $this->tags]);
    }
}
