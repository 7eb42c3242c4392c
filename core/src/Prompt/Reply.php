<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Span;

/** What a model has said of a text, as far as it can be used; what was mended on the way, and what was left out and why. */
final readonly class Reply
{
    /**
     * @param  list<array{class: string, span: Span}>  $spans  in the order of the text
     * @param  array<string, Answer>  $answers  by question
     * @param  list<string>  $tags  keys
     * @param  list<array{what: string, how: string}>  $mended
     * @param  list<array{what: string, why: string}>  $left
     */
    public function __construct(public array $spans, public array $answers, public array $tags, public array $mended, public array $left)
    {
    }

    /** @return array{spans: list<array{class: string, start: int, end: int}>, answers: object, tags: list<string>} what can be used of it */
    public function toArray(): array
    {
        return [
            'spans' => array_map(static fn (array $one): array => ['class' => $one['class'], 'start' => $one['span']->start, 'end' => $one['span']->end], $this->spans),
            'answers' => (object) array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers),
            'tags' => $this->tags,
        ];
    }
}
