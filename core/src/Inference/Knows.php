<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

/** What a model knows by name. */
final readonly class Knows
{
    /**
     * @param  list<string>  $classes  of things it finds
     * @param  list<string>  $nodes  of skeletons
     * @param  list<string>  $tags  of whole pictures
     * @param  list<string>  $questions  keys of the project's questions about whole pictures it answers: of models learned here
     */
    public function __construct(public array $classes, public array $nodes = [], public array $tags = [], public array $questions = [])
    {
    }

    /** With what comes then: its nodes and what it says of the picture, but not what it would find by itself. */
    public function then(self $other): self
    {
        return new self($this->classes, self::both($this->nodes, $other->nodes), self::both($this->tags, $other->tags), self::both($this->questions, $other->questions));
    }

    /** All of it in words, for messages. */
    public function words(): string
    {
        return implode(', ', [...$this->classes, ...array_diff($this->tags, $this->classes), ...$this->questions]);
    }

    /**
     * @param  list<string>  $a
     * @param  list<string>  $b
     * @return list<string>
     */
    private static function both(array $a, array $b): array
    {
        return array_values(array_unique([...$a, ...$b]));
    }
}
