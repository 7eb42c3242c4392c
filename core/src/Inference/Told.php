<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

/** What a model says of a picture as a whole. */
final readonly class Told
{
    /**
     * @param  array<string, float>  $tags  how sure it is of each, by the model's names
     * @param  array<string, array{string|bool, float}>  $answers  by the key of the question: the likeliest, and how sure it is of that
     */
    public function __construct(public array $tags = [], public array $answers = [])
    {
    }

    /** With what somebody else says; where both speak of the same, the first holds. */
    public function and(self $other): self
    {
        return new self($this->tags + $other->tags, $this->answers + $other->answers);
    }
}
