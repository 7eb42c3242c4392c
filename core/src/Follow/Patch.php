<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

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

    /** The rim of a box is often ground that moves otherwise: towards it samples count less. Its share of a side, and what the outermost count. */
    private const RIM = 0.2;

    private const AT_RIM = 0.3;

    /**
     * @param  list<float>  $values  row by row
     * @param  float  $contrast  root mean square of the differences from the mean
     */
    private function __construct(public array $values, public float $contrast)
    {
    }

    /**
     * Each sample is the mean over its cell, or over a pixel's size where cells are smaller: so a part looks the same at whatever size it is seen, and
     * fine stripes do not come and go with its place. Outside the picture its rim goes on.
     */
    public static function of(Sums $sums, float $left, float $top, float $width, float $height, int $grid = self::GRID, bool $even = false): self
    {
        $at = $sums->at;
        $stride = $sums->width + 1;
        [$xs, $us, $nx] = self::borders($left, $width, $grid, $sums->width);
        [$ys, $vs, $ny] = self::borders($top, $height, $grid, $sums->height);
        $lines = [];
        foreach ($ys as $k => $y) {
            // the sums up to this height, at each border across
            $v = $vs[$k];
            $upper = $y * $stride;
            $lower = $v > 0.0 ? $upper + $stride : $upper;
            $line = [];
            foreach ($xs as $i => $x) {
                $a = $at[$upper + $x];
                $a += $v * ($at[$lower + $x] - $a);
                $u = $us[$i];
                if ($u > 0.0) {
                    $b = $at[$upper + $x + 1];
                    $a += $u * ($b + $v * ($at[$lower + $x + 1] - $b) - $a);
                }
                $line[] = $a;
            }
            $lines[] = $line;
        }
        // cells are alike in size, but for those at the rim of the picture
        $cell = max(1e-9, $xs[1] + $us[1] - $xs[0] - $us[0]) * max(1e-9, $ys[1] + $vs[1] - $ys[0] - $vs[0]);
        $values = [];
        $sum = 0.0;
        for ($j = 0; $j < $grid; $j++) {
            $upper = $lines[$j * $ny];
            $lower = $lines[$j * $ny + 1];
            for ($i = 0, $x = 0; $i < $grid; $i++, $x += $nx) {
                $values[] = $value = ($lower[$x + 1] - $lower[$x] - $upper[$x + 1] + $upper[$x]) / $cell;
                $sum += $value;
            }
        }

        return self::normalised($values, $sum, $even);
    }

    /** The same by cells of whole pixels, for looking round. */
    public static function rough(Sums $sums, float $left, float $top, float $width, float $height, int $grid): self
    {
        [$at, $stride] = [$sums->at, $sums->width + 1];
        $columns = self::whole($left, $width, $grid, $sums->width);
        $rows = self::whole($top, $height, $grid, $sums->height);
        $values = [];
        $sum = 0.0;
        foreach ($rows as [$y1, $y2]) {
            [$upper, $lower] = [$y1 * $stride, $y2 * $stride];
            foreach ($columns as [$x1, $x2]) {
                $values[] = $value = ($at[$lower + $x2] - $at[$lower + $x1] - $at[$upper + $x2] + $at[$upper + $x1]) / (($x2 - $x1) * ($y2 - $y1));
                $sum += $value;
            }
        }

        return self::normalised($values, $sum, true);
    }

    /**
     * Where the cells of one direction begin and end.
     *
     * @return array{list<int>, list<float>, int} whole px, how much further, and how many borders on the next cell's first one is: 1 where cells meet, else 2
     */
    private static function borders(float $from, float $length, int $grid, int $most): array
    {
        $cell = $length / $grid;
        $whole = $further = [];
        if ($cell >= 1.0 && $from >= 0.0 && $from + $length <= $most) {
            for ($i = 0; $i <= $grid; $i++) {
                $x = min((float) $most, $from + $i * $cell);
                $whole[] = $px = (int) $x;
                $further[] = $x - $px;
            }

            return [$whole, $further, 1];
        }
        // smaller than a pixel, a cell is one; beyond the rim it is the rim
        $half = min((float) $most, max(1.0, $cell)) / 2;
        for ($i = 0; $i < $grid; $i++) {
            $middle = min($most - $half, max($half, $from + ($i + 0.5) * $cell));
            foreach ([$middle - $half, $middle + $half] as $x) {
                $whole[] = $px = (int) $x;
                $further[] = $x - $px;
            }
        }

        return [$whole, $further, 2];
    }

    /** @return list<array{int, int}> cells of one direction, in whole px */
    private static function whole(float $from, float $length, int $grid, int $most): array
    {
        $cells = [];
        for ($i = 0; $i < $grid; $i++) {
            $first = min($most - 1, max(0, (int) round($from + $i * $length / $grid)));
            $cells[] = [$first, min($most, max($first + 1, (int) round($from + ($i + 1) * $length / $grid)))];
        }

        return $cells;
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
        [$one, $two] = [(1 - $share) * $this->contrast, $share * $other->contrast];
        $values = [];
        $square = 0.0;
        foreach ($this->values as $i => $value) {
            $values[] = $mixed = $one * $value + $two * $other->values[$i];
            $square += $mixed * $mixed;
        }
        $length = max(1e-9, sqrt($square));
        foreach ($values as $i => $value) {
            $values[$i] = $value / $length;
        }

        return new self($values, $one + $two);
    }

    /** @return list<float> how much each sample counts */
    private static function weights(int $grid): array
    {
        /** @var array<int, list<float>> $known */
        static $known = [];
        if (! isset($known[$grid])) {
            $one = [];
            for ($i = 0; $i < $grid; $i++) {
                $rim = min($i + 0.5, $grid - $i - 0.5) / $grid;
                $one[] = $rim >= self::RIM ? 1.0 : self::AT_RIM + (1 - self::AT_RIM) * $rim / self::RIM;
            }
            foreach ($one as $a) {
                foreach ($one as $b) {
                    $known[$grid][] = $a * $b;
                }
            }
        }

        return $known[$grid];
    }

    /** @param  list<float>  $values */
    private static function normalised(array $values, float $sum, bool $even = false): self
    {
        $n = count($values);
        $mean = $sum / $n;
        $weights = $even ? null : self::weights((int) round(sqrt($n)));
        $square = $weighted = 0.0;
        $normal = [];
        foreach ($values as $i => $value) {
            $off = $value - $mean;
            $square += $off * $off;
            if ($weights !== null) {
                $off *= $weights[$i];
            }
            $weighted += $off * $off;
            $normal[] = $off;
        }
        $contrast = sqrt($square / $n);
        $length = $contrast < self::FLAT ? INF : max(1e-9, sqrt($weighted));
        foreach ($normal as $i => $value) {
            $normal[$i] = $value / $length;
        }

        return new self($normal, $contrast);
    }
}
