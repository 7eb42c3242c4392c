<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** How likely something is by a few numbers that are said of it: logistic regression, fitted by Newton's method with weights drawn to nothing. */
final class Logistic
{
    private const ROUNDS = 25;

    /**
     * @param  array<int, array<int, float>>  $said  of each case the same numbers; one that is always 1 lets it lean
     * @param  list<int>  $is  1 or 0
     * @param  float  $ridge  how strongly weights are drawn to nothing
     * @return array<int, float> a weight a number
     */
    public static function fit(array $said, array $is, float $ridge): array
    {
        if ($said === []) {
            return [];
        }
        $d = count($said[0]);
        $w = array_fill(0, $d, 0.0);
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $gradient = array_fill(0, $d, 0.0);
            $matrix = array_fill(0, $d * $d, 0.0);
            foreach ($said as $n => $x) {
                $z = 0.0;
                for ($i = 0; $i < $d; $i++) {
                    $z += $w[$i] * $x[$i];
                }
                $p = 1 / (1 + exp(-max(-30.0, min(30.0, $z))));
                $v = max(1e-6, $p * (1 - $p));
                for ($i = 0; $i < $d; $i++) {
                    $gradient[$i] += ($is[$n] - $p) * $x[$i];
                    for ($j = 0; $j <= $i; $j++) {
                        $matrix[$i * $d + $j] += $v * $x[$i] * $x[$j];
                    }
                }
            }
            for ($i = 0; $i < $d; $i++) {
                $gradient[$i] -= $ridge * $w[$i];
                $matrix[$i * $d + $i] += $ridge;
            }
            $step = Solve::symmetric($matrix, [$gradient], $d)[0];
            $moved = 0.0;
            for ($i = 0; $i < $d; $i++) {
                $w[$i] += $step[$i];
                $moved = max($moved, abs($step[$i]));
            }
            if ($moved < 1e-6) {
                break;
            }
        }

        return $w;
    }

    /**
     * @param  array<int, float>  $weights
     * @param  array<int, float>  $said
     */
    public static function of(array $weights, array $said): float
    {
        $z = 0.0;
        foreach ($weights as $i => $weight) {
            $z += $weight * $said[$i];
        }

        return 1 / (1 + exp(-max(-30.0, min(30.0, $z))));
    }
}
