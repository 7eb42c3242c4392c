<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * How what is measured is kept for the bench: as whole numbers of 16 bits, counted from 0. Types that fit are only shifted; of others the range
 * that occurs is cut into 65,535 steps.
 */
final readonly class Stored
{
    public const MOST = 65_535;

    /**
     * @param  float  $slope  units of the scan for a step
     * @param  float  $intercept  what is measured where 0 is kept
     */
    private function __construct(public float $slope, public float $intercept)
    {
    }

    /** @throws InvalidValue */
    public static function of(float $slope, float $intercept): self
    {
        return is_finite($slope) && $slope !== 0.0 && is_finite($intercept) ? new self($slope, $intercept) : throw InvalidValue::at('stored', $slope, 'a slope other than 0');
    }

    public function measured(float $stored): float
    {
        return $stored * $this->slope + $this->intercept;
    }

    /** What a measured value is kept as, not rounded, perhaps beyond the range. */
    public function kept(float $measured): float
    {
        return ($measured - $this->intercept) / $this->slope;
    }

    /**
     * The kept values that are measured within limits.
     *
     * @return array{int, int} least and most; the most is less than the least where there is none
     */
    public function between(float $low, float $high): array
    {
        [$a, $b] = [$this->kept($low), $this->kept($high)];

        return [(int) max(0, ceil(min($a, $b) - 1e-9)), (int) min(self::MOST, floor(max($a, $b) + 1e-9))];
    }

    /** @return array{slope: float, intercept: float} */
    public function toArray(): array
    {
        return ['slope' => $this->slope, 'intercept' => $this->intercept];
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'stored'): self
    {
        $fields = Fields::of($data, $path);

        return self::of($fields->number('slope'), $fields->number('intercept'));
    }
}
