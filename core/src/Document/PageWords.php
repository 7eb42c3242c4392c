<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;

/** The words of a page with their boxes, in the order one reads them: from the text layer of its file, or read from its picture. */
final readonly class PageWords
{
    /** Words a page may have: a hostile file is cut there. */
    public const MOST = 20_000;

    /** Characters of a word that are kept. */
    public const LONGEST = 200;

    /** px left round the words a box snaps to. */
    private const AIR = 2.0;

    /** @param  list<Word>  $words */
    private function __construct(public array $words)
    {
    }

    /** @param  list<Word>  $words */
    public static function of(array $words): self
    {
        return new self(array_slice($words, 0, self::MOST));
    }

    /** A word as it is kept: without what can't be seen or turns its neighbours round; null when nothing is left. */
    public static function clean(string $text): ?string
    {
        $text = mb_scrub($text, 'UTF-8');
        $text = trim((string) preg_replace('/[\p{Cc}\p{Co}\x{202A}-\x{202E}\x{2066}-\x{2069}\x{FEFF}\s]+/u', ' ', $text));

        return $text === '' ? null : mb_substr($text, 0, self::LONGEST);
    }

    /** The words most of which lie in a box. */
    public function in(Box $box): self
    {
        return new self(array_values(array_filter($this->words, static function (Word $word) use ($box): bool {
            [$x, $y] = [$word->box->x + $word->box->width / 2, $word->box->y + $word->box->height / 2];

            return $x >= $box->x && $x <= $box->right() && $y >= $box->y && $y <= $box->bottom();
        })));
    }

    public function isEmpty(): bool
    {
        return $this->words === [];
    }

    /** What is written: words of a line as it is seen with spaces between them, a line below the other. */
    public function text(): string
    {
        return implode("\n", array_map(static fn (array $line): string => implode(' ', array_map(static fn (Word $word): string => $word->text, $line)), $this->seenLines()));
    }

    /**
     * Words that stand beside each other, whatever columns or blocks their file or reader put them into; also where the sheet lies a little askew.
     *
     * @return list<non-empty-list<Word>> from top to bottom, each in the order it is read
     */
    private function seenLines(): array
    {
        $words = $this->words;
        usort($words, static fn (Word $a, Word $b): int => $a->box->x <=> $b->box->x ?: $a->box->y <=> $b->box->y);
        /** @var list<non-empty-list<Word>> $lines */
        $lines = [];
        foreach ($words as $word) {
            $best = null;
            $most = 0.5;
            foreach ($lines as $i => $line) {
                $share = self::beside($line[count($line) - 1]->box, $word->box);
                if ($share >= $most) {
                    [$best, $most] = [$i, $share];
                }
            }
            if ($best === null) {
                $lines[] = [$word];
            } else {
                $lines[$best][] = $word;
            }
        }
        usort($lines, static fn (array $a, array $b): int => self::middle($a) <=> self::middle($b));

        return array_map(static fn (array $line): array => self::isRightToLeft($line) ? array_reverse($line) : $line, $lines);
    }

    /** By how much of the lower of them two boxes stand at the same height, 0 to 1. */
    private static function beside(Box $a, Box $b): float
    {
        $common = min($a->bottom(), $b->bottom()) - max($a->y, $b->y);

        return $common <= 0 ? 0.0 : $common / max(0.01, min($a->height, $b->height));
    }

    /** @param  non-empty-list<Word>  $line */
    private static function middle(array $line): float
    {
        return array_sum(array_map(static fn (Word $word): float => $word->box->y + $word->box->height / 2, $line)) / count($line);
    }

    /** @param  non-empty-list<Word>  $line */
    private static function isRightToLeft(array $line): bool
    {
        $right = count(array_filter($line, static fn (Word $word): bool => preg_match('/[\p{Arabic}\p{Hebrew}\p{Syriac}\p{Thaana}]/u', $word->text) === 1));

        return 2 * $right > count($line);
    }

    /** How sure the least sure of them was, 0 to 1; null where none was read. */
    public function confidence(): ?float
    {
        $known = array_filter(array_map(static fn (Word $word): ?float => $word->confidence, $this->words), static fn (?float $sure): bool => $sure !== null);

        return $known === [] ? null : min($known);
    }

    /**
     * The box around them, with a little air, on a page of a size; null where there is none.
     *
     * @param  int  $width  of the page, $height likewise
     */
    public function around(int $width, int $height): ?Box
    {
        if ($this->words === []) {
            return null;
        }
        $left = max(0.0, min(array_map(static fn (Word $word): float => $word->box->x, $this->words)) - self::AIR);
        $top = max(0.0, min(array_map(static fn (Word $word): float => $word->box->y, $this->words)) - self::AIR);
        $right = min((float) $width, max(array_map(static fn (Word $word): float => $word->box->right(), $this->words)) + self::AIR);
        $bottom = min((float) $height, max(array_map(static fn (Word $word): float => $word->box->bottom(), $this->words)) + self::AIR);

        return $right > $left && $bottom > $top ? Box::of(round($left, 2), round($top, 2), round($right - $left, 2), round($bottom - $top, 2)) : null;
    }

    /** @return list<array{0: string, 1: float, 2: float, 3: float, 4: float, 5: int, 6?: float}> text, x, y, width, height, line, confidence */
    public function toArray(): array
    {
        return array_map(static fn (Word $word): array => [$word->text, round($word->box->x, 1), round($word->box->y, 1), round($word->box->width, 1), round($word->box->height, 1), $word->line, ...($word->confidence === null ? [] : [round($word->confidence, 3)])], $this->words);
    }

    /**
     * Reads what `toArray` has written.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'words'): self
    {
        $words = [];
        foreach (Fields::of(['words' => $data], $path)->list('words') as $i => $row) {
            if (! is_array($row) || ! is_string($row[0] ?? null) || ! is_int($row[5] ?? null)) {
                throw InvalidValue::at("{$path}[{$i}]", $row, 'text, x, y, width, height and line');
            }
            $numbers = [];
            foreach ([1, 2, 3, 4] as $at) {
                $numbers[] = is_int($row[$at] ?? null) || is_float($row[$at] ?? null) ? (float) $row[$at] : throw InvalidValue::at("{$path}[{$i}]", $row, 'a box');
            }
            $sure = $row[6] ?? null;
            $words[] = new Word($row[0], Box::of(...$numbers), $row[5], is_int($sure) || is_float($sure) ? (float) $sure : null);
        }

        return new self($words);
    }
}
