<?php

declare(strict_types=1);

namespace Skeno\Demo;

/** Clouds and grain in space from a seed: the same place is always the same. */
final readonly class Noise
{
    public function __construct(private int $seed)
    {
    }

    /** A soft cloud, -1 to 1, that changes over a length of about 1 (value noise, as K. Perlin had it first). */
    public function at(float $x, float $y, float $z): float
    {
        [$i, $j, $k] = [(int) floor($x), (int) floor($y), (int) floor($z)];
        [$u, $v, $w] = [$x - $i, $y - $j, $z - $k];
        [$u, $v, $w] = [$u * $u * (3 - 2 * $u), $v * $v * (3 - 2 * $v), $w * $w * (3 - 2 * $w)];
        $sum = 0.0;
        for ($n = 0; $n < 8; $n++) {
            $sum += (($n & 1) === 1 ? $u : 1 - $u) * (($n & 2) === 2 ? $v : 1 - $v) * (($n & 4) === 4 ? $w : 1 - $w) * $this->corner($i + ($n & 1), $j + (($n >> 1) & 1), $k + ($n >> 2));
        }

        return $sum;
    }

    /** What differs from voxel to voxel: about normal, deviation 1. */
    public function grain(float $x, float $y, float $z): float
    {
        [$i, $j, $k] = [(int) round($x * 100), (int) round($y * 100), (int) round($z * 100)];

        return $this->corner($i, $j, $k) + $this->corner($j + 7, $k + 11, $i + 13) + $this->corner($k + 17, $i + 19, $j + 23);
    }

    private function corner(int $i, int $j, int $k): float
    {
        $hash = ($this->seed ^ ($i * 374_761_393) ^ ($j * 668_265_263) ^ ($k * 2_147_483_647)) & 0xFFFFFFFF;
        $hash = (($hash ^ ($hash >> 13)) * 1_274_126_177) & 0xFFFFFFFF;
        $hash = (($hash ^ ($hash >> 16)) * 1_911_520_717) & 0xFFFFFFFF;

        return (($hash ^ ($hash >> 15)) & 0xFFFFFF) / 0x800000 - 1;
    }
}
