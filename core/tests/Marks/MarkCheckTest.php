<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Tests\Samples;

final class MarkCheckTest extends TestCase
{
    /** @param  list<Mark>  $marks @return list<string> code and mark number */
    private static function codes(array $marks): array
    {
        return array_map(static fn (Finding $finding): string => $finding->code.' '.ltrim(substr((string) $finding->mark, 2), '0'), (new MarkCheck(Samples::codebook()))->item($marks, Extent::plane(100, 100)));
    }

    public function test_good_marks_give_no_findings(): void
    {
        self::assertSame([], self::codes([Samples::apple(1, 0, 0, 100, 100), Mark::of(Samples::id(2), 'scab', Box::of(99.6, 0, 0.8, 50))]));
    }

    public function test_each_fault_is_found_and_leads_to_its_mark(): void
    {
        self::assertSame(['answer_missing 1'], self::codes([Samples::apple(1, 0, 0, 20, 20, null)]));
        self::assertSame(['answer_not_allowed 1'], self::codes([Samples::apple(1, 0, 0, 20, 20, 'blue')]));
        self::assertSame(['empty 1'], self::codes([Samples::apple(1, 5, 5, 0, 20)]));
        self::assertSame(['outside 1'], self::codes([Samples::apple(1, 100, 5, 20, 20)]));
        self::assertSame(['outside 1'], self::codes([Samples::apple(1, 85, 5, 20, 20)]));
        self::assertSame(['too_small 1'], self::codes([Samples::apple(1, 0, 0, 11, 20)]));
        self::assertSame(['class_unknown 1'], self::codes([Mark::of(Samples::id(1), 'pear', Box::of(0, 0, 9, 9))]));
        self::assertSame(['answer_unknown 1'], self::codes([Mark::of(Samples::id(1), 'scab', Box::of(0, 0, 9, 9), ['ripeness' => Answer::of('ripe')])]));
    }

    public function test_a_conditional_question_is_missed_only_while_asked(): void
    {
        $apple = static fn (array $answers): Mark => Mark::of(Samples::id(1), 'apple', Box::of(0, 0, 20, 20), ['ripeness' => Answer::of('ripe')] + $answers);
        self::assertSame(['answer_missing 1'], self::codes([$apple(['damage' => Answer::of(['crack'])])]));
        self::assertSame([], self::codes([$apple(['damage' => Answer::of(['bird'])])]));
        self::assertSame([], self::codes([$apple(['damage' => Answer::of(['crack']), 'crack_length' => Answer::of(4)])]));
    }

    public function test_the_same_object_drawn_twice_is_a_doubt_on_the_later_mark(): void
    {
        $findings = (new MarkCheck(Samples::codebook()))->item([Samples::apple(1, 10, 10, 40, 40), Samples::apple(2, 10, 11, 40, 40), Mark::of(Samples::id(3), 'scab', Box::of(10, 10, 40, 40))], Extent::plane(100, 100));
        self::assertCount(1, $findings);
        self::assertSame([Samples::id(2), false], [$findings[0]->mark, $findings[0]->stops]);
    }

    public function test_limits_on_objects(): void
    {
        $codebook = Codebook::fromArray(Samples::document() + ['limits' => ['objects' => ['min' => 2, 'max' => 2]]]);
        $scabs = array_map(static fn (int $n): Mark => Mark::of(Samples::id($n), 'scab', Box::of(10 * $n, 0, 9, 9)), [1, 2, 3]);
        $codes = static fn (array $marks): array => array_map(static fn (Finding $finding): string => $finding->code, (new MarkCheck($codebook))->item($marks, Extent::plane(100, 100)));
        self::assertSame(['too_many_objects'], $codes($scabs));
        self::assertSame([], $codes(array_slice($scabs, 1)));
        self::assertSame(['too_few_objects'], $codes(array_slice($scabs, 2)));
        self::assertSame([], $codes([]), 'an empty picture is for "nothing here" to answer');
    }
}
