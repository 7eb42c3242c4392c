<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\InvalidValue;

/** Places on an item's axis (frames, slices, pages), as stretches `[[first, last], …]`: both ends included, in order, never touching. */
final readonly class Places
{
    /** No axis is longer. */
    public const LIMIT = 10_000_000;

    /** @param  list<array{int, int}>  $stretches */
    private function __construct(public array $stretches)
    {
    }

    public static function none(): self
    {
        return new self([]);
    }

    /** @throws InvalidValue */
    public static function stretch(int $first, int $last, string $path = 'stretch'): self
    {
        if ($first < 0 || $first > self::LIMIT) {
            throw InvalidValue::at("{$path}[0]", $first, 'a place from 0');
        }

        return $last >= $first && $last <= self::LIMIT ? new self([[$first, $last]]) : throw InvalidValue::at("{$path}[1]", $last, "a place from {$first}");
    }

    /**
     * Reads `[[first, last], …]` in any order.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'stretches'): self
    {
        if (! is_array($data) || ! array_is_list($data)) {
            throw InvalidValue::at($path, $data, 'a list of stretches');
        }
        $all = [];
        foreach ($data as $i => $stretch) {
            if (! is_array($stretch) || count($stretch) !== 2 || ! is_int($stretch[0] ?? null) || ! is_int($stretch[1] ?? null)) {
                throw InvalidValue::at("{$path}[{$i}]", $stretch, 'first and last place');
            }
            $all[] = self::stretch($stretch[0], $stretch[1], "{$path}[{$i}]")->stretches[0];
        }

        return self::merged($all);
    }

    public function has(int $place): bool
    {
        [$low, $high] = [0, count($this->stretches) - 1];
        while ($low <= $high) {
            $middle = intdiv($low + $high, 2);
            [$first, $last] = $this->stretches[$middle];
            if ($place < $first) {
                $high = $middle - 1;
            } elseif ($place > $last) {
                $low = $middle + 1;
            } else {
                return true;
            }
        }

        return false;
    }

    public function with(self $more): self
    {
        return self::merged([...$this->stretches, ...$more->stretches]);
    }

    /** @param  list<array{int, int}>  $all  in any order */
    private static function merged(array $all): self
    {
        sort($all);
        $merged = [];
        $open = null;
        foreach ($all as $stretch) {
            if ($open !== null && $stretch[0] <= $open[1] + 1) {
                $open = [$open[0], max($open[1], $stretch[1])];

                continue;
            }
            if ($open !== null) {
                $merged[] = $open;
            }
            $open = $stretch;
        }

        return new self($open === null ? [] : [...$merged, $open]);
    }

    public function without(self $other): self
    {
        $left = [];
        $passed = 0;
        foreach ($this->stretches as [$first, $last]) {
            // both are in order: what ends before this one ends before those that follow
            while (isset($other->stretches[$passed]) && $other->stretches[$passed][1] < $first) {
                $passed++;
            }
            for ($i = $passed; isset($other->stretches[$i]) && $other->stretches[$i][0] <= $last; $i++) {
                [$from, $to] = $other->stretches[$i];
                if ($from > $first) {
                    $left[] = [$first, $from - 1];
                }
                $first = $to + 1;
                if ($first > $last) {
                    break;
                }
            }
            if ($first <= $last) {
                $left[] = [$first, $last];
            }
        }

        return new self($left);
    }

    public function count(): int
    {
        return array_sum(array_map(static fn (array $stretch): int => $stretch[1] - $stretch[0] + 1, $this->stretches));
    }

    /** @return ?int the last place of all; null when there is none */
    public function last(): ?int
    {
        return $this->stretches === [] ? null : $this->stretches[count($this->stretches) - 1][1];
    }

    public function isEmpty(): bool
    {
        return $this->stretches === [];
    }

    /** @return list<array{int, int}> */
    public function toArray(): array
    {
        return $this->stretches;
    }
}
