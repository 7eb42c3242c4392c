<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** Pixels drawn from pictures to learn from: their features, what they are, and how many were drawn of how many that are there. */
final class Drawn
{
    /** @var array<int, string> of each feature a byte a pixel */
    public array $columns = [];

    /** A byte a pixel: 0 ground, 2k + 1 inside of class k, 2k + 2 its rim. */
    public string $labels = '';

    /** @var array<int, int> drawn, by what they are */
    private array $drawn = [];

    /** @var array<int, int> there in all, by what they are */
    private array $there = [];

    /**
     * @param  list<string>  $features  of a picture, each a byte a pixel
     * @param  list<int>  $pixels  that are drawn
     * @param  string  $target  what each pixel is; 255: not known
     */
    public function take(array $features, array $pixels, string $target): void
    {
        foreach ($features as $f => $column) {
            $bytes = '';
            foreach ($pixels as $i) {
                $bytes .= $column[$i];
            }
            $this->columns[$f] = ($this->columns[$f] ?? '').$bytes;
        }
        foreach ($pixels as $i) {
            $this->labels .= $target[$i];
            $value = ord($target[$i]);
            $this->drawn[$value] = ($this->drawn[$value] ?? 0) + 1;
        }
        foreach (count_chars($target, 1) as $value => $many) {
            if ($value !== 255) {
                $this->there[$value] = ($this->there[$value] ?? 0) + $many;
            }
        }
    }

    /** The labels with inside and rim as one: 0 ground, k + 1 class k. */
    public function plainly(): string
    {
        $plain = '';
        for ($i = 0, $n = strlen($this->labels); $i < $n; $i++) {
            $plain .= chr(self::plain(ord($this->labels[$i])));
        }

        return $plain;
    }

    /**
     * What a drawn pixel stands for: half way between what is there and what was drawn, so that what is rare is not drowned by the ground.
     *
     * @param  int  $classes  number of them, the ground among them
     * @param  bool  $rims  whether rims are classes of their own
     * @return list<float>
     */
    public function weights(int $classes, bool $rims): array
    {
        $drawn = $this->counted($this->drawn, $classes, $rims);

        return array_values(array_map(static fn (int $there, int $drawn): float => $drawn === 0 ? 1.0 : sqrt($there / $drawn), $this->counted($this->there, $classes, $rims), $drawn));
    }

    /**
     * @param  array<int, int>  $counts
     * @return array<int, int> by class
     */
    private function counted(array $counts, int $classes, bool $rims): array
    {
        $by = array_fill(0, $classes, 0);
        foreach ($counts as $value => $many) {
            $by[$rims ? $value : self::plain($value)] += $many;
        }

        return $by;
    }

    private static function plain(int $value): int
    {
        return intdiv($value + 1, 2);
    }
}
