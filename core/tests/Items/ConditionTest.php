<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Items;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Condition;
use Skeno\Core\Items\ConditionKind;
use Skeno\Core\Items\Pattern;
use Skeno\Core\Tests\Samples;

final class ConditionTest extends TestCase
{
    public function test_a_condition_is_read_as_it_is_written(): void
    {
        $read = static fn (string $text): Condition => Condition::parse($text, Samples::codebook());
        self::assertSame([ConditionKind::State, 'accepted', false], [$read('state:accepted')->kind, $read('state:accepted')->value, $read('state:accepted')->not]);
        self::assertTrue($read('-class:apple')->not);
        self::assertSame('set:with:colons', $read('set:set:with:colons')->value);
        self::assertSame('', $read('set:')->value, 'the set at the top has no name');
        $answer = $read('answer:ripeness=green');
        self::assertSame(['green', 'ripeness', false], [$answer->value, $answer->question?->key, $answer->isOpen()]);
        self::assertTrue($read('answer:shaded=open')->isOpen());
        self::assertSame('no:unsure', $read('answer:ripeness=no:unsure')->value);
        self::assertSame('no', $read('-answer:shaded=no')->value);
        self::assertSame(['>=', 10.0], $read('duration:>=10')->amount);
        self::assertSame(['=', 3.0], $read('tracks:3')->amount);
        self::assertSame(['<=', 99.5], $read('-answered:<=99.5')->amount);
        self::assertNull($read('state:accepted')->amount);
    }

    /** @return array<string, array{string, string}> */
    public static function wrong(): array
    {
        return [
            'no kind' => ['accepted', 'state:…'], 'unknown kind' => ['colour:red', 'name:…'], 'unknown state' => ['state:lost', 'archived'], 'unknown class' => ['class:plum', 'apple'],
            'unknown tag' => ['tag:dry', 'tag'], 'unknown part' => ['part:rest', 'train'], 'empty name' => ['name: ', 'part of a name'], 'unknown question' => ['answer:smell=good', 'ripeness'],
            'unknown answer' => ['answer:ripeness=blue', 'green'], 'a way not offered' => ['answer:ripeness=no:none', 'no:unsure'], 'broken pattern' => ['re:(', 'regular expression'], 'empty pattern' => ['re:', 'regular expression'],
            'no words' => ['words:  ', 'words of a text'], 'no number' => ['duration:long', 'a number'], 'a sign unknown' => ['tracks:>3', '>=10'], 'no sense' => ['answered:>=1e9', 'a number'],
        ];
    }

    #[DataProvider('wrong')]
    public function test_what_is_wrong_is_named(string $text, string $words): void
    {
        try {
            Condition::parse($text, Samples::codebook());
            self::fail('it was taken');
        } catch (InvalidValue $e) {
            self::assertStringContainsString($words, $e->getMessage());
        }
    }

    public function test_a_pattern_finds_names_without_case_and_with_umlauts(): void
    {
        $still = static fn (): float => 0.0;
        $names = [3 => 'slope/Äpfel-01.jpg', 5 => 'slope/pears.png', 9 => "bad \xff bytes", 11 => 'north/apfel-7.JPG'];
        self::assertSame([3 => true, 11 => true], Pattern::of('[äa]pfel-\d+\.jpg$')->among($names, $still));
        self::assertSame([3 => true, 5 => true], Pattern::of('^slope/')->among($names, $still));
        // a slash, and the sign between pattern and flags, are nothing special
        self::assertSame([], Pattern::of("a/b\x01e")->among($names, $still));
    }

    public function test_a_pattern_that_goes_round_in_circles_is_stopped(): void
    {
        $still = static fn (): float => 0.0;
        $before = ini_get('pcre.backtrack_limit');
        try {
            Pattern::of('^(a+)+$')->among(array_fill(0, 1000, str_repeat('a', 60).'!'), $still);
            self::fail('it was not stopped');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('circles', $e->getMessage());
        }
        self::assertSame($before, ini_get('pcre.backtrack_limit'), 'and the limit is what it was');
        // nor can a pattern lift its limit from within: a limit in the pattern only lowers it
        $this->expectException(InvalidValue::class);
        Pattern::of('(*LIMIT_MATCH=100000000)^(a+)+$')->among([str_repeat('a', 60).'!'], $still);
    }

    public function test_many_names_are_stopped_by_the_clock(): void
    {
        $now = 0.0;
        $ticking = static function () use (&$now): float {
            return $now += 0.6;
        };
        self::assertCount(900, Pattern::of('a')->among(array_fill(0, 900, 'a'), $ticking));
        $this->expectException(InvalidValue::class);
        Pattern::of('a')->among(array_fill(0, 5000, 'a'), $ticking);
    }

    public function test_a_long_text_is_looked_through_and_one_that_goes_round_in_circles_is_stopped_there_too(): void
    {
        $still = static fn (): float => 0.0;
        $long = str_repeat('woolly aphids on the slope, ', 40_000);
        $found = Pattern::of('\b\d+ mites\b', 're-words')->among([1 => $long, 2 => $long.'12 mites', 3 => 'נמצאו 7 mites'], $still);
        self::assertSame([2 => true, 3 => true], $found);
        $read = 0;
        $texts = (static function () use (&$read, $long): iterable {
            for ($i = 0; $i < 100; $i++) {
                $read++;
                yield $i => $long;
            }
        })();
        $now = 0.0;
        try {
            Pattern::of('nothing here', 're-words')->among($texts, static function () use (&$now): float {
                return $now += 1.0;
            }, 5.0);
            self::fail('it was not stopped');
        } catch (InvalidValue $e) {
            self::assertStringStartsWith('re-words is "nothing here"', $e->getMessage());
            self::assertLessThan(10, $read, 'what came later was not read');
        }
        $begun = hrtime(true);
        try {
            Pattern::of('^(a+)+$', 're-words')->among([str_repeat('a', 1_000_000).'!'], $still);
            self::fail('it was not stopped');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('circles', $e->getMessage());
            self::assertLessThan(20.0, (hrtime(true) - $begun) / 1e9);
        }
    }
}
