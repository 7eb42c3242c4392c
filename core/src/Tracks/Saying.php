<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\InvalidValue;

/** What one question of one subject is answered along the axis: stretches with an answer each, which never overlap. */
final readonly class Saying
{
    /** @param  list<array{first: int, last: int, answer: Answer}>  $stretches  in order */
    private function __construct(public array $stretches)
    {
    }

    public static function none(): self
    {
        return new self([]);
    }

    /**
     * Says an answer from here to there, both included: it cuts what was said of these places before.
     *
     * @param  ?Answer  $answer  null: nothing is said there any more
     *
     * @throws InvalidValue
     */
    public function say(int $first, int $last, ?Answer $answer): self
    {
        $new = Places::stretch($first, $last);
        $stretches = $answer === null ? [] : [['first' => $first, 'last' => $last, 'answer' => $answer]];
        foreach ($this->stretches as $old) {
            foreach (Places::stretch($old['first'], $old['last'])->without($new)->stretches as [$from, $to]) {
                $stretches[] = ['first' => $from, 'last' => $to, 'answer' => $old['answer']];
            }
        }
        usort($stretches, static fn (array $a, array $b): int => $a['first'] <=> $b['first']);

        return new self(self::joined($stretches));
    }

    /** A new answer from a place on: the one that held there ends before it, and the new one holds to where that would have ended. */
    public function switch(int $place, Answer $answer, int $last): self
    {
        foreach ($this->stretches as $stretch) {
            if ($stretch['first'] <= $place && $place <= $stretch['last']) {
                return $this->say($place, $stretch['last'], $answer);
            }
            if ($stretch['first'] > $place) {
                return $this->say($place, $stretch['first'] - 1, $answer);
            }
        }

        return $this->say($place, $last, $answer);
    }

    public function at(int $place): ?Answer
    {
        foreach ($this->stretches as $stretch) {
            if ($stretch['first'] <= $place && $place <= $stretch['last']) {
                return $stretch['answer'];
            }
        }

        return null;
    }

    /** Places of a stretch of the axis of which nothing is said: gaps in an answer that is required. */
    public function gaps(int $first, int $last): Places
    {
        $gaps = Places::stretch($first, $last);
        foreach ($this->stretches as $stretch) {
            $gaps = $gaps->without(Places::stretch($stretch['first'], $stretch['last']));
        }

        return $gaps;
    }

    /**
     * @param  list<array{first: int, last: int, answer: Answer}>  $stretches
     * @return list<array{first: int, last: int, answer: Answer}> neighbours that say the same are one
     */
    private static function joined(array $stretches): array
    {
        $joined = [];
        $open = null;
        foreach ($stretches as $stretch) {
            if ($open !== null && $stretch['first'] === $open['last'] + 1 && $open['answer']->toArray() === $stretch['answer']->toArray()) {
                $open = ['last' => $stretch['last']] + $open;

                continue;
            }
            if ($open !== null) {
                $joined[] = $open;
            }
            $open = $stretch;
        }

        return $open === null ? [] : [...$joined, $open];
    }
}
