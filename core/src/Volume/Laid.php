<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/**
 * How the voxels of a file lie on the sheet. Slices are those of the file (its third axis), so that what was scanned as one picture stays one;
 * on the screen x goes to the patient's left, or to the back in slices from side to side, and y to the back, or down. Nothing is resampled: axes
 * are exchanged and turned over, so that labels go back to the very voxels they were drawn on. A volume of which nobody knows how it lies in a
 * body stays as it is in its file.
 */
final readonly class Laid
{
    /** Which way the axes of the body go on the sheet: right to left, front to back, up; of slices that stand, y goes down. */
    private const AWAY = ['L', 'P', 'S'];

    private const BACK = ['R', 'A', 'I'];

    /**
     * @param  array{int, int, int}  $axes  of the file that lie along x, y and z of the sheet; the last is 2
     * @param  array{bool, bool, bool}  $turned  whether x, y, z count from the other end
     * @param  ?array{string, string, string}  $letters  where x, y, z go to: L R A P S I; null: nobody knows
     * @param  array{int, int, int}  $sizes  voxels along x, y, z
     * @param  array{float, float, float}  $spacing  mm along x, y, z
     */
    private function __construct(public array $axes, public array $turned, public ?array $letters, public array $sizes, public array $spacing)
    {
    }

    public static function of(Grid $grid): self
    {
        $axes = [0, 1, 2];
        $turned = [false, false, false];
        $letters = null;
        if ($grid->isOriented) {
            // which axis of the body each of the file follows: the best of the six ways to pair them
            $best = -1.0;
            $body = [0, 1, 2];
            foreach ([[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]] as $way) {
                $sum = 0.0;
                foreach ($way as $axis => $of) {
                    $sum += abs($grid->along($axis)[$of]) / $grid->spacing()[$axis];
                }
                if ($sum > $best + 1e-9) {
                    [$best, $body] = [$sum, $way];
                }
            }
            // of the two axes that are not the slices', the one further to the front of right, back, up lies across
            $axes = $body[0] < $body[1] ? [0, 1, 2] : [1, 0, 2];
            $letters = [];
            foreach ($axes as $on => $axis) {
                $of = $body[$axis];
                $goes = $of === 2 && $on === 1 ? 'I' : self::AWAY[$of];
                $ahead = $grid->along($axis)[$of] > 0;
                // RAS+ grows to the right, to the front and up
                $turned[$on] = ($ahead ? ['R', 'A', 'S'] : ['L', 'P', 'I'])[$of] !== $goes;
                $letters[] = $goes;
            }
            $letters = [$letters[0], $letters[1], $letters[2]];
        }
        [$sizes, $spacing] = [$grid->sizes, $grid->spacing()];

        return new self($axes, [$turned[0], $turned[1], $turned[2]], $letters, [$sizes[$axes[0]], $sizes[$axes[1]], $sizes[2]], [$spacing[$axes[0]], $spacing[$axes[1]], $spacing[2]]);
    }

    /** The letter of the other end of an axis. */
    public static function opposite(string $letter): string
    {
        $at = array_search($letter, self::AWAY, true);

        return $at === false ? self::AWAY[(int) array_search($letter, self::BACK, true)] : self::BACK[$at];
    }

    /** Which slice of the sheet a slice of the file is, and back. */
    public function slice(int $k): int
    {
        return $this->turned[2] ? $this->sizes[2] - 1 - $k : $k;
    }

    /**
     * A slice of the file as it lies on the sheet.
     *
     * @template T
     *
     * @param  list<T>  $values  of the file, i fastest
     * @return list<T> x fastest
     */
    public function shown(array $values): array
    {
        return self::flat(self::turn($this->axes[0] === 0 ? self::rows($values, $this->sizes[0]) : self::transposed(self::rows($values, $this->sizes[1])), $this->turned[0], $this->turned[1]));
    }

    /**
     * Back: a slice of the sheet as it lies in the file.
     *
     * @template T
     *
     * @param  list<T>  $values  x fastest
     * @return list<T> i fastest
     */
    public function filed(array $values): array
    {
        $rows = self::turn(self::rows($values, $this->sizes[0]), $this->turned[0], $this->turned[1]);

        return self::flat($this->axes[0] === 0 ? $rows : self::transposed($rows));
    }

    /** Whether a slice lies on the sheet just as in the file. */
    public function isPlain(): bool
    {
        return $this->axes[0] === 0 && ! $this->turned[0] && ! $this->turned[1];
    }

    /**
     * The voxel of the file that lies at a place of the sheet.
     *
     * @return array{int, int, int} i, j, k
     */
    public function voxel(int $x, int $y, int $z): array
    {
        $index = [0, 0, 0];
        foreach ([$x, $y, $z] as $on => $at) {
            $index[$this->axes[$on]] = $this->turned[$on] ? $this->sizes[$on] - 1 - $at : $at;
        }

        return [$index[0], $index[1], $index[2]];
    }

    /**
     * @template T
     *
     * @param  list<T>  $values
     * @param  int  $width  values a row
     * @return list<list<T>>
     */
    private static function rows(array $values, int $width): array
    {
        return array_chunk($values, max(1, $width));
    }

    /**
     * @template T
     *
     * @param  list<list<T>>  $rows  of one length
     * @return list<list<T>>
     */
    private static function transposed(array $rows): array
    {
        if (count($rows) === 1) {
            // (of a single row the language makes a list, not a list of columns)
            return array_map(static fn (mixed $value): array => [$value], $rows[0]);
        }

        /** @var list<list<T>> */
        return array_map(null, ...$rows);
    }

    /**
     * @template T
     *
     * @param  list<list<T>>  $rows
     * @return list<list<T>>
     */
    private static function turn(array $rows, bool $across, bool $down): array
    {
        $rows = $down ? array_reverse($rows) : $rows;

        return $across ? array_map(array_reverse(...), $rows) : $rows;
    }

    /**
     * @template T
     *
     * @param  list<list<T>>  $rows
     * @return list<T>
     */
    private static function flat(array $rows): array
    {
        return array_merge(...$rows);
    }
}
