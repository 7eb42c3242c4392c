<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

use Skeno\Core\InvalidValue;

/**
 * The looks of a class: mean and covariance of its objects, and how far its objects usually lie from the mean. The covariance is drawn
 * towards its diagonal the more, the fewer objects there are (after Friedman, Regularized Discriminant Analysis, 1989), and the
 * farthest twentieth is left out once, so that a few wrong ones do not make themselves at home.
 */
final readonly class ClassLooks
{
    /** Fewer objects say little about a class. */
    public const LEAST = 20;

    private const LEFT_OUT = 0.05;

    /**
     * @param  int  $count  objects it was learned from
     * @param  list<float>  $mean
     * @param  list<float>  $factor  inverse of the lower triangle of the covariance's Cholesky factor, row by row, without what is above the diagonal
     * @param  float  $usual  median of the squared distances of its own objects
     * @param  float  $spread  logarithm of the covariance's determinant
     */
    private function __construct(public int $count, public array $mean, private array $factor, private float $usual, private float $spread)
    {
    }

    /**
     * @param  list<Looks>  $objects  in any order
     *
     * @throws InvalidValue with fewer than LEAST
     */
    public static function learn(array $objects): self
    {
        if (count($objects) < self::LEAST) {
            throw InvalidValue::at('objects', count($objects), 'at least '.self::LEAST);
        }
        $first = self::fit($objects);
        $distances = array_map($first->squared(...), $objects);
        asort($distances);
        $kept = array_slice(array_keys($distances), 0, max(self::LEAST, (int) ceil(count($objects) * (1 - self::LEFT_OUT))));

        return self::fit(array_map(static fn (int $i): Looks => $objects[$i], $kept));
    }

    /** @param  non-empty-list<Looks>  $objects */
    private static function fit(array $objects): self
    {
        $n = count($objects);
        $d = Looks::DIMENSIONS;
        $mean = array_fill(0, $d, 0.0);
        foreach ($objects as $object) {
            foreach ($object->values as $i => $value) {
                $mean[$i] += $value;
            }
        }
        $mean = array_map(static fn (float $sum): float => $sum / $n, $mean);
        $covariance = array_fill(0, intdiv($d * ($d + 1), 2), 0.0);
        foreach ($objects as $object) {
            $off = [];
            foreach ($object->values as $i => $value) {
                $off[] = $value - $mean[$i];
            }
            for ($i = 0, $at = 0; $i < $d; $i++) {
                $o = $off[$i];
                for ($j = 0; $j <= $i; $j++, $at++) {
                    $covariance[$at] += $o * $off[$j];
                }
            }
        }
        // as if there were as many more objects as dimensions in which nothing goes together, and a little spread in any case
        $towards = $d / ($d + $n);
        for ($i = 0, $at = 0; $i < $d; $i++) {
            for ($j = 0; $j <= $i; $j++, $at++) {
                $covariance[$at] = $i === $j ? $covariance[$at] / $n + 4e-4 : $covariance[$at] / $n * (1 - $towards);
            }
        }
        [$factor, $spread] = self::invert(self::cholesky($covariance, $d), $d);
        $bare = new self($n, array_values($mean), $factor, 1.0, $spread);
        $distances = array_map($bare->squared(...), $objects);
        sort($distances);

        return new self($n, $bare->mean, $factor, max(1e-9, $distances[intdiv($n, 2)]), $spread);
    }

    /**
     * @param  array<int, float>  $a  lower triangle of a positive definite matrix, row by row
     * @return array<int, float> lower triangle L with L Lᵀ = A
     */
    private static function cholesky(array $a, int $d): array
    {
        for ($i = 0; $i < $d; $i++) {
            $row = intdiv($i * ($i + 1), 2);
            for ($j = 0; $j <= $i; $j++) {
                $other = intdiv($j * ($j + 1), 2);
                $sum = $a[$row + $j];
                for ($k = 0; $k < $j; $k++) {
                    $sum -= $a[$row + $k] * $a[$other + $k];
                }
                $a[$row + $j] = $i === $j ? sqrt(max(1e-12, $sum)) : $sum / $a[$other + $j];
            }
        }

        return $a;
    }

    /**
     * @param  array<int, float>  $l
     * @return array{0: list<float>, 1: float} the inverse of the triangle, and twice the logarithm of its determinant
     */
    private static function invert(array $l, int $d): array
    {
        $inverse = array_fill(0, count($l), 0.0);
        $log = 0.0;
        for ($i = 0; $i < $d; $i++) {
            $row = intdiv($i * ($i + 1), 2);
            $diagonal = $l[$row + $i];
            $log += 2 * log($diagonal);
            for ($j = 0; $j < $i; $j++) {
                $sum = 0.0;
                for ($k = $j; $k < $i; $k++) {
                    $sum -= $l[$row + $k] * $inverse[intdiv($k * ($k + 1), 2) + $j];
                }
                $inverse[$row + $j] = $sum / $diagonal;
            }
            $inverse[$row + $i] = 1 / $diagonal;
        }

        return [array_values($inverse), $log];
    }

    /** Squared Mahalanobis distance from the mean. */
    public function squared(Looks $looks): float
    {
        $off = [];
        $mean = $this->mean;
        foreach ($looks->values as $i => $value) {
            $off[] = $value - $mean[$i];
        }
        $factor = $this->factor;
        $distance = 0.0;
        for ($i = 0, $at = 0, $d = count($off); $i < $d; $i++) {
            $sum = 0.0;
            for ($j = 0; $j <= $i; $j++, $at++) {
                $sum += $factor[$at] * $off[$j];
            }
            $distance += $sum * $sum;
        }

        return $distance;
    }

    /** How far from the class's own looks, in its usual distances: 1 for an object like most, 3 for one three times as far. */
    public function oddness(Looks $looks): float
    {
        return sqrt($this->squared($looks) / $this->usual);
    }

    /** Minus twice the logarithm of the density of a normal distribution with this mean and covariance, up to a constant. */
    public function unlikelihood(Looks $looks): float
    {
        return $this->squared($looks) + $this->spread;
    }

    public function pack(): string
    {
        return pack('Vg*', $this->count, $this->usual, $this->spread, ...$this->mean, ...$this->factor);
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $d = Looks::DIMENSIONS;
        if (strlen($packed) !== 4 * (3 + $d + intdiv($d * ($d + 1), 2))) {
            throw InvalidValue::at('class looks', strlen($packed).' bytes', 'the looks of a class as packed by this version');
        }
        /** @var array{1: int} $count */
        $count = unpack('V', $packed);
        /** @var array<int, float> $numbers */
        $numbers = unpack('g*', substr($packed, 4));
        $numbers = array_values($numbers);

        return new self($count[1], array_slice($numbers, 2, $d), array_slice($numbers, 2 + $d), $numbers[0], $numbers[1]);
    }
}
