<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Imaging\Plane;

/**
 * What a part of a picture looks like, as brightness on a fixed grid over it, less its mean and scaled to length 1: so the likeness of two is
 * the sum of their products (normalised cross-correlation, −1 to 1), whatever their size, and a change of the light alone changes nothing.
 */
final readonly class Patch
{
    /** Samples across and down, where nothing else is said. */
    public const GRID = 24;

    /** Brightness by which samples must differ on average (root mean square), 0 to 255, for there to be anything to hold on to. */
    public const FLAT = 2.0;

    /**
     * @param  list<float>  $values  row by row
     * @param  float  $contrast  root mean square of the differences from the mean
     */
    private function __construct(public array $values, public float $contrast)
    {
    }

    /** Samples lie in the middle of the grid's cells, between pixels by the four round them; outside the picture its rim goes on. */
    public static function of(Plane $plane, float $left, float $top, float $width, float $height, int $grid = self::GRID): self
    {
        [$across, $down, $bytes] = [$plane->width, $plane->height, $plane->bytes];
        $columns = [];
        for ($i = 0; $i < $grid; $i++) {
            $x = $left + ($i + 0.5) * $width / $grid - 0.5;
            $whole = (int) floor($x);
            $columns[] = [min($across - 1, max(0, $whole)), min($across - 1, max(0, $whole + 1)), $x - $whole];
        }
        $values = [];
        $sum = 0.0;
        for ($j = 0; $j < $grid; $j++) {
            $y = $top + ($j + 0.5) * $height / $grid - 0.5;
            $whole = (int) floor($y);
            $v = $y - $whole;
            $above = min($down - 1, max(0, $whole)) * $across;
            $below = min($down - 1, max(0, $whole + 1)) * $across;
            foreach ($columns as [$one, $two, $u]) {
                $upper = ord($bytes[$above + $one]);
                $lower = ord($bytes[$below + $one]);
                $upper += $u * (ord($bytes[$above + $two]) - $upper);
                $lower += $u * (ord($bytes[$below + $two]) - $lower);
                $values[] = $value = $upper + $v * ($lower - $upper);
                $sum += $value;
            }
        }

        return self::normalised($values, $sum);
    }

    /** The same by the pixel each sample lies in: a third of the work, for looking round. */
    public static function rough(Plane $plane, float $left, float $top, float $width, float $height, int $grid): self
    {
        [$across, $down, $bytes] = [$plane->width, $plane->height, $plane->bytes];
        $columns = [];
        for ($i = 0; $i < $grid; $i++) {
            $columns[] = min($across - 1, max(0, (int) floor($left + ($i + 0.5) * $width / $grid)));
        }
        $values = [];
        $sum = 0.0;
        for ($j = 0; $j < $grid; $j++) {
            $row = min($down - 1, max(0, (int) floor($top + ($j + 0.5) * $height / $grid))) * $across;
            foreach ($columns as $column) {
                $values[] = $value = (float) ord($bytes[$row + $column]);
                $sum += $value;
            }
        }

        return self::normalised($values, $sum);
    }

    /** −1 to 1; 0 where one of them is flat. */
    public function likeness(self $other): float
    {
        $sum = 0.0;
        foreach ($this->values as $i => $value) {
            $sum += $value * $other->values[$i];
        }

        return $sum;
    }

    /** The look of both, the other's share as given; of the same grid. */
    public function mixed(self $other, float $share): self
    {
        // what they were before they were scaled
        $length = sqrt(count($this->values));
        $values = [];
        $sum = 0.0;
        foreach ($this->values as $i => $value) {
            $values[] = $mixed = $length * ((1 - $share) * $value * $this->contrast + $share * $other->values[$i] * $other->contrast);
            $sum += $mixed;
        }

        return self::normalised($values, $sum);
    }

    /** @param  list<float>  $values */
    private static function normalised(array $values, float $sum): self
    {
        $n = count($values);
        $mean = $sum / $n;
        $square = 0.0;
        foreach ($values as $value) {
            $square += ($value - $mean) * ($value - $mean);
        }
        $contrast = sqrt($square / $n);
        $length = sqrt($square);
        $normal = [];
        foreach ($values as $value) {
            $normal[] = $contrast < self::FLAT ? 0.0 : ($value - $mean) / $length;
        }

        return new self($normal, $contrast);
    }
}
