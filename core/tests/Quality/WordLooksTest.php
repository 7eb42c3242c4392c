<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Quality;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Quality\WordLooks;

final class WordLooksTest extends TestCase
{
    /** @param  list<string>  $words */
    private static function of(array $words): WordLooks
    {
        $looks = new WordLooks;
        array_map($looks->add(...), $words);

        return $looks;
    }

    public function test_what_is_like_nothing_else_is_oddest(): void
    {
        $pests = [...array_fill(0, 20, 'woolly aphids'), ...array_fill(0, 12, 'red spider mites'), ...array_fill(0, 8, 'sawfly'), 'Woolly aphids', 'the slope', '12'];
        $looks = self::of($pests);
        $odd = array_unique($pests);
        usort($odd, static fn (string $a, string $b): int => $looks->oddness($b) <=> $looks->oddness($a));
        self::assertSame(['12', 'the slope'], array_slice($odd, 0, 2));
        self::assertSame('woolly aphids', $odd[count($odd) - 1]);
        self::assertGreaterThan($looks->oddness('woolly aphids'), $looks->oddness('Woolly aphids'), 'written otherwise');
    }

    public function test_by_hand(): void
    {
        $looks = self::of(array_fill(0, 8, 'mites'));
        self::assertTrue($looks->isKnown());
        // each of the five traits: (8 + 1) of (8 + 1 + 1)
        self::assertEqualsWithDelta(-log(0.9), $looks->oddness('mites'), 1e-12);
        // none of them was ever seen but that it is one word: (0 + 1) of 10 for words, written, first and last
        self::assertEqualsWithDelta((-log(0.9) - 4 * log(0.1)) / 5, $looks->oddness('12'), 1e-12);
        self::assertFalse(self::of(['one'])->isKnown());
    }

    public function test_any_words_have_a_number(): void
    {
        $looks = self::of(['', ' ', "\u{202E}", '虫', str_repeat('x', 5000)]);
        foreach (['', "\n", 'é', '👩‍🌾'] as $words) {
            self::assertGreaterThanOrEqual(0.0, $looks->oddness($words));
        }
    }
}
