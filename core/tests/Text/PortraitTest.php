<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Text;

use DOMDocument;
use DOMElement;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Portrait;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Visible;

final class PortraitTest extends TestCase
{
    private const HOSTILE = "</text><script>alert(1)</script> \u{202E}evil\u{202C} \x01\x1B \u{FFFE}\u{FFFF}\u{E000} & \"quoted\"";

    private static function parsed(string $svg): DOMDocument
    {
        $document = new DOMDocument;
        self::assertTrue($document->loadXML($svg), $svg);

        return $document;
    }

    public function test_what_a_text_says_is_text_in_its_picture_whatever_it_says(): void
    {
        $document = self::parsed(Portrait::ofText(self::HOSTILE.str_repeat(' more words of it', 60)));
        $names = [];
        foreach ($document->getElementsByTagName('*') as $element) {
            $names[$element->nodeName] = true;
        }
        self::assertSame(['svg', 'rect', 'g', 'text'], array_keys($names));
        self::assertLessThanOrEqual(9, $document->getElementsByTagName('text')->length, 'as many lines as it has room for');
        self::assertStringContainsString('<script>alert(1)</script> ⟦RLO⟧evil', (string) preg_replace('/\s+/', ' ', self::said($document)));
        self::assertSame(0, self::parsed(Portrait::ofText(''))->getElementsByTagName('tspan')->length);
    }

    public function test_a_span_is_underlined_among_the_words_round_it(): void
    {
        $body = str_repeat('before it ', 20).'woolly aphids'.str_repeat(' behind it', 20);
        $document = self::parsed(Portrait::ofMark(Text::of($body), Mark::of(sprintf('01%024d', 1), 'pest', Span::of(200, 213)), '#C4432B'));
        $under = [];
        foreach ($document->getElementsByTagName('tspan') as $part) {
            self::assertInstanceOf(DOMElement::class, $part);
            self::assertSame('text-decoration-color:#C4432B', $part->getAttribute('style'));
            $under[] = $part->textContent;
        }
        self::assertSame('woolly aphids', implode('', $under));
        self::assertMatchesRegularExpression('/^….*before it woolly aphids behind it.*…$/s', self::said($document));
        // the signs that part it are not those of a text
        $private = self::parsed(Portrait::ofMark(Text::of("\u{E000}aphids\u{E001} x"), Mark::of(sprintf('01%024d', 2), 'pest', Span::of(1, 7)), '#C4432B'));
        self::assertSame('aphids', $private->getElementsByTagName('tspan')->item(0)?->textContent);
        $this->expectException(InvalidValue::class);
        Portrait::ofMark(Text::of('aphids'), Mark::of(sprintf('01%024d', 3), 'pest', Box::of(0, 0, 4, 4)), '#C4432B');
    }

    public function test_what_can_not_be_seen_is_written_out(): void
    {
        self::assertSame("a⟦RLO⟧b␁␡\t\n⟦private⟧⟦no sign⟧é", Visible::of("a\u{202E}b\x01\x7F\t\n\u{E001}\u{FFFF}é"));
    }

    private static function said(DOMDocument $document): string
    {
        $said = '';
        foreach ($document->getElementsByTagName('text') as $line) {
            $said .= $line->textContent;
        }

        return $said;
    }
}
