<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use IntlBreakIterator;
use IntlRuleBasedBreakIterator;
use RuntimeException;

/**
 * The tokens of a text by the word and sentence boundaries of Unicode (UAX 29, with ICU's dictionaries for scripts that put no space between
 * words): everything between two boundaries that is not white space or invisible is a token, so a sign is one of its own. A line ends a
 * sentence. What the bench snaps to and what CoNLL is written by is this, or the tokens a text came with.
 */
final class WordBreaks
{
    /** What no token consists of alone: white space, controls, invisible signs. */
    private const EMPTY = '/^[\s\p{Z}\p{Cc}\p{Cf}]+$/u';

    public static function of(Text $text): Tokens
    {
        if ($text->tokens !== null) {
            return $text->tokens;
        }
        $starts = $ends = $sentences = [];
        $breaks = self::sentences($text->body);
        $next = 0;
        $inSentence = 0;
        $at = $byte = 0;
        foreach (self::parts(IntlBreakIterator::createWordInstance('root'), $text->body) as [$to, $status]) {
            $word = substr($text->body, $byte, $to - $byte);
            $length = strlen($word) === 1 ? 1 : mb_strlen($word, 'UTF-8');
            // words, numbers and ideographs have a status of their own; of the rest some are signs
            if ($status >= IntlBreakIterator::WORD_NONE_LIMIT || preg_match(self::EMPTY, $word) !== 1) {
                while ($next < count($breaks) && $breaks[$next] <= $byte) {
                    if ($inSentence > 0) {
                        $sentences[] = $inSentence;
                        $inSentence = 0;
                    }
                    $next++;
                }
                $starts[] = $at;
                $ends[] = $at + $length;
                $inSentence++;
            }
            $at += $length;
            $byte = $to;
        }
        if ($inSentence > 0) {
            $sentences[] = $inSentence;
        }

        return Tokens::of($starts, $ends, $sentences);
    }

    /** @return list<int> bytes at which a sentence or a line ends, in order */
    private static function sentences(string $body): array
    {
        $breaks = [];
        foreach (self::parts(IntlBreakIterator::createSentenceInstance('root'), $body) as [$to]) {
            $breaks[] = $to;
        }

        return $breaks;
    }

    /** @return iterable<array{int, int}> the byte at which each part ends, and its status */
    private static function parts(?IntlBreakIterator $iterator, string $body): iterable
    {
        if (! $iterator instanceof IntlRuleBasedBreakIterator || $iterator->setText($body) === false) {
            throw new RuntimeException('the rules for word boundaries are missing: is the intl extension whole?');
        }
        $iterator->first();
        while (($to = $iterator->next()) !== IntlBreakIterator::DONE) {
            yield [$to, $iterator->getRuleStatus()];
        }
    }
}
