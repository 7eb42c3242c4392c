<?php

declare(strict_types=1);

namespace Skeno\Core\Trial;

use Random\Engine\Mt19937;
use Random\Randomizer;

/** A figure with where it lies nineteen times in twenty, by drawing items anew (Efron, Bootstrap Methods, 1979, percentiles). */
final readonly class Interval
{
    public const DRAWS = 300;

    public function __construct(public float $value, public float $low, public float $high)
    {
    }

    /**
     * Several figures over the same items.
     *
     * @template K of string
     *
     * @param  int  $count  of items
     * @param  callable(array<int, int>): array<K, ?float>  $figures  of items, each counted so many times; null: nothing to say
     * @param  int  $draws  of the items anew; fewer say less exactly where the ends lie
     * @return array<K, ?self>
     */
    public static function of(int $count, callable $figures, int $seed = 1, int $draws = self::DRAWS): array
    {
        $values = $figures(array_fill(0, $count, 1));
        $random = new Randomizer(new Mt19937($seed));
        $all = [];
        for ($draw = 0; $draw < $draws && $count > 1; $draw++) {
            $times = array_fill(0, $count, 0);
            for ($i = 0; $i < $count; $i++) {
                $times[$random->getInt(0, $count - 1)]++;
            }
            foreach ($figures($times) as $key => $value) {
                if ($value !== null) {
                    $all[$key][] = $value;
                }
            }
        }
        $intervals = [];
        foreach ($values as $key => $value) {
            $drawn = $all[$key] ?? [];
            sort($drawn);
            $n = count($drawn);
            $intervals[$key] = $value === null ? null : new self($value, $n === 0 ? $value : min($value, $drawn[(int) floor(0.025 * ($n - 1))]), $n === 0 ? $value : max($value, $drawn[(int) ceil(0.975 * ($n - 1))]));
        }

        return $intervals;
    }

    /** @return array{value: float, low: float, high: float} to four digits */
    public function toArray(): array
    {
        return ['value' => round($this->value, 4), 'low' => round($this->low, 4), 'high' => round($this->high, 4)];
    }
}
