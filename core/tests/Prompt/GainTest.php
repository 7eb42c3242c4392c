<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Prompt;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\PromptFigures;

/** Two versions of a prompt held against each other on the same texts. */
final class GainTest extends TestCase
{
    /** @return array{class: string, span: Span} */
    private static function span(string $class, int $start, int $end): array
    {
        return ['class' => $class, 'span' => Span::of($start, $end)];
    }

    public function test_what_is_kept_of_a_text_says_what_stood_beside_what(): void
    {
        $compared = Compared::of(
            [self::span('pest', 0, 4), self::span('pest', 10, 14), self::span('count', 20, 22)], [self::span('pest', 0, 4), self::span('pest', 11, 14), self::span('date', 30, 33)],
            ['urgency' => Answer::of('now'), 'rows' => Answer::of(3)], ['urgency' => Answer::of('later'), 'rows' => Answer::of(3)], ['wet'], ['late'],
        );
        $kept = $compared->toArray();
        self::assertSame([
            ['class' => 'pest', 'known' => [0, 4], 'said' => [0, 4]], ['class' => 'pest', 'known' => [10, 14], 'said' => [11, 14]],
            ['class' => 'count', 'known' => [20, 22], 'said' => null], ['class' => 'date', 'known' => null, 'said' => [30, 33]],
        ], $kept['pairs']);
        self::assertSame(['known' => ['value' => 'now'], 'said' => ['value' => 'later'], 'agreed' => false], $kept['answers']['urgency']);
        self::assertTrue($kept['answers']['rows']['agreed']);
        self::assertSame(['late' => ['known' => false, 'said' => true], 'wet' => ['known' => true, 'said' => false]], $kept['tags']);
        // what went through JSON is the same
        self::assertSame($kept, json_decode((string) json_encode($kept), true));
        self::assertSame(['pest 10-14 11-14', 'count 20-22 ', 'date  30-33', 'question:urgency', 'tag:late', 'tag:wet'], Compared::errors($kept));
    }

    public function test_an_answer_to_what_nobody_has_answered_is_no_error(): void
    {
        $kept = Compared::of([], [], [], ['urgency' => Answer::of('now')])->toArray();
        self::assertNull($kept['answers']['urgency']['agreed']);
        self::assertSame([], Compared::errors($kept));
    }

    public function test_the_gain_is_that_of_the_sums_and_lies_in_its_interval(): void
    {
        $before = $after = [];
        for ($i = 0; $i < 40; $i++) {
            $before[] = ['pest' => ['known' => 4, 'said' => 4, 'exact' => $i % 3, 'overlapping' => 3]];
            $after[] = ['pest' => ['known' => 4, 'said' => 3, 'exact' => min(3, $i % 3 + 1), 'overlapping' => 3], 'count' => ['known' => 0, 'said' => 1, 'exact' => 0, 'overlapping' => 0]];
        }
        $gain = PromptFigures::gain($before, $after);
        $exact = static fn (array $all, int $said): float => 2 * array_sum(array_map(static fn (array $one): int => $one['pest']['exact'], $all)) / (160 + $said);
        self::assertEqualsWithDelta($exact($after, 160) - $exact($before, 160), $gain['exact']?->value, 1e-12);
        self::assertEqualsWithDelta(0.0, $gain['overlapping']?->value, 1e-12);
        // it is one quarter on each text, whatever the text: drawing others says the same
        self::assertEqualsWithDelta(0.25, $gain['exact']->low, 1e-12);
        self::assertEqualsWithDelta(0.25, $gain['exact']->high, 1e-12);
        self::assertEquals($gain, PromptFigures::gain($before, $after), 'the same is drawn');
    }

    public function test_a_version_held_against_itself_gains_nothing_and_where_nothing_is_there_is_nothing_to_say(): void
    {
        $some = [['pest' => ['known' => 2, 'said' => 1, 'exact' => 1, 'overlapping' => 1]], ['pest' => ['known' => 1, 'said' => 3, 'exact' => 0, 'overlapping' => 1]]];
        $gain = PromptFigures::gain($some, $some);
        self::assertSame([0.0, 0.0, 0.0], [$gain['exact']?->value, $gain['exact']?->low, $gain['exact']?->high]);
        self::assertSame(['exact' => null, 'overlapping' => null], PromptFigures::gain([], []));
        self::assertSame(['exact' => null, 'overlapping' => null], PromptFigures::gain([[]], [[]]));
    }

    public function test_answers_gain_by_texts_of_which_both_know(): void
    {
        $gain = PromptFigures::agreementGain([false, true, null, false, true], [true, true, true, false, null]);
        self::assertEqualsWithDelta(1 / 3, $gain?->value, 1e-12);
        self::assertTrue($gain->low <= $gain->value && $gain->value <= $gain->high);
        self::assertNull(PromptFigures::agreementGain([null], [true]));
        // every difference is the same: so is every draw
        self::assertEqualsWithDelta(-1.0, PromptFigures::agreementGain([true, true, true], [false, false, false])?->low, 1e-12);
    }
}
