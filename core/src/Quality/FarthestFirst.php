<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

use Skeno\Core\InvalidValue;

/**
 * Draws things that differ from each other and from what is there already: always the one farthest from all drawn so far
 * (Gonzalez, Clustering to minimize the maximum intercluster distance, 1985; at most twice the best possible radius).
 * Every dimension is first brought to the same spread over the pool.
 */
final readonly class FarthestFirst
{
    /**
     * @param  array<int, list<float>>  $scaled  by id
     * @param  list<list<float>>  $there
     */
    private function __construct(private array $scaled, private array $there)
    {
    }

    /**
     * @param  non-empty-array<int, Looks>  $pool  by id
     * @param  list<Looks>  $there  what is labelled already
     */
    public static function over(array $pool, array $there = []): self
    {
        $d = Looks::DIMENSIONS;
        $sum = $square = array_fill(0, $d, 0.0);
        foreach ($pool as $looks) {
            foreach ($looks->values as $i => $value) {
                $sum[$i] += $value;
                $square[$i] += $value * $value;
            }
        }
        $n = count($pool);
        $factor = [];
        for ($i = 0; $i < $d; $i++) {
            $variance = $square[$i] / $n - ($sum[$i] / $n) ** 2;
            $factor[] = $variance > 1e-12 ? 1 / sqrt($variance * $d) : 0.0;
        }
        $scale = static function (Looks $looks) use ($factor): array {
            $values = [];
            foreach ($looks->values as $i => $value) {
                $values[] = $value * $factor[$i];
            }

            return $values;
        };

        return new self(array_map($scale, $pool), array_map($scale, $there));
    }

    /**
     * @return list<int> ids in the order they were drawn; of equally far ones the lowest id
     *
     * @throws InvalidValue
     */
    public function draw(int $count): array
    {
        if ($count < 1) {
            throw InvalidValue::at('count', $count, 'a whole number from 1');
        }
        $ids = array_keys($this->scaled);
        sort($ids);
        $least = $this->nearest($ids);
        $drawn = [];
        if ($this->there === []) {
            // with nothing there to be far from, it begins with what is most like all others: nothing strange comes first by chance
            $drawn[] = $first = $this->middle($ids);
            $least = $this->closer($least, $first);
        }
        while (count($drawn) < min($count, count($ids))) {
            $far = -1.0;
            $next = 0;
            foreach ($ids as $id) {
                if ($least[$id] > $far) {
                    $far = $least[$id];
                    $next = $id;
                }
            }
            $drawn[] = $next;
            $least = $this->closer($least, $next);
        }

        return $drawn;
    }

    /**
     * What a choice covers: how far anything of the pool is at most, and on average, from the nearest that is chosen or there already.
     *
     * @param  list<int>  $chosen
     * @return array{most: float, mean: float} in spreads of the pool; 0 when all are chosen
     */
    public function cover(array $chosen): array
    {
        $least = $this->nearest(array_keys($this->scaled));
        foreach ($chosen as $id) {
            $least = $this->closer($least, $id);
        }
        $distances = array_map(static fn (float $squared): float => is_finite($squared) ? sqrt(max(0.0, $squared)) : 0.0, $least);

        return ['most' => $distances === [] ? 0.0 : max($distances), 'mean' => array_sum($distances) / max(1, count($distances))];
    }

    /**
     * @param  list<int>  $ids
     * @return array<int, float> squared distance of each to the nearest of what is there
     */
    private function nearest(array $ids): array
    {
        $least = array_fill_keys($ids, INF);
        foreach ($this->there as $other) {
            $least = $this->closerTo($least, $other);
        }

        return $least;
    }

    /**
     * @param  array<int, float>  $least
     * @return array<int, float>
     */
    private function closer(array $least, int $id): array
    {
        $least = $this->closerTo($least, $this->scaled[$id]);
        // drawn: never again, also where others look just the same
        $least[$id] = -1.0;

        return $least;
    }

    /**
     * @param  array<int, float>  $least
     * @param  list<float>  $to
     * @return array<int, float>
     */
    private function closerTo(array $least, array $to): array
    {
        $d = count($to);
        foreach ($least as $id => $so) {
            $from = $this->scaled[$id];
            $distance = 0.0;
            for ($i = 0; $i < $d && $distance < $so; $i++) {
                $by = $from[$i] - $to[$i];
                $distance += $by * $by;
            }
            if ($distance < $so) {
                $least[$id] = $distance;
            }
        }

        return $least;
    }

    /** @param  list<int>  $ids */
    private function middle(array $ids): int
    {
        $mean = array_fill(0, Looks::DIMENSIONS, 0.0);
        foreach ($this->scaled as $values) {
            foreach ($values as $i => $value) {
                $mean[$i] += $value / count($this->scaled);
            }
        }
        $distances = $this->closerTo(array_fill_keys($ids, INF), array_values($mean));
        asort($distances);

        return (int) array_key_first($distances);
    }
}
