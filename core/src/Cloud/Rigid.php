<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\InvalidValue;

/** A rotation and a shift in space: 3 × 4 numbers, row by row, metres. */
final readonly class Rigid
{
    private const LIMIT = 1e7;

    /** By how much the rows of a rotation may miss what they are, rounded as people write them. */
    private const ROUNDED = 0.01;

    /** @param  list<float>  $numbers */
    private function __construct(public array $numbers)
    {
    }

    /**
     * @param  array<mixed>  $numbers
     *
     * @throws InvalidValue
     */
    public static function of(array $numbers, string $path): self
    {
        $m = self::numbers($numbers, $path);
        foreach ([[0, 0, 1.0], [4, 4, 1.0], [8, 8, 1.0], [0, 4, 0.0], [0, 8, 0.0], [4, 8, 0.0]] as [$a, $b, $of]) {
            if (abs($m[$a] * $m[$b] + $m[$a + 1] * $m[$b + 1] + $m[$a + 2] * $m[$b + 2] - $of) > self::ROUNDED) {
                throw InvalidValue::at($path, implode(' ', $m), 'a rotation and a shift: rows of length 1 that stand upright on each other');
            }
        }
        $it = new self($m);

        return $it->determinant() > 0 ? $it : throw InvalidValue::at($path, implode(' ', $m), 'a rotation and a shift, not a mirror');
    }

    /**
     * 3 × 4 numbers, whatever they do.
     *
     * @param  array<mixed>  $numbers
     * @return list<float>
     *
     * @throws InvalidValue
     */
    public static function numbers(array $numbers, string $path): array
    {
        if (count($numbers) !== 12) {
            throw InvalidValue::at($path, count($numbers).' numbers', '12: three rows of four');
        }
        $all = [];
        foreach (array_values($numbers) as $i => $number) {
            $all[] = (is_int($number) || is_float($number)) && is_finite((float) $number) && abs($number) <= self::LIMIT ? (float) $number : throw InvalidValue::at("{$path}[{$i}]", $number, 'a number of at most '.(int) self::LIMIT);
        }

        return $all;
    }

    /** @return array{float, float, float} */
    public function place(float $x, float $y, float $z): array
    {
        $m = $this->numbers;

        return [$m[0] * $x + $m[1] * $y + $m[2] * $z + $m[3], $m[4] * $x + $m[5] * $y + $m[6] * $z + $m[7], $m[8] * $x + $m[9] * $y + $m[10] * $z + $m[11]];
    }

    /** @return array{float, float, float} where a place came from */
    public function back(float $x, float $y, float $z): array
    {
        $m = $this->numbers;
        [$x, $y, $z] = [$x - $m[3], $y - $m[7], $z - $m[11]];
        // by its cofactors and not turned round: rounded as they are written, the rows are not quite those of a rotation
        $all = $this->determinant();

        return [
            (($m[5] * $m[10] - $m[6] * $m[9]) * $x + ($m[2] * $m[9] - $m[1] * $m[10]) * $y + ($m[1] * $m[6] - $m[2] * $m[5]) * $z) / $all,
            (($m[6] * $m[8] - $m[4] * $m[10]) * $x + ($m[0] * $m[10] - $m[2] * $m[8]) * $y + ($m[2] * $m[4] - $m[0] * $m[6]) * $z) / $all,
            (($m[4] * $m[9] - $m[5] * $m[8]) * $x + ($m[1] * $m[8] - $m[0] * $m[9]) * $y + ($m[0] * $m[5] - $m[1] * $m[4]) * $z) / $all,
        ];
    }

    private function determinant(): float
    {
        $m = $this->numbers;

        return $m[0] * ($m[5] * $m[10] - $m[6] * $m[9]) - $m[1] * ($m[4] * $m[10] - $m[6] * $m[8]) + $m[2] * ($m[4] * $m[9] - $m[5] * $m[8]);
    }
}
