<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Text;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Text\Decoding;
use Skeno\Core\Text\Printed;
use Skeno\Core\Text\RefusedText;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;
use Skeno\Core\Text\WordBreaks;

final class TextTest extends TestCase
{
    /** One byte, two, three and four a code point, with marks that combine and lines that end in both ways. */
    private const MIXED = "Wöolly aphids, שלום 👩‍🌾 e\u{301}té りんごの木\r\n\u{202E}x\u{202C}\t…";

    public function test_places_are_code_points_of_the_text_as_it_is(): void
    {
        $text = Text::of(str_repeat(self::MIXED, 300));
        $points = mb_str_split($text->body);
        self::assertSame(count($points), $text->length);
        $byte = 0;
        foreach ($points as $at => $point) {
            if ($at % 97 === 0) {
                self::assertSame([$byte, $at], [$text->byte($at), $text->offset($byte)]);
                self::assertSame(implode('', array_slice($points, $at, 13)), $text->words(Span::of($at, $at + 13)));
            }
            $byte += strlen($point);
        }
        self::assertSame([strlen($text->body), 0, ''], [$text->byte($text->length + 5), $text->byte(-3), $text->between(4, 4)]);
    }

    /** Against one after the other, in texts of several parts. */
    public function test_what_is_printed_is_the_same_however_it_is_spaced(): void
    {
        mt_srand(14);
        for ($round = 0; $round < 12; $round++) {
            $count = [0, 3, 40, 2500][$round % 4];
            $points = array_map(static fn (): string => mb_substr('aé木𝒙.', mt_rand(0, 4), 1), $count > 0 ? range(1, $count) : []);
            $spaced = static fn (): string => implode('', array_map(static fn (string $point): string => str_repeat([' ', "\n", '_', "\u{200B}", "\u{A0}"][mt_rand(0, 4)], max(0, mt_rand(-3, 3))).$point, $points));
            $places = static fn (string $body): array => array_keys(array_filter(mb_str_split($body), static fn (string $point): bool => preg_match('/[\s\p{Z}\p{Cc}\p{Cf}_]/u', $point) !== 1));
            [$one, $other] = [$spaced(), $spaced()];
            [$first, $second] = [$places($one), $places($other)];
            [$a, $b] = [new Printed(Text::of($one)), new Printed(Text::of($other))];
            self::assertTrue($a->isAs($b));
            self::assertSame([$count, null, null], [$a->count(), $a->place(-1), $a->place($count)]);
            foreach ($first as $n => $place) {
                if ($n % 61 < 3) {
                    self::assertSame([$place, $second[$n], $n, $n + 1], [$a->place($n), $b->place($n), $a->until($place), $a->until($place + 1)]);
                }
            }
            self::assertSame($a->count(), $a->until(mb_strlen($one)));
        }
        self::assertFalse((new Printed(Text::of('ab c')))->isAs(new Printed(Text::of('a bd'))));
    }

    public function test_bytes_that_are_no_text_are_refused(): void
    {
        $this->expectException(InvalidValue::class);
        Text::of("caf\xE9");
    }

    /** @return iterable<string, array{string, list<string>, list<int>}> */
    public static function words(): iterable
    {
        yield 'signs stand alone, what is written together stays together' => ["Don't spray 3.5 kg, yet!", ["Don't", 'spray', '3.5', 'kg', ',', 'yet', '!'], [7]];
        yield 'a line ends a sentence' => ["Row 4\n\nfine. Next", ['Row', '4', 'fine', '.', 'Next'], [2, 2, 1]];
        yield 'words without spaces' => ['りんごの木。', ['りんご', 'の', '木', '。'], [4]];
        yield 'right to left, an emoji of several, an accent by itself' => ["שלום 👩‍🌾 e\u{301}té", ['שלום', '👩‍🌾', "e\u{301}té"], [3]];
        yield 'nothing but space' => [" \t\u{200B}\u{2003}\n", [], []];
        yield 'nothing' => ['', [], []];
    }

    /**
     * @param  list<string>  $words
     * @param  list<int>  $sentences
     */
    #[DataProvider('words')]
    public function test_tokens_are_words_and_signs(string $body, array $words, array $sentences): void
    {
        $text = Text::of($body);
        $tokens = WordBreaks::of($text);
        self::assertSame($words, array_map(static fn (int $start, int $end): string => $text->between($start, $end), $tokens->starts, $tokens->ends));
        self::assertSame($sentences, $tokens->sentences);
        self::assertEquals($tokens, Tokens::fromArray($tokens->toArray()));
    }

    public function test_tokens_a_text_came_with_are_its_tokens(): void
    {
        $came = Tokens::of([0, 3], [3, 9], [1, 1]);
        self::assertSame($came, WordBreaks::of(Text::of('Don\'t spray', $came)));
        self::assertSame([0, 0, 1, 2], array_map($came->after(...), [0, 2, 3, 9]));
        foreach ([[[0, 2], [3, 4], [2]], [[0], [0], [1]], [[0], [2], [2]], [[0, 1], [1], [1]]] as [$starts, $ends, $sentences]) {
            try {
                Tokens::of($starts, $ends, $sentences);
                self::fail('tokens over each other, empty ones or lost ones were taken');
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
        $this->expectException(InvalidValue::class);
        Text::of('short', $came);
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function encodings(): iterable
    {
        $text = 'Café près du mur, déjà taché';
        yield 'as it is' => [$text, $text, 'UTF-8'];
        yield 'with a mark' => ["\xEF\xBB\xBF{$text}", $text, 'UTF-8'];
        yield 'western' => [(string) iconv('UTF-8', 'CP1252', $text), $text, 'WINDOWS-1252'];
        yield 'two bytes, marked' => ["\xFF\xFE".iconv('UTF-8', 'UTF-16LE', $text), $text, 'UTF-16LE'];
        yield 'two bytes, not marked' => [(string) iconv('UTF-8', 'UTF-16BE', $text), $text, 'UTF-16BE'];
        yield 'japanese' => [(string) iconv('UTF-8', 'CP932', 'こんにちは世界、りんごの木と葉。'), 'こんにちは世界、りんごの木と葉。', 'CP932'];
        yield 'cyrillic' => [(string) iconv('UTF-8', 'CP1251', 'Яблоня у старой стены, листья в пятнах'), 'Яблоня у старой стены, листья в пятнах', 'WINDOWS-1251'];
        yield 'nothing is trimmed' => [" a\r\n\r\n\t", " a\r\n\r\n\t", 'UTF-8'];
    }

    #[DataProvider('encodings')]
    public function test_the_encoding_of_a_file_is_told(string $bytes, string $text, string $encoding): void
    {
        $read = Decoding::of($bytes);
        self::assertSame([$text, $encoding], [$read->body, $read->encoding]);
    }

    public function test_a_file_that_is_no_text_is_refused_by_reason(): void
    {
        foreach (["PK\0\1\2", "\xFF\xFEa"] as $bytes) {
            try {
                Decoding::of($bytes);
                self::fail('it was taken');
            } catch (RefusedText $e) {
                self::assertMatchesRegularExpression('/null characters|holds what|can not be told/', $e->getMessage());
            }
        }
    }
}
