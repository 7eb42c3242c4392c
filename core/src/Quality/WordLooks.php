<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

/**
 * What the spans of a class look like: their words, how many there are, how they are written, and what they begin and end with. How odd one is
 * among them is how little it shares of that: the mean of the negative logarithms of how often each of these is found in the class, with one more
 * counted for what was never seen (Laplace).
 */
final class WordLooks
{
    /** Spans of which a class is known. */
    public const LEAST = 8;

    private int $spans = 0;

    /** @var array<string, array<string, int>> by trait and value */
    private array $counts = [];

    public function add(string $words): void
    {
        $this->spans++;
        foreach (self::traits($words) as $trait => $value) {
            $this->counts[$trait][$value] = ($this->counts[$trait][$value] ?? 0) + 1;
        }
    }

    public function isKnown(): bool
    {
        return $this->spans >= self::LEAST;
    }

    /** 0 when every span of the class is alike; about log(n) for one that shares nothing with n others. */
    public function oddness(string $words): float
    {
        $sum = 0.0;
        $traits = self::traits($words);
        foreach ($traits as $trait => $value) {
            $seen = $this->counts[$trait] ?? [];
            $sum -= log((($seen[$value] ?? 0) + 1) / ($this->spans + count($seen) + 1));
        }

        return $sum / count($traits);
    }

    /** @return array{words: string, number: string, written: string, first: string, last: string} */
    private static function traits(string $words): array
    {
        $fold = mb_strtolower(trim($words), 'UTF-8');
        $parts = preg_split('/[\s\p{Z}]+/u', $fold, -1, PREG_SPLIT_NO_EMPTY) ?: [''];
        // each run as what it is: a word with a capital, one without, a number, signs
        $written = (string) preg_replace_callback('/\p{Lu}\p{L}*|\p{L}+|\p{N}+|[^\p{L}\p{N}\s]+/u', static fn (array $run): string => match (true) {
            preg_match('/^\p{Lu}/u', $run[0]) === 1 => 'A',
            preg_match('/^\p{L}/u', $run[0]) === 1 => 'a',
            preg_match('/^\p{N}/u', $run[0]) === 1 => '9',
            default => '.',
        }, $words);

        return ['words' => $fold, 'number' => (string) min(6, count($parts)), 'written' => mb_substr($written, 0, 20), 'first' => $parts[0], 'last' => $parts[count($parts) - 1]];
    }
}
