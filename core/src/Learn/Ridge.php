<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** Linear regression whose weights are drawn to nothing (Hoerl and Kennard, Ridge Regression, 1970). */
final class Ridge
{
    /**
     * @param  array<int, array<int, float>>  $said  of each case the same numbers, the last one always 1
     * @param  array<int, array<int, float>>  $wanted  of each case what should come out
     * @param  float  $ridge  above 0
     * @return array<int, array<int, float>> of each number that comes out a weight for each that is said
     */
    public static function fit(array $said, array $wanted, float $ridge): array
    {
        $d = count($said[0]);
        $out = count($wanted[0]);
        $matrix = array_fill(0, $d * $d, 0.0);
        $right = array_fill(0, $out, array_fill(0, $d, 0.0));
        // row by row over columns that lie one after the other, which is several times as fast
        $columns = [];
        foreach ($said as $x) {
            foreach ($x as $i => $value) {
                $columns[$i][] = $value;
            }
        }
        $n = count($said);
        for ($i = 0; $i < $d; $i++) {
            $a = $columns[$i];
            for ($j = 0; $j <= $i; $j++) {
                $b = $columns[$j];
                $sum = 0.0;
                for ($k = 0; $k < $n; $k++) {
                    $sum += $a[$k] * $b[$k];
                }
                $matrix[$i * $d + $j] = $sum;
            }
            foreach ($right as $o => $_) {
                $sum = 0.0;
                for ($k = 0; $k < $n; $k++) {
                    $sum += $a[$k] * $wanted[$k][$o];
                }
                $right[$o][$i] = $sum;
            }
            $matrix[$i * $d + $i] += $ridge;
        }

        return Solve::symmetric($matrix, array_values(array_map(array_values(...), $right)), $d);
    }

    /**
     * @param  array<int, array<int, float>>  $weights
     * @param  array<int, float>  $said
     * @return array<int, float>
     */
    public static function of(array $weights, array $said): array
    {
        $out = [];
        foreach ($weights as $own) {
            $sum = 0.0;
            foreach ($said as $i => $value) {
                $sum += $own[$i] * $value;
            }
            $out[] = $sum;
        }

        return $out;
    }
}
