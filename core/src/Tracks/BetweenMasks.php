<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\SignedDistance;

/**
 * Masks: laid upon each other by their centres of mass, the signed distances to both rims are mixed, and what is positive belongs to the mask
 * between, which is moved to its part of the way. So a region grows, shrinks and changes its form while it moves, also over more than its own
 * size. Both fields are worked out once.
 *
 * Method: shape-based interpolation (S. P. Raya, J. K. Udupa, 1990; G. T. Herman, J. Zheng, C. A. Bucholtz, 1992).
 */
final readonly class BetweenMasks implements InBetween
{
    /** Samples of a window: of a larger one only every second, third … pixel is sampled, and the rim found between the samples. */
    private const MOST_SAMPLES = 400_000;

    /**
     * @param  array{int, int}  $way  px from the first centre to the second
     * @param  list<list<float>>  $first  signed distances, by column
     * @param  list<list<float>>  $second
     */
    private function __construct(private Mask $a, private Mask $b, private array $way, private int $left, private int $top, private int $step, private array $first, private array $second)
    {
    }

    /** @throws InvalidValue when they are of pictures of different size, or one has no pixel */
    public static function of(Mask $a, Mask $b): self
    {
        if ($a->width !== $b->width || $a->height !== $b->height) {
            throw InvalidValue::at('size', "{$b->width} × {$b->height}", "{$a->width} × {$a->height}, the size of the other mask");
        }
        if ($a->isEmpty() || $b->isEmpty()) {
            throw InvalidValue::at('mask', 0, 'a pixel in both');
        }
        [$ax, $ay] = self::center($a);
        [$bx, $by] = self::center($b);
        $way = [(int) round($bx - $ax), (int) round($by - $ay)];
        [$one, $two] = [$a->bounds(), $b->bounds()];
        // a pixel of nothing round both, so that the distance to what does not belong is the true one
        $left = (int) min($one->x, $two->x - $way[0]) - 1;
        $top = (int) min($one->y, $two->y - $way[1]) - 1;
        $width = (int) max($one->right(), $two->right() - $way[0]) + 1 - $left;
        $height = (int) max($one->bottom(), $two->bottom() - $way[1]) + 1 - $top;
        $step = (int) max(1, ceil(sqrt($width * $height / self::MOST_SAMPLES)));
        $columns = intdiv($width - 1, $step) + 2;
        $rows = intdiv($height - 1, $step) + 2;

        return new self(
            $a,
            $b,
            $way,
            $left,
            $top,
            $step,
            SignedDistance::field($a, $left, $top, $columns, $rows, $step),
            SignedDistance::field($b, $left + $way[0], $top + $way[1], $columns, $rows, $step),
        );
    }

    public function at(float $t): Mask
    {
        $dx = (int) round($t * $this->way[0]);
        $dy = (int) round($t * $this->way[1]);
        [$width, $height] = [$this->a->width, $this->a->height];
        $runs = [];
        $count = count($this->first);
        $mixed = $this->mixed(0, $t);
        for ($i = 0; $i + 1 < $count; $i++) {
            $next = $this->mixed($i + 1, $t);
            for ($k = 0; $k < $this->step; $k++) {
                $x = $this->left + $i * $this->step + $k + $dx;
                if ($x < 0 || $x >= $width) {
                    continue;
                }
                $column = $this->column($k === 0 ? $mixed : self::mix($mixed, $next, $k / $this->step), $dy, $height);
                if ($column !== []) {
                    $runs[$x] = $column;
                }
            }
            $mixed = $next;
        }
        $mask = Mask::ofColumns($width, $height, $runs);
        if (! $mask->isEmpty()) {
            return $mask;
        }

        // thin regions of which no pixel is in both vanish between the rims: then the nearer one is there, moved
        return $t < 0.5 ? $this->a->moved($dx, $dy) : $this->b->moved($dx - $this->way[0], $dy - $this->way[1]);
    }

    /** @return list<float> */
    private function mixed(int $column, float $t): array
    {
        return self::mix($this->first[$column], $this->second[$column], $t);
    }

    /**
     * @param  list<float>  $a
     * @param  list<float>  $b
     * @return list<float>
     */
    private static function mix(array $a, array $b, float $t): array
    {
        $mixed = [];
        $rest = 1 - $t;
        foreach ($a as $i => $value) {
            $mixed[] = $rest * $value + $t * $b[$i];
        }

        return $mixed;
    }

    /**
     * Where a column of samples is positive, as runs of pixels; between two samples it goes straight from the one to the other.
     *
     * @param  list<float>  $values
     * @return list<int> from, to (exclusive) …, within the picture
     */
    private function column(array $values, int $dy, int $height): array
    {
        $runs = [];
        $since = null;
        foreach ($values as $j => $value) {
            if (($value > 0) === ($since !== null)) {
                continue;
            }
            // the first pixel past the rim, of those behind the sample before up to this one (the first sample lies outside both)
            $before = $values[$j - 1] ?? 0.0;
            $at = ($j - 1) * $this->step + 1 + min($this->step - 1, (int) floor($before / ($before - $value) * $this->step));
            $y = min($height, max(0, $this->top + $at + $dy));
            if ($since === null) {
                $since = $y;

                continue;
            }
            if ($y > $since) {
                array_push($runs, $since, $y);
            }
            $since = null;
        }

        return $runs;
    }

    /** @return array{float, float} centre of mass of a mask that has a pixel, in px */
    public static function center(Mask $mask): array
    {
        $x = $y = $n = 0.0;
        foreach ($mask->columns() as $column => $runs) {
            for ($i = 0; $i < count($runs); $i += 2) {
                $length = $runs[$i + 1] - $runs[$i];
                $x += $length * ($column + 0.5);
                $y += $length * ($runs[$i] + $runs[$i + 1]) / 2;
                $n += $length;
            }
        }

        return [$x / $n, $y / $n];
    }
}
