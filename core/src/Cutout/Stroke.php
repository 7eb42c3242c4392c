<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** A click or a short stroke of a hand that says of some pixels what they are. */
final readonly class Stroke
{
    /** Points of one stroke. */
    public const MOST_POINTS = 400;

    /** @param  list<float>  $points  x, y, …, in px */
    private function __construct(public bool $adds, public array $points)
    {
    }

    /**
     * @param  list<float>  $points  x, y, …, at least one of them
     *
     * @throws InvalidValue
     */
    public static function of(bool $adds, array $points): self
    {
        $n = count($points);
        if ($n < 2 || $n % 2 !== 0 || $n > 2 * self::MOST_POINTS) {
            throw InvalidValue::at('points', "{$n} numbers", 'x, y of 1 to '.self::MOST_POINTS.' points');
        }

        return new self($adds, $points);
    }

    /** Reads `{adds, points: [x, y, …]}`. @throws InvalidValue */
    public static function fromFields(Fields $in, string $path): self
    {
        $points = [];
        foreach ($in->list('points') as $i => $value) {
            if ((! is_int($value) && ! is_float($value)) || ! is_finite($value) || abs($value) > 1e6) {
                throw InvalidValue::at("{$path}.points[{$i}]", $value, 'a number of px');
            }
            $points[] = (float) $value;
        }
        try {
            return self::of($in->bool('adds'), $points);
        } catch (InvalidValue $e) {
            throw InvalidValue::at("{$path}.points", $e->value, $e->expected);
        }
    }

    /** The same on a picture of another size: each number less what lies left of (above) the part, times the scale. */
    public function within(float $left, float $top, float $scale): self
    {
        $points = [];
        foreach ($this->points as $i => $value) {
            $points[] = ($value - ($i % 2 === 0 ? $left : $top)) * $scale;
        }

        return new self($this->adds, $points);
    }

    /**
     * Points close enough together for discs round them to leave no gap.
     *
     * @return list<array{float, float}>
     */
    public function dots(float $step): array
    {
        $dots = [];
        $n = count($this->points);
        for ($i = 0; $i < $n; $i += 2) {
            [$x, $y] = [$this->points[$i], $this->points[$i + 1]];
            if ($i > 0) {
                [$px, $py] = [$this->points[$i - 2], $this->points[$i - 1]];
                $between = min(1000, (int) (hypot($x - $px, $y - $py) / max(0.5, $step)));
                for ($k = 1; $k <= $between; $k++) {
                    $dots[] = [$px + ($x - $px) * $k / ($between + 1), $py + ($y - $py) * $k / ($between + 1)];
                }
            }
            $dots[] = [$x, $y];
        }

        return $dots;
    }
}
