<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\InvalidValue;

/** Which items an assignment takes out of a pool: all, the first N, or N at random by a seed. */
final readonly class Selection
{
    private function __construct(private string $way, private int $count, private int $seed)
    {
    }

    public static function all(): self
    {
        return new self('all', 0, 0);
    }

    public static function first(int $count): self
    {
        return new self('first', self::positive($count), 0);
    }

    public static function random(int $count, int $seed): self
    {
        return new self('random', self::positive($count), $seed);
    }

    /**
     * @param  list<int>  $pool  ids in their order
     * @return list<int> chosen ids in the pool's order; the same pool, count and seed give the same choice
     */
    public function from(array $pool): array
    {
        if ($this->way === 'all' || $this->count >= count($pool)) {
            return $pool;
        }
        if ($this->way === 'first') {
            return array_slice($pool, 0, $this->count);
        }
        $random = new Randomizer(new Xoshiro256StarStar(hash('sha256', (string) $this->seed, true)));
        $chosen = array_slice($random->shuffleArray(array_keys($pool)), 0, $this->count);
        sort($chosen);

        return array_values(array_map(static fn (int $place): int => $pool[$place], $chosen));
    }

    private static function positive(int $count): int
    {
        return $count > 0 ? $count : throw InvalidValue::at('count', $count, 'a whole number from 1');
    }
}
