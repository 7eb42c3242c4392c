<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/** Chance from a seed: the same seed draws the same orchard. */
final class Chance
{
    private readonly Randomizer $random;

    public function __construct(string $seed)
    {
        $this->random = new Randomizer(new Xoshiro256StarStar(hash('sha256', $seed, true)));
    }

    public function int(int $min, int $max): int
    {
        return $this->random->getInt($min, $max);
    }

    public function between(float $min, float $max): float
    {
        return $min + ($max - $min) * $this->random->getInt(0, 1_000_000) / 1_000_000;
    }

    /** Normal, by the sum of twelve even numbers: mean 0, deviation $by. */
    public function normal(float $by): float
    {
        $sum = -6.0;
        for ($i = 0; $i < 12; $i++) {
            $sum += $this->between(0, 1);
        }

        return $sum * $by;
    }

    public function yes(float $share): bool
    {
        return $this->between(0, 1) < $share;
    }

    /**
     * @template T
     *
     * @param  non-empty-list<T>  $of
     * @return T
     */
    public function one(array $of): mixed
    {
        return $of[$this->int(0, count($of) - 1)];
    }
}
