<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Codebook\Answer;

/** A suggestion about a picture as a whole in the words of a project: a tag, or an answer to a question. */
final readonly class Saying
{
    /**
     * @param  string  $key  of the tag or the question
     * @param  ?Answer  $answer  null: it is a tag
     * @param  ?float  $confidence  0 to 1; null: whoever suggests it does not say
     */
    public function __construct(public string $key, public ?Answer $answer, public ?float $confidence)
    {
    }

    /** @return array{key: string, answer: array<string, mixed>|null, confidence: ?float} */
    public function toArray(): array
    {
        return ['key' => $this->key, 'answer' => $this->answer?->toArray(), 'confidence' => $this->confidence];
    }
}
