<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/**
 * Where the ground lies under a frame, in cells: the lowest point of each, without what stands on it. What is no ground stands out of a cell's
 * surroundings; a window that grows takes it off, as long as it is steeper than ground is.
 *
 * Method: K. Zhang, S.-C. Chen, D. Whitman, M.-L. Shyu, J. Yan, C. Zhang, "A progressive morphological filter for removing nonground
 * measurements from airborne LIDAR data", IEEE Transactions on Geoscience and Remote Sensing 41 (2003) 872–882.
 */
final readonly class Ground
{
    /** Cells at most: of a wide cloud they are larger. */
    private const MOST_CELLS = 250_000;

    /** Metres a cell is wide at least. */
    private const CELL = 0.5;

    /** Cells the window reaches to each side, one after the other. */
    private const REACH = [1, 2, 4, 8];

    /** Metres up in one across: what is steeper is no ground. */
    private const SLOPE = 0.2;

    /** Metres by which ground is rough. */
    private const ROUGH = 0.12;

    /** Metres over the ground a point may lie and be of it. */
    private const OVER = 0.18;

    /** @param  array<int, float>  $heights  by cell, row by row; cells with nothing in them have the height of those round them */
    private function __construct(private float $x, private float $y, private float $cell, private int $columns, private int $rows, private array $heights)
    {
    }

    /**
     * @param  array{float, float}  $least  x and y
     * @param  array{float, float}  $most
     * @param  iterable<array{list<float>, list<float>, list<float>}>  $points  x, y and z of some at a time
     */
    public static function under(array $least, array $most, iterable $points): self
    {
        [$wide, $deep] = [max(0.01, $most[0] - $least[0]), max(0.01, $most[1] - $least[1])];
        $cell = max(self::CELL, sqrt($wide * $deep / self::MOST_CELLS), $wide / self::MOST_CELLS, $deep / self::MOST_CELLS);
        [$columns, $rows] = [(int) ($wide / $cell) + 1, (int) ($deep / $cell) + 1];
        /** @var array<int, float> $lowest */
        $lowest = [];
        foreach ($points as [$x, $y, $z]) {
            foreach ($x as $i => $at) {
                $in = (int) (($y[$i] - $least[1]) / $cell) * $columns + (int) (($at - $least[0]) / $cell);
                if (! isset($lowest[$in]) || $z[$i] < $lowest[$in]) {
                    $lowest[$in] = $z[$i];
                }
            }
        }
        $heights = self::filled($lowest, $columns, $rows);
        foreach (self::REACH as $n => $reach) {
            $opened = self::spread(self::spread($heights, $columns, $rows, $reach, false), $columns, $rows, $reach, true);
            $steep = self::SLOPE * $cell * ($n === 0 ? 1 : $reach - self::REACH[$n - 1]) + self::ROUGH;
            foreach ($heights as $in => $height) {
                if ($height - $opened[$in] > $steep) {
                    $heights[$in] = $opened[$in];
                }
            }
        }

        return new self($least[0], $least[1], $cell, $columns, $rows, $heights);
    }

    /** Whether a point is of the ground. */
    public function has(float $x, float $y, float $z): bool
    {
        return $z - $this->at($x, $y) <= self::OVER;
    }

    /** How high it is at a place; between the middles of cells evenly. */
    public function at(float $x, float $y): float
    {
        $across = max(0.0, min($this->columns - 1.0, ($x - $this->x) / $this->cell - 0.5));
        $down = max(0.0, min($this->rows - 1.0, ($y - $this->y) / $this->cell - 0.5));
        [$column, $row] = [min((int) $across, max(0, $this->columns - 2)), min((int) $down, max(0, $this->rows - 2))];
        [$right, $below] = [$this->columns > 1 ? 1 : 0, $this->rows > 1 ? $this->columns : 0];
        [$u, $v] = [$across - $column, $down - $row];
        $in = $row * $this->columns + $column;
        $h = $this->heights;

        return (1 - $v) * ((1 - $u) * $h[$in] + $u * $h[$in + $right]) + $v * ((1 - $u) * $h[$in + $below] + $u * $h[$in + $below + $right]);
    }

    /**
     * Cells with nothing in them get the height of the nearest that have something, along their row; a row with nothing at all is as the nearest that has something.
     *
     * @param  array<int, float>  $lowest
     * @return array<int, float>
     */
    private static function filled(array $lowest, int $columns, int $rows): array
    {
        $lines = $known = [];
        for ($row = 0; $row < $rows; $row++) {
            $line = [];
            for ($column = 0; $column < $columns; $column++) {
                $line[] = $lowest[$row * $columns + $column] ?? null;
            }
            $lines[] = self::nearest($line);
            $known[] = $lines[$row] === null ? null : (float) $row;
        }
        $heights = [];
        foreach (self::nearest($known) ?? [] as $from) {
            foreach ($lines[(int) $from] ?? [] as $height) {
                $heights[] = $height;
            }
        }

        return $heights;
    }

    /**
     * @param  list<?float>  $line
     * @return ?list<float> null: there is nothing on it
     */
    private static function nearest(array $line): ?array
    {
        $before = $behind = [];
        $at = null;
        foreach ($line as $i => $height) {
            $at = $height === null ? $at : $i;
            $before[$i] = $at;
        }
        if ($at === null) {
            return null;
        }
        $at = null;
        for ($i = count($line) - 1; $i >= 0; $i--) {
            $at = $line[$i] === null ? $at : $i;
            $behind[$i] = $at;
        }
        $filled = [];
        foreach (array_keys($line) as $i) {
            [$a, $b] = [$before[$i], $behind[$i]];
            $from = $a === null || ($b !== null && $b - $i < $i - $a) ? $b : $a;
            $filled[] = (float) $line[(int) $from];
        }

        return $filled;
    }

    /**
     * The lowest, or the highest, within a reach to each side.
     *
     * @param  array<int, float>  $heights
     * @return array<int, float>
     */
    private static function spread(array $heights, int $columns, int $rows, int $reach, bool $highest): array
    {
        $across = [];
        for ($row = 0; $row < $rows; $row++) {
            foreach (self::run(array_slice($heights, $row * $columns, $columns), $reach, $highest) as $column => $height) {
                $across[$row * $columns + $column] = $height;
            }
        }
        $spread = $across;
        for ($column = 0; $column < $columns; $column++) {
            $line = [];
            for ($row = 0; $row < $rows; $row++) {
                $line[] = $across[$row * $columns + $column];
            }
            foreach (self::run($line, $reach, $highest) as $row => $height) {
                $spread[$row * $columns + $column] = $height;
            }
        }

        return $spread;
    }

    /**
     * In a time that does not grow with the reach: in blocks as long as the window, the best from each block's beginning and from its end.
     * Method: M. van Herk, "A fast algorithm for local minimum and maximum filters on rectangular and octagonal kernels", Pattern Recognition
     * Letters 13 (1992) 517–521.
     *
     * @param  list<float>  $line
     * @return list<float>
     */
    private static function run(array $line, int $reach, bool $highest): array
    {
        $count = count($line);
        $block = 2 * $reach + 1;
        $better = static fn (float $a, float $b): float => ($highest ? $a > $b : $a < $b) ? $a : $b;
        $ahead = $back = $line;
        foreach ($line as $i => $height) {
            if ($i % $block !== 0) {
                $ahead[$i] = $better($ahead[$i - 1], $height);
            }
        }
        for ($i = $count - 2; $i >= 0; $i--) {
            if (($i + 1) % $block !== 0) {
                $back[$i] = $better($back[$i + 1], $line[$i]);
            }
        }
        $found = [];
        for ($i = 0; $i < $count; $i++) {
            // what would begin before the line begins with it, and a block may end before the line does
            $from = $i >= $reach ? $back[$i - $reach] : $ahead[min($i + $reach, $count - 1)];
            $to = $i + $reach < $count ? $ahead[$i + $reach] : ($i >= $reach ? $back[max($i - $reach, intdiv($count - 1, $block) * $block)] : $from);
            $found[] = $better($from, $to);
        }

        return $found;
    }
}
