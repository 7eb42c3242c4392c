<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Raster\Simplification;

/**
 * The part of a picture that is read to cut out what is in a box: the box and as much round it as tells what the ground looks like, reduced
 * where the box is large. So a picture may have any size.
 */
final readonly class Window
{
    /** px the longer side of the box has at most in the part that is read. */
    private const LONG = 640;

    /** Read round the box, as a share of its longer side and in px at least. */
    private const AROUND = 0.2;

    private const LEAST = 12;

    /**
     * @param  int  $x  of the part in the picture, in px; $y, $width and $height likewise
     * @param  int  $columns  px of the part as it is read, $rows likewise
     * @param  Box  $box  in px of the part as it is read
     */
    private function __construct(public int $x, public int $y, public int $width, public int $height, public int $columns, public int $rows, public Box $box, private int $pictureWidth, private int $pictureHeight)
    {
    }

    /**
     * @param  Box  $box  in px of the picture
     * @param  list<Stroke>  $strokes  those that add outside of the box make it larger
     * @param  int  $width  of the picture, $height likewise
     *
     * @throws InvalidValue when there is no box on the picture
     */
    public static function round(Box $box, array $strokes, int $width, int $height): self
    {
        $on = $box->clippedTo($width, $height);
        if ($on === null || $on->width < 4 || $on->height < 4) {
            throw InvalidValue::at('box', $on === null ? 'outside of the picture' : round($on->width, 1).' × '.round($on->height, 1), 'a box of at least 4 × 4 px on the picture');
        }
        [$left, $top, $right, $bottom] = [$on->x, $on->y, $on->right(), $on->bottom()];
        $air = max($on->width, $on->height) * 0.1;
        foreach ($strokes as $stroke) {
            foreach ($stroke->adds ? array_chunk($stroke->points, 2) : [] as $point) {
                [$x, $y] = [max(0.0, min((float) $width, $point[0])), max(0.0, min((float) $height, $point[1] ?? 0.0))];
                $left = $x < $left ? max(0.0, $x - $air) : $left;
                $top = $y < $top ? max(0.0, $y - $air) : $top;
                $right = $x > $right ? min((float) $width, $x + $air) : $right;
                $bottom = $y > $bottom ? min((float) $height, $y + $air) : $bottom;
            }
        }
        $long = max($right - $left, $bottom - $top);
        $around = max(self::LEAST, $long * self::AROUND);
        [$x, $y] = [(int) max(0, floor($left - $around)), (int) max(0, floor($top - $around))];
        [$w, $h] = [(int) min($width, ceil($right + $around)) - $x, (int) min($height, ceil($bottom + $around)) - $y];
        $scale = min(1.0, self::LONG / $long);
        [$columns, $rows] = [max(1, (int) round($w * $scale)), max(1, (int) round($h * $scale))];
        [$fx, $fy] = [$columns / $w, $rows / $h];

        return new self($x, $y, $w, $h, $columns, $rows, Box::of(($left - $x) * $fx, ($top - $y) * $fy, ($right - $left) * $fx, ($bottom - $top) * $fy), $width, $height);
    }

    /** A stroke in px of the part as it is read. */
    public function stroke(Stroke $stroke): Stroke
    {
        return $stroke->within($this->x, $this->y, $this->columns / $this->width);
    }

    /** A mask on the part, in the picture. Where the part is reduced, its outline is smoothed, since steps of several px are no outline. */
    public function out(Mask $part): Mask
    {
        return $this->isWhole() ? $part->moved($this->x, $this->y, $this->pictureWidth, $this->pictureHeight)
            : ScanConversion::mask(self::scaled(array_map(static fn (array $ring): array => Simplification::ring($ring, 0.6), Contours::rings($part)), 0, 0, $this->width / $this->columns, $this->height / $this->rows, $this->x, $this->y), $this->pictureWidth, $this->pictureHeight);
    }

    /** What of a mask in the picture lies on the part. */
    public function in(Mask $picture): Mask
    {
        return $this->isWhole() ? $picture->moved(-$this->x, -$this->y, $this->columns, $this->rows)
            : ScanConversion::mask(self::scaled(Contours::rings($picture), -$this->x, -$this->y, $this->columns / $this->width, $this->rows / $this->height, 0, 0), $this->columns, $this->rows);
    }

    private function isWhole(): bool
    {
        return $this->columns === $this->width && $this->rows === $this->height;
    }

    /**
     * @param  list<list<float>>  $rings
     * @return list<list<float>>
     */
    private static function scaled(array $rings, float $beforeX, float $beforeY, float $byX, float $byY, float $afterX, float $afterY): array
    {
        return array_map(static function (array $ring) use ($beforeX, $beforeY, $byX, $byY, $afterX, $afterY): array {
            foreach ($ring as $i => $value) {
                $ring[$i] = $i % 2 === 0 ? ($value + $beforeX) * $byX + $afterX : ($value + $beforeY) * $byY + $afterY;
            }

            return $ring;
        }, $rings);
    }
}
