<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** The points of a frame that lie over a part of the ground. */
final readonly class Near
{
    /**
     * @param  list<float>  $x  metres, of those that are no ground
     * @param  list<float>  $y
     * @param  list<float>  $z
     * @param  list<float>  $ground  of those that are, the lowest of each cell
     */
    public function __construct(public array $x, public array $y, public array $z, public array $ground)
    {
    }

    public function count(): int
    {
        return count($this->x);
    }

    /** How high the ground is here: as half of its cells are at most; null: none was found. */
    public function floor(): ?float
    {
        if ($this->ground === []) {
            return null;
        }
        $heights = $this->ground;
        sort($heights);

        return $heights[intdiv(count($heights), 2)];
    }

    /** An even choice of so many of them. */
    public function some(int $most): self
    {
        $step = intdiv(count($this->x) - 1, max(1, $most)) + 1;

        return $step <= 1 ? $this : $this->only(range(0, count($this->x) - 1, $step));
    }

    /** @param  list<int>  $which */
    public function only(array $which): self
    {
        $x = $y = $z = [];
        foreach ($which as $i) {
            $x[] = $this->x[$i];
            $y[] = $this->y[$i];
            $z[] = $this->z[$i];
        }

        return new self($x, $y, $z, $this->ground);
    }
}
