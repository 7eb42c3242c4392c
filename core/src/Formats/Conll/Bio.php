<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Conll;

use Skeno\Core\Geometry\Span;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;
use Skeno\Core\Text\WordBreaks;

/**
 * The spans of a text as tags of its tokens: `B-` where one begins, `I-` where it goes on, `O` outside (Ramshaw and Marcus 1995, in the variant
 * in which every span begins with B). A token has one tag, so of spans that lie over each other one is held: what begins first, and of those that
 * begin together the longest.
 */
final readonly class Bio
{
    /**
     * @param  list<string>  $words  the tokens
     * @param  list<string>  $tags  one for each
     * @param  list<int>  $sentences  tokens of each; none ends within a span
     * @param  list<array{Mark, int, int}>  $held  spans with their first and last token, in order
     * @param  int  $over  spans left out, since another lies over them
     * @param  int  $widened  spans that begin or end within a token, which was taken whole
     * @param  int  $empty  spans left out, since no token lies in them
     * @param  int  $spaced  tokens with white space in them, which is written as _
     */
    private function __construct(public array $words, public array $tags, public array $sentences, public array $held, public int $over, public int $widened, public int $empty, public int $spaced)
    {
    }

    /** @param  list<Mark>  $marks  of which only spans count */
    public static function of(Text $text, array $marks): self
    {
        $tokens = WordBreaks::of($text);
        [$words, $spaced] = self::words($text, $tokens);
        $spans = [];
        foreach ($marks as $mark) {
            if ($mark->geometry instanceof Span) {
                $spans[] = [$mark, $mark->geometry];
            }
        }
        usort($spans, static fn (array $a, array $b): int => [$a[1]->start, -$a[1]->end, $a[0]->id] <=> [$b[1]->start, -$b[1]->end, $b[0]->id]);
        $tags = array_fill(0, count($words), 'O');
        $held = [];
        $over = $widened = $empty = 0;
        $free = 0;
        foreach ($spans as [$mark, $span]) {
            $first = $tokens->after($span->start);
            $last = $tokens->after($span->end - 1);
            $last = $last < $tokens->count() && $tokens->starts[$last] < $span->end ? $last : $last - 1;
            if ($last < $first) {
                $empty++;

                continue;
            }
            if ($first < $free) {
                $over++;

                continue;
            }
            $widened += $tokens->starts[$first] < $span->start || $tokens->ends[$last] > $span->end ? 1 : 0;
            for ($i = $first; $i <= $last; $i++) {
                $tags[$i] = ($i === $first ? 'B-' : 'I-').$mark->class;
            }
            $free = $last + 1;
            $held[] = [$mark, $first, $last];
        }

        return new self($words, array_values($tags), self::whole($tokens->sentences, $held), $held, $over, $widened, $empty, $spaced);
    }

    /**
     * The spans as a reader of the tokens alone finds them: in the text that is the tokens joined by a space, sentences by a line break.
     *
     * @return list<array{Mark, Span}>
     */
    public function joined(): array
    {
        $starts = $lengths = [];
        $at = 0;
        foreach ($this->words as $word) {
            $starts[] = $at;
            $lengths[] = $length = mb_strlen($word, 'UTF-8');
            $at += $length + 1;
        }

        return array_map(static fn (array $one): array => [$one[0], Span::of($starts[$one[1]], $starts[$one[2]] + $lengths[$one[2]])], $this->held);
    }

    /** @return array{list<string>, int} the tokens as they are written, and how many of them have white space in them */
    private static function words(Text $text, Tokens $tokens): array
    {
        $words = [];
        $spaced = 0;
        $at = $byte = 0;
        $body = $text->body;
        foreach ($tokens->starts as $i => $start) {
            // from token to token through the bytes: a table is not asked for each of a million
            $byte += self::bytes($body, $byte, $start - $at);
            $length = self::bytes($body, $byte, $tokens->ends[$i] - $start);
            $word = substr($body, $byte, $length);
            $byte += $length;
            $at = $tokens->ends[$i];
            if (strpbrk($word, " \t\r\n\v\f") !== false || (strlen($word) > 2 && preg_match('/[\p{Z}\s]/u', $word) === 1)) {
                $word = (string) preg_replace('/[\p{Z}\s]/u', '_', $word);
                $spaced++;
            }
            $words[] = $word;
        }

        return [$words, $spaced];
    }

    /** How many bytes so many code points take from a byte on. */
    private static function bytes(string $body, int $byte, int $points): int
    {
        if ($points === 0) {
            return 0;
        }
        $piece = substr($body, $byte, $points);
        if (preg_match('/[\x80-\xFF]/', $piece) !== 1) {
            return strlen($piece);
        }

        return strlen(mb_substr(substr($body, $byte, $points * 4), 0, $points, 'UTF-8'));
    }

    /**
     * Sentences none of which ends within a span: a reader would take its rest for a span of its own.
     *
     * @param  list<int>  $sentences
     * @param  list<array{Mark, int, int}>  $held
     * @return list<int>
     */
    private static function whole(array $sentences, array $held): array
    {
        $whole = [];
        $end = $open = $next = 0;
        foreach ($sentences as $count) {
            $end += $count;
            $open += $count;
            while ($next < count($held) && $held[$next][2] < $end) {
                $next++;
            }
            if ($next < count($held) && $held[$next][1] < $end) {
                continue;
            }
            $whole[] = $open;
            $open = 0;
        }

        return $open > 0 ? [...$whole, $open] : $whole;
    }
}
