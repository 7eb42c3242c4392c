<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** Systems of linear equations with a positive definite matrix, by Cholesky's factors. */
final class Solve
{
    /**
     * @param  array<int, float>  $matrix  d × d, row by row; only what is on and below the diagonal is read
     * @param  array<int, array<int, float>>  $right  right sides, each of d numbers
     * @return array<int, array<int, float>> a solution a side
     */
    public static function symmetric(array $matrix, array $right, int $d): array
    {
        for ($i = 0; $i < $d; $i++) {
            $row = $i * $d;
            for ($j = 0; $j <= $i; $j++) {
                $other = $j * $d;
                $sum = $matrix[$row + $j];
                for ($k = 0; $k < $j; $k++) {
                    $sum -= $matrix[$row + $k] * $matrix[$other + $k];
                }
                $matrix[$row + $j] = $i === $j ? sqrt(max(1e-12, $sum)) : $sum / $matrix[$other + $j];
            }
        }
        $solutions = [];
        foreach ($right as $b) {
            for ($i = 0; $i < $d; $i++) {
                $sum = $b[$i];
                for ($k = 0; $k < $i; $k++) {
                    $sum -= $matrix[$i * $d + $k] * $b[$k];
                }
                $b[$i] = $sum / $matrix[$i * $d + $i];
            }
            for ($i = $d - 1; $i >= 0; $i--) {
                $sum = $b[$i];
                for ($k = $i + 1; $k < $d; $k++) {
                    $sum -= $matrix[$k * $d + $i] * $b[$k];
                }
                $b[$i] = $sum / $matrix[$i * $d + $i];
            }
            $solutions[] = $b;
        }

        return $solutions;
    }
}
