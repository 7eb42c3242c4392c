<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Part;

/**
 * A split into train, val and test by shares and a seed. Pictures with the same bytes go to one side. Parts given before are
 * kept; the others fill what the shares still lack, in an order drawn from the seed and the picture's bytes alone, so that the
 * result does not depend on names or on the order of import.
 */
final readonly class Split
{
    /** @param  array{train: float, val: float, test: float}  $shares adding up to 1 */
    private function __construct(public array $shares, public int $seed)
    {
    }

    /** @throws InvalidValue unless the shares are 0 or more and add up to 100 */
    public static function of(float $train, float $val, float $test, int $seed): self
    {
        foreach (['train' => $train, 'val' => $val, 'test' => $test] as $name => $share) {
            if ($share < 0 || ! is_finite($share)) {
                throw InvalidValue::at("split.{$name}", $share, 'a share from 0 to 100');
            }
        }
        if (abs($train + $val + $test - 100) > 1e-6) {
            throw InvalidValue::at('split', "{$train}, {$val}, {$test}", 'three shares that add up to 100');
        }

        return new self(['train' => $train / 100, 'val' => $val / 100, 'test' => $test / 100], $seed);
    }

    /** Reads `80,10,10`. */
    public static function parse(string $text, int $seed): self
    {
        $shares = array_map(trim(...), explode(',', $text));
        if (count($shares) !== 3 || array_filter($shares, is_numeric(...)) !== $shares) {
            throw InvalidValue::at('split', $text, 'three shares such as 80,10,10');
        }

        return self::of((float) $shares[0], (float) $shares[1], (float) $shares[2], $seed);
    }

    /**
     * @param  array<string, string>  $hashes  picture's hash by item path
     * @param  array<string, Part>  $given  parts decided before, by hash
     * @return array<string, Part> by item path
     */
    public function assign(array $hashes, array $given = []): array
    {
        $sizes = [];
        foreach ($hashes as $hash) {
            $sizes[$hash] = ($sizes[$hash] ?? 0) + 1;
        }
        $parts = $this->ofPictures($sizes, $given);

        return array_map(static fn (string $hash): Part => $parts[$hash], $hashes);
    }

    /**
     * @param  array<string, int>  $sizes  how many items have a picture, by its hash
     * @param  array<string, Part>  $given  parts decided before, by hash
     * @return array<string, Part> by hash
     */
    public function ofPictures(array $sizes, array $given = []): array
    {
        $lack = $this->quotas(array_sum($sizes));
        $parts = array_intersect_key($given, $sizes);
        foreach ($parts as $hash => $part) {
            $lack[$part->value] -= $sizes[$hash];
        }
        $rank = [];
        foreach (array_keys(array_diff_key($sizes, $parts)) as $hash) {
            $rank[$hash] = hash('sha256', "{$this->seed}/{$hash}");
        }
        asort($rank, SORT_STRING);
        foreach (array_keys($rank) as $hash) {
            // the part that lacks most takes the next picture; ties go to train, then val
            $part = self::most($lack);
            $parts[$hash] = Part::from($part);
            $lack[$part] -= $sizes[$hash];
        }

        return $parts;
    }

    /**
     * How many items each part would get from `assign`, when no two of them have the same bytes: then it does not depend on which they are.
     *
     * @param  int  $count  of items
     * @param  array{train: int, val: int, test: int}  $given  of those, with a part decided before
     * @return array{train: int, val: int, test: int}
     */
    public function sizes(int $count, array $given): array
    {
        $lack = $this->quotas($count);
        $sizes = $given;
        foreach ($given as $part => $n) {
            $lack[$part] -= $n;
        }
        for ($left = $count - array_sum($given); $left > 0; $left--) {
            $part = self::most($lack);
            $sizes[$part]++;
            $lack[$part]--;
        }

        return $sizes;
    }

    /**
     * @param  array{train: int|float, val: int|float, test: int|float}  $of
     * @return 'train'|'val'|'test' the first with the largest value
     */
    private static function most(array $of): string
    {
        $most = max($of);

        return $of['train'] === $most ? 'train' : ($of['val'] === $most ? 'val' : 'test');
    }

    /**
     * Whole numbers by largest remainder.
     *
     * @return array{train: int, val: int, test: int}
     */
    private function quotas(int $count): array
    {
        $quotas = ['train' => 0, 'val' => 0, 'test' => 0];
        $rest = ['train' => 0.0, 'val' => 0.0, 'test' => 0.0];
        foreach ($this->shares as $part => $share) {
            $quotas[$part] = (int) floor($share * $count + 1e-9);
            $rest[$part] = $share * $count - $quotas[$part];
        }
        for ($left = $count - array_sum($quotas); $left > 0; $left--) {
            $part = self::most($rest);
            $quotas[$part]++;
            $rest[$part] = -1.0;
        }

        return $quotas;
    }
}
