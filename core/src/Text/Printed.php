<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

/**
 * The code points of a text that are printed: all but white space, controls and the `_` that stands for a space within a token. Two texts of the
 * same words have the same ones in the same order, however they are spaced, so the nth of one is the nth of the other. Counted by parts: what it
 * keeps is small beside the text.
 */
final class Printed
{
    private const SPACE = '/[\s\p{Z}\p{Cc}\p{Cf}_]+/u';

    /** Code points of a part. */
    private const PART = 2048;

    /** @var list<int> how many are printed before each part, and in all */
    private array $before = [0];

    public function __construct(private readonly Text $text)
    {
        for ($at = 0; $at < $text->length; $at += self::PART) {
            $this->before[] = $this->before[count($this->before) - 1] + mb_strlen(self::alone($text->between($at, min($text->length, $at + self::PART))), 'UTF-8');
        }
    }

    /** Whether both print the same. */
    public function isAs(self $other): bool
    {
        return $this->count() === $other->count() && self::alone($this->text->body) === self::alone($other->text->body);
    }

    public function count(): int
    {
        return $this->before[count($this->before) - 1];
    }

    /** How many are printed before a place, which lies in the text or at its end. */
    public function until(int $place): int
    {
        $part = intdiv($place, self::PART);

        return $this->before[$part] + mb_strlen(self::alone($this->text->between($part * self::PART, $place)), 'UTF-8');
    }

    /** The place of one of them, counted from 0; null when there are not so many. */
    public function place(int $n): ?int
    {
        if ($n < 0 || $n >= $this->count()) {
            return null;
        }
        [$low, $high] = [0, count($this->before) - 2];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            if ($this->before[$middle] <= $n) {
                $low = $middle;
            } else {
                $high = $middle - 1;
            }
        }
        $left = $n - $this->before[$low];
        $from = $low * self::PART;
        foreach (mb_str_split($this->text->between($from, min($this->text->length, $from + self::PART)), 1, 'UTF-8') as $i => $point) {
            if (self::alone($point) !== '' && $left-- === 0) {
                return $from + $i;
            }
        }

        return null;
    }

    private static function alone(string $words): string
    {
        return (string) preg_replace(self::SPACE, '', $words);
    }
}
