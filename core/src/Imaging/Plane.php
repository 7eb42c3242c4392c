<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Skeno\Core\InvalidValue;

/** One channel of a picture: 8 bits a pixel, row by row, in a packed string. */
final readonly class Plane
{
    private function __construct(public int $width, public int $height, public string $bytes)
    {
    }

    /** @throws InvalidValue when there are not width × height bytes */
    public static function of(int $width, int $height, string $bytes): self
    {
        if ($width < 1 || $height < 1 || strlen($bytes) !== $width * $height) {
            throw InvalidValue::at('plane', strlen($bytes).' bytes', "{$width} × {$height}");
        }

        return new self($width, $height, $bytes);
    }

    /**
     * A part of it, $step times smaller, each pixel the mean of those it stands for (of every second in both directions from a step of 8 on, which
     * is enough). Outside of the picture its rim goes on.
     *
     * @param  int  $left  of the part, in px; it may lie outside
     * @param  int  $width  of the smaller one, $height likewise
     *
     * @throws InvalidValue
     */
    public function reduced(int $left, int $top, int $width, int $height, int $step): self
    {
        if ($width < 1 || $height < 1 || $step < 1) {
            throw InvalidValue::at('part', "{$width} × {$height}, {$step}", 'sides and a step of 1 or more');
        }
        $skip = $step < 8 ? 1 : 2;
        $columns = [];
        for ($x = 0; $x < $width; $x++) {
            for ($k = 0; $k < $step; $k += $skip) {
                $columns[$x][] = min($this->width - 1, max(0, $left + $x * $step + $k));
            }
        }
        $bytes = '';
        for ($y = 0; $y < $height; $y++) {
            $sums = array_fill(0, $width, 0);
            $rows = 0;
            for ($k = 0; $k < $step; $k += $skip) {
                $row = min($this->height - 1, max(0, $top + $y * $step + $k)) * $this->width;
                foreach ($columns as $x => $those) {
                    foreach ($those as $column) {
                        $sums[$x] += ord($this->bytes[$row + $column]);
                    }
                }
                $rows++;
            }
            foreach ($sums as $x => $sum) {
                $n = $rows * count($columns[$x]);
                $bytes .= chr(intdiv(2 * $sum + $n, 2 * $n));
            }
        }

        return new self($width, $height, $bytes);
    }

    /** 0 to 255; null outside. */
    public function at(int $x, int $y): ?int
    {
        return $x < 0 || $y < 0 || $x >= $this->width || $y >= $this->height ? null : ord($this->bytes[$y * $this->width + $x]);
    }
}
