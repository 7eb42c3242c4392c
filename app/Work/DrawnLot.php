<?php

declare(strict_types=1);

namespace App\Work;

/** A lot drawn by difference, and what it covers. */
final readonly class DrawnLot
{
    /**
     * @param  list<int>  $items  in byte order of their paths
     * @param  array{most: float, mean: float}  $cover  how far anything of the pool is from the nearest that is drawn or labelled, in spreads of the pool
     * @param  array{most: float, mean: float}  $random  the same for a random draw of the same size
     * @param  int  $pool  items drawn from
     * @param  int  $compared  of those, how many were compared: at most DrawByDifference::POOL, by a seed
     * @param  int  $unknown  of the pool, how many nobody has looked at yet, which are not drawn
     */
    public function __construct(public array $items, public array $cover, public array $random, public int $pool, public int $compared, public int $unknown)
    {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        $round = static fn (array $cover): array => array_map(static fn (float $distance): float => round($distance, 3), $cover);

        return ['cover' => $round($this->cover), 'random' => $round($this->random), 'pool' => $this->pool, 'compared' => $this->compared, 'unknown' => $this->unknown];
    }
}
