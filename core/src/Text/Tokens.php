<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** The tokens of a text in sentences. Each is `[start, end]` in code points, none empty, none over another, in order. */
final readonly class Tokens
{
    /**
     * @param  list<int>  $starts
     * @param  list<int>  $ends
     * @param  list<int>  $sentences  number of tokens of each sentence; together all
     */
    private function __construct(public array $starts, public array $ends, public array $sentences)
    {
    }

    /**
     * @param  list<int>  $starts
     * @param  list<int>  $ends
     * @param  list<int>  $sentences
     *
     * @throws InvalidValue
     */
    public static function of(array $starts, array $ends, array $sentences, string $path = 'tokens'): self
    {
        $before = 0;
        foreach ($starts as $i => $start) {
            if ($start < $before || ($ends[$i] ?? -1) <= $start) {
                throw InvalidValue::at("{$path}[{$i}]", $start, "a token that begins at {$before} or later and is not empty");
            }
            $before = $ends[$i];
        }
        if (count($starts) !== count($ends) || array_sum($sentences) !== count($starts) || ($sentences !== [] && min($sentences) < 1)) {
            throw InvalidValue::at("{$path}.sentences", array_sum($sentences), 'sentences of '.count($starts).' tokens together');
        }

        return new self($starts, $ends, $sentences);
    }

    public function count(): int
    {
        return count($this->starts);
    }

    /** Where the last one ends; 0 without any. */
    public function end(): int
    {
        return $this->ends === [] ? 0 : $this->ends[count($this->ends) - 1];
    }

    /** The first token that ends behind a place; the number of tokens when none does. */
    public function after(int $offset): int
    {
        [$low, $high] = [0, count($this->ends)];
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($this->ends[$middle] <= $offset) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /**
     * As it is kept and sent: for each token how far it begins behind the one before and how long it is, one after the other.
     *
     * @return array{words: list<int>, sentences: list<int>}
     */
    public function toArray(): array
    {
        $words = [];
        $at = 0;
        foreach ($this->starts as $i => $start) {
            $words[] = $start - $at;
            $words[] = $this->ends[$i] - $start;
            $at = $this->ends[$i];
        }

        return ['words' => $words, 'sentences' => $this->sentences];
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'tokens'): self
    {
        $fields = Fields::of($data, $path);
        $starts = $ends = $sentences = [];
        $at = 0;
        $words = $fields->list('words');
        foreach ($words as $i => $number) {
            if (! is_int($number) || $number < 0 || $number > 100_000_000 || count($words) % 2 === 1) {
                throw InvalidValue::at("{$path}.words[{$i}]", $number, 'distances and lengths by turns, none negative');
            }
            $at += $number;
            if ($i % 2 === 0) {
                $starts[] = $at;
            } else {
                $ends[] = $at;
            }
        }
        foreach ($fields->list('sentences') as $i => $count) {
            $sentences[] = is_int($count) ? $count : throw InvalidValue::at("{$path}.sentences[{$i}]", $count, 'a number of tokens');
        }

        return self::of($starts, $ends, $sentences, $path);
    }
}
