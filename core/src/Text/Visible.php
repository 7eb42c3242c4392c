<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

/** Controls and signs that turn the direction of writing, made visible: what can't be seen could be another text than it seems. */
final class Visible
{
    private const BIDI = ["\u{202A}" => 'LRE', "\u{202B}" => 'RLE', "\u{202C}" => 'PDF', "\u{202D}" => 'LRO', "\u{202E}" => 'RLO', "\u{2066}" => 'LRI', "\u{2067}" => 'RLI', "\u{2068}" => 'FSI', "\u{2069}" => 'PDI'];

    /** White space stays; other controls stand as their picture (U+2400 and on), signs of direction as ⟦their name⟧. */
    public static function of(string $text): string
    {
        $text = strtr($text, array_map(static fn (string $name): string => "⟦{$name}⟧", self::BIDI));
        // what is used inside to say where a span begins and ends is not the text's
        $text = str_replace(["\u{E000}", "\u{E001}"], '⟦private⟧', $text);
        // what XML may not hold, not even written out
        $text = str_replace(["\u{FFFE}", "\u{FFFF}"], '⟦no sign⟧', $text);

        return (string) preg_replace_callback('/[\x00-\x08\x0B\x0C\x0E-\x1F\x7F]/', static fn (array $found): string => $found[0] === "\x7F" ? "\u{2421}" : mb_chr(0x2400 + ord($found[0]), 'UTF-8'), $text);
    }
}
