<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * The voxels of a scan in space: how many along each axis of the file, and the affine map from the index of a voxel (i, j, k; the middle of the
 * first is 0, 0, 0) to millimetres, in the axes of NIfTI: x to the right, y to the front, z up (RAS+).
 */
final readonly class Grid
{
    /** A matrix whose columns span less than this share of a cube of their lengths maps a volume onto a plane. */
    private const FLAT = 1e-6;

    /**
     * @param  array{int, int, int}  $sizes  voxels along i, j, k
     * @param  list<float>  $affine  12 numbers, the upper three rows of the matrix, row by row
     * @param  bool  $isOriented  whether its axes are known to lie in a body; else only its spacing means anything
     */
    private function __construct(public array $sizes, public array $affine, public bool $isOriented)
    {
    }

    /**
     * @param  array{int, int, int}  $sizes
     * @param  list<float>  $affine
     *
     * @throws InvalidValue when it is not 12 finite numbers, or maps the volume onto a plane
     */
    public static function of(array $sizes, array $affine, bool $isOriented, string $path = 'grid'): self
    {
        if (count($affine) !== 12) {
            throw InvalidValue::at("{$path}.affine", count($affine), '12 numbers');
        }
        foreach ($affine as $number) {
            if (! is_finite($number)) {
                throw InvalidValue::at("{$path}.affine", $number, 'finite numbers');
            }
        }
        if (min($sizes) < 1) {
            throw InvalidValue::at("{$path}.sizes", implode(' × ', $sizes), 'a voxel along each axis at least');
        }
        $grid = new self($sizes, $affine, $isOriented);
        [$x, $y, $z] = $grid->spacing();
        if (! (abs($grid->determinant()) > self::FLAT * $x * $y * $z)) {
            throw InvalidValue::at("{$path}.affine", $grid->determinant(), 'a map that keeps three dimensions (it is singular)');
        }

        return $grid;
    }

    /**
     * Voxels of so many mm, not known to lie in a body.
     *
     * @param  array{int, int, int}  $sizes
     * @param  array{float, float, float}  $spacing
     *
     * @throws InvalidValue
     */
    public static function spaced(array $sizes, array $spacing, string $path = 'grid'): self
    {
        return self::of($sizes, [$spacing[0], 0.0, 0.0, 0.0, 0.0, $spacing[1], 0.0, 0.0, 0.0, 0.0, $spacing[2], 0.0], false, $path);
    }

    /** @return array{float, float, float} mm from a voxel to the next along i, j, k */
    public function spacing(): array
    {
        $length = static function (array $step): float {
            /** @var array{float, float, float} $step */
            return sqrt($step[0] ** 2 + $step[1] ** 2 + $step[2] ** 2);
        };

        return [$length($this->along(0)), $length($this->along(1)), $length($this->along(2))];
    }

    /** @return array{float, float, float} mm right, front, up: one voxel along an axis of the file */
    public function along(int $axis): array
    {
        return [$this->affine[$axis], $this->affine[4 + $axis], $this->affine[8 + $axis]];
    }

    /** mm³ of a voxel. */
    public function voxel(): float
    {
        return abs($this->determinant());
    }

    public function voxels(): int
    {
        return $this->sizes[0] * $this->sizes[1] * $this->sizes[2];
    }

    private function determinant(): float
    {
        [[$a, $b, $c], [$d, $e, $f], [$g, $h, $i]] = [$this->along(0), $this->along(1), $this->along(2)];

        return $a * ($e * $i - $f * $h) - $b * ($d * $i - $f * $g) + $c * ($d * $h - $e * $g);
    }

    /** @return array{sizes: array{int, int, int}, affine: list<float>, oriented: bool} */
    public function toArray(): array
    {
        return ['sizes' => $this->sizes, 'affine' => $this->affine, 'oriented' => $this->isOriented];
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'grid'): self
    {
        $fields = Fields::of($data, $path);
        $sizes = $affine = [];
        foreach ($fields->list('sizes') as $i => $size) {
            $sizes[] = is_int($size) && $size >= 1 && $size <= 1_000_000 ? $size : throw InvalidValue::at("{$path}.sizes[{$i}]", $size, 'voxels along an axis');
        }
        foreach ($fields->list('affine') as $i => $number) {
            $affine[] = is_int($number) || is_float($number) ? (float) $number : throw InvalidValue::at("{$path}.affine[{$i}]", $number, 'a number');
        }
        if (count($sizes) !== 3) {
            throw InvalidValue::at("{$path}.sizes", count($sizes), 'three numbers');
        }

        return self::of([$sizes[0], $sizes[1], $sizes[2]], $affine, $fields->bool('oriented'), $path);
    }
}
