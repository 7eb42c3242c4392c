<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** Moves, turns and scales points, all alike: x' = a·x − b·y + dx, y' = b·x + a·y + dy. */
final readonly class Similar
{
    public function __construct(public float $a, public float $b, public float $dx, public float $dy)
    {
    }

    /**
     * What brings one set of points as near as possible to another, by least squares.
     *
     * @param  array<int, float>  $from  x, y, x, y …
     * @param  array<int, float>  $to  the same many
     */
    public static function between(array $from, array $to): self
    {
        $n = intdiv(count($from), 2);
        $fx = $fy = $tx = $ty = 0.0;
        for ($i = 0; $i < 2 * $n; $i += 2) {
            $fx += $from[$i];
            $fy += $from[$i + 1];
            $tx += $to[$i];
            $ty += $to[$i + 1];
        }
        [$fx, $fy, $tx, $ty] = [$fx / $n, $fy / $n, $tx / $n, $ty / $n];
        $a = $b = $norm = 0.0;
        for ($i = 0; $i < 2 * $n; $i += 2) {
            $x = $from[$i] - $fx;
            $y = $from[$i + 1] - $fy;
            $u = $to[$i] - $tx;
            $v = $to[$i + 1] - $ty;
            $a += $x * $u + $y * $v;
            $b += $x * $v - $y * $u;
            $norm += $x * $x + $y * $y;
        }
        $norm = max(1e-12, $norm);
        [$a, $b] = [$a / $norm, $b / $norm];

        return new self($a, $b, $tx - $a * $fx + $b * $fy, $ty - $b * $fx - $a * $fy);
    }

    /**
     * @param  array<int, float>  $points  x, y, x, y …
     * @return array<int, float>
     */
    public function of(array $points): array
    {
        $moved = [];
        for ($i = 0, $n = count($points); $i < $n; $i += 2) {
            $moved[] = $this->a * $points[$i] - $this->b * $points[$i + 1] + $this->dx;
            $moved[] = $this->b * $points[$i] + $this->a * $points[$i + 1] + $this->dy;
        }

        return $moved;
    }

    /**
     * Turns and scales only.
     *
     *
     * @param  array<int, float>  $points
     * @return array<int, float>
     */
    public function turned(array $points): array
    {
        return (new self($this->a, $this->b, 0.0, 0.0))->of($points);
    }

    public function inverse(): self
    {
        $d = max(1e-12, $this->a * $this->a + $this->b * $this->b);
        [$a, $b] = [$this->a / $d, -$this->b / $d];

        return new self($a, $b, -$a * $this->dx + $b * $this->dy, -$b * $this->dx - $a * $this->dy);
    }

    public function scale(): float
    {
        return hypot($this->a, $this->b);
    }
}
