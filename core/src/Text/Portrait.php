<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Mark;

/** A text, or a span with some words round it, as a small picture (SVG 1.1) for lists and sheets. It holds text alone: nothing is fetched or run. */
final class Portrait
{
    private const WIDTH = 320;

    private const HEIGHT = 240;

    /** Characters of a line, and px of one. */
    private const LINE = 36;

    private const STEP = 26;

    /** Code points shown before a span. */
    private const BEFORE = 60;

    /** How a text begins. */
    public static function ofText(string $begin): string
    {
        return self::drawn(self::lines(Visible::of(mb_substr($begin, 0, 500, 'UTF-8'))), null);
    }

    /** A span in its surroundings, its words underlined in a colour. @throws InvalidValue when the mark is none */
    public static function ofMark(Text $text, Mark $mark, string $color): string
    {
        $span = $mark->geometry instanceof Span ? $mark->geometry : throw InvalidValue::at('kind', $mark->kind->value, 'a span');
        $from = max(0, $span->start - self::BEFORE);
        $end = min($text->length, $span->end + self::BEFORE);
        $around = [$text->between($from, $span->start), $text->between($span->start, min($span->end, $end)), $text->between(min($span->end, $end), $end)];

        return self::drawn(self::lines(($from > 0 ? '…' : '').Visible::of($around[0])."\u{E000}".Visible::of($around[1])."\u{E001}".Visible::of($around[2]).($end < $text->length ? '…' : '')), $color);
    }

    /** @return list<string> lines of words, cut where one is too long */
    private static function lines(string $words): array
    {
        $lines = [''];
        foreach (preg_split('/(?<=\s)/u', (string) preg_replace('/[\s\p{Z}]+/u', ' ', $words)) ?: [] as $word) {
            foreach (mb_str_split($word, self::LINE, 'UTF-8') as $piece) {
                $last = count($lines) - 1;
                if ($lines[$last] !== '' && mb_strwidth($lines[$last].$piece, 'UTF-8') > self::LINE) {
                    $lines[] = $piece;
                } else {
                    $lines[$last] .= $piece;
                }
            }
        }

        return array_slice($lines, 0, intdiv(self::HEIGHT, self::STEP));
    }

    /** @param  list<string>  $lines */
    private static function drawn(array $lines, ?string $color): string
    {
        $svg = '<svg xmlns="http://www.w3.org/2000/svg" width="'.self::WIDTH.'" height="'.self::HEIGHT.'" viewBox="0 0 '.self::WIDTH.' '.self::HEIGHT.'">'
            .'<rect width="100%" height="100%" fill="#FBF8F1"/><g font-family="Hanken Grotesk, sans-serif" font-size="17" fill="#20302B">';
        $inside = false;
        foreach ($lines as $i => $line) {
            $parts = preg_split('/([\x{E000}\x{E001}])/u', $line, -1, PREG_SPLIT_DELIM_CAPTURE) ?: [];
            $svg .= '<text x="12" y="'.(28 + $i * self::STEP).'" xml:space="preserve">';
            foreach ($parts as $part) {
                if ($part === "\u{E000}" || $part === "\u{E001}") {
                    $inside = $part === "\u{E000}";
                } elseif ($part !== '') {
                    $said = htmlspecialchars($part, ENT_XML1 | ENT_QUOTES, 'UTF-8');
                    $svg .= $inside && $color !== null ? '<tspan font-weight="700" text-decoration="underline" style="text-decoration-color:'.htmlspecialchars($color, ENT_XML1 | ENT_QUOTES).'">'.$said.'</tspan>' : $said;
                }
            }
            $svg .= '</text>';
        }

        return "{$svg}</g></svg>\n";
    }
}
