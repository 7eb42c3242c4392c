<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use ImagickException;
use Skeno\Core\Imaging\Colours;

/** What lies round a few points of a picture, brought to a size, how bright it is at three scales; perhaps as its mirror image. */
final readonly class Around
{
    /** px, standard deviations of the scales. */
    private const SCALES = [0.7, 1.8, 4.0];

    /** @param  list<string>  $levels  of each scale a byte a pixel */
    private function __construct(private array $levels, private int $columns, private int $rows, private float $left, private float $top, private float $by, private bool $mirrored, public int $pictureWidth, public int $pictureHeight)
    {
    }

    /**
     * @param  callable(int, int, int, int, int, int): Colours  $part  a part of the picture in a size: left, top, width, height, columns, rows
     * @param  array<int, float>  $points  x, y … in px of the picture
     * @param  float  $reach  px round them that belong to it
     * @param  float  $across  px the longer side of their box gets
     *
     * @throws ImagickException
     */
    public static function of(callable $part, int $width, int $height, array $points, float $reach, float $across, bool $mirrored = false): self
    {
        [$l, $t, $r, $b] = [INF, INF, -INF, -INF];
        for ($i = 0, $n = count($points); $i < $n; $i += 2) {
            $l = min($l, $points[$i]);
            $r = max($r, $points[$i]);
            $t = min($t, $points[$i + 1]);
            $b = max($b, $points[$i + 1]);
        }
        $size = max(4.0, $r - $l, $b - $t);
        $left = (int) max(0, min($width - 8, floor($l - $reach)));
        $top = (int) max(0, min($height - 8, floor($t - $reach)));
        $w = max(8, min($width, (int) ceil($r + $reach)) - $left);
        $h = max(8, min($height, (int) ceil($b + $reach)) - $top);
        $by = min(4.0, $across / $size);
        $columns = max(8, (int) round($w * $by));
        $rows = max(8, (int) round($h * $by));
        $bytes = $part($left, $top, min($w, $width - $left), min($h, $height - $top), $columns, $rows)->bytes;
        $light = '';
        for ($y = 0, $i = 0; $y < $rows; $y++) {
            $row = '';
            for ($x = 0; $x < $columns; $x++, $i += 3) {
                $row .= chr(intdiv(ord($bytes[$i]) + ord($bytes[$i + 1]) + ord($bytes[$i + 2]), 3));
            }
            $light .= $mirrored ? strrev($row) : $row;
        }
        $plane = Features::plane($light, $columns, $rows);
        $levels = array_map(static fn (float $scale): string => Features::ofPlane(Features::blurred($plane, $scale)), self::SCALES);

        return new self($levels, $columns, $rows, (float) $left, (float) $top, $columns / $w, $mirrored, $width, $height);
    }

    /** How bright it is at a place of its own; beyond its edge, at the edge. */
    public function at(int $level, float $x, float $y): int
    {
        $column = $x < 0 ? 0 : ($x >= $this->columns ? $this->columns - 1 : (int) $x);
        $row = $y < 0 ? 0 : ($y >= $this->rows ? $this->rows - 1 : (int) $y);

        return ord($this->levels[$level][$row * $this->columns + $column]);
    }

    /**
     * @param  array<int, float>  $points  in px of the picture
     * @return array<int, float> its own places
     */
    public function own(array $points): array
    {
        foreach ($points as $i => $value) {
            $points[$i] = ($value - ($i % 2 === 0 ? $this->left : $this->top)) * $this->by;
            if ($this->mirrored && $i % 2 === 0) {
                $points[$i] = $this->columns - $points[$i];
            }
        }

        return $points;
    }

    /**
     * @param  array<int, float>  $points  its own places
     * @return array<int, float> in px of the picture
     */
    public function picture(array $points): array
    {
        foreach ($points as $i => $value) {
            if ($this->mirrored && $i % 2 === 0) {
                $value = $this->columns - $value;
            }
            $points[$i] = $value / $this->by + ($i % 2 === 0 ? $this->left : $this->top);
        }

        return $points;
    }
}
