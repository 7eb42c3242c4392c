<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Inference;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\SeenWhole;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Tests\Samples;

/** Which suggestions count as looked at once a picture was seen whole. */
final class SeenWholeTest extends TestCase
{
    private static function suggested(int $n, Box $box, ?float $confidence, string $class = 'scab'): Mark
    {
        return Mark::of(Samples::id($n), $class, $box, confidence: $confidence);
    }

    /**
     * @param  list<Mark>  $there
     * @param  list<Mark>  $suggested
     * @param  array<string, mixed>  $limits
     * @return list<int> numbers of those that are taken
     */
    private static function taken(array $there, array $suggested, float $from = 0.9, array $limits = []): array
    {
        $codebook = Codebook::fromArray(Samples::document() + $limits);
        $taken = (new SeenWhole($from))->marks(new MarkCheck($codebook), $there, $suggested, Extent::plane(200, 200), ItemAnswers::none());

        return array_map(static fn (Mark $mark): int => (int) ltrim(substr($mark->id, 2), '0'), $taken);
    }

    public function test_those_from_the_confidence_on_are_taken(): void
    {
        $suggested = [self::suggested(1, Box::of(0, 0, 20, 20), 0.9), self::suggested(2, Box::of(50, 0, 20, 20), 0.89), self::suggested(3, Box::of(90, 0, 20, 20), null), self::suggested(4, Box::of(120, 0, 20, 20), 1.0)];
        self::assertSame([1, 4], self::taken([], $suggested));
        self::assertSame([1, 2, 4], self::taken([], $suggested, 0.5));
        self::assertSame([], self::taken([], []));
    }

    public function test_one_the_check_speaks_of_is_left_for_a_person(): void
    {
        // apples need an answer nobody has given; the small one is no apple; the last lies over one a hand has drawn
        self::assertSame([3], self::taken([Mark::of(Samples::id(9), 'scab', Box::of(150, 150, 20, 20))], [
            self::suggested(1, Box::of(0, 0, 20, 20), 0.95, 'apple'),
            self::suggested(2, Box::of(30, 0, 4, 4), 0.95, 'apple'),
            self::suggested(3, Box::of(60, 0, 20, 20), 0.95),
            self::suggested(4, Box::of(150, 150, 20, 20.2), 0.95),
        ]));
    }

    public function test_of_two_that_coincide_at_most_one_is_taken_whichever_was_named_first(): void
    {
        foreach ([[1, 2], [2, 1]] as [$a, $b]) {
            self::assertCount(1, self::taken([], [self::suggested($a, Box::of(0, 0, 20, 20), 0.95), self::suggested($b, Box::of(0, 0, 20, 20.1), 0.95)]));
            // the hand's may have been drawn later than the suggestion
            self::assertSame([], self::taken([Mark::of(Samples::id($a), 'scab', Box::of(0, 0, 20, 20))], [self::suggested($b, Box::of(0, 0, 20, 20.1), 0.95)]));
        }
    }

    public function test_none_is_taken_where_together_they_are_too_many(): void
    {
        $two = [self::suggested(1, Box::of(0, 0, 20, 20), 0.95), self::suggested(2, Box::of(50, 0, 20, 20), 0.95)];
        self::assertSame([1, 2], self::taken([], $two, limits: ['limits' => ['objects' => ['max' => 2]]]));
        self::assertSame([], self::taken([Mark::of(Samples::id(9), 'scab', Box::of(150, 150, 20, 20))], $two, limits: ['limits' => ['objects' => ['max' => 2]]]));
    }

    public function test_what_was_wrong_before_does_not_keep_them_away(): void
    {
        $unanswered = Samples::apple(9, 100, 100, 20, 20, null);
        self::assertSame([1], self::taken([$unanswered], [self::suggested(1, Box::of(0, 0, 20, 20), 0.95)]));
    }

    public function test_words_go_by_confidence_alone(): void
    {
        $wet = new Saying('wet', null, 0.9);
        $rain = new Saying('weather', Answer::of('rain'), 0.95);
        self::assertSame([$wet, $rain], (new SeenWhole(0.9))->sayings([$wet, new Saying('fog', null, 0.89), $rain, new Saying('hail', null, null)]));
    }

    #[DataProvider('none')]
    public function test_what_is_no_confidence_is_refused(float $from): void
    {
        $this->expectException(InvalidValue::class);
        new SeenWhole($from);
    }

    /** @return iterable<string, array{float}> */
    public static function none(): iterable
    {
        yield 'nought' => [0.0];
        yield 'more than sure' => [1.01];
        yield 'no number' => [NAN];
    }
}
