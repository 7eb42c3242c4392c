<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\InvalidValue;

/**
 * What a part of a picture looks like, as DIMENSIONS numbers of about the same weight: brightness and two opponent colours in the
 * middle and around it with their spread, a histogram of hues weighted by saturation, and histograms of oriented gradients in a grid
 * of 3 × 3 cells (after Dalal and Triggs, Histograms of Oriented Gradients for Human Detection, 2005, with unsigned directions and one
 * normalisation over all cells). Of an object also its size and proportions.
 */
final readonly class Looks
{
    private const HUES = 8;

    private const DIRECTIONS = 4;

    private const CELLS = 3;

    /** Brightness and two colours in the middle, around it, and their spread; hues; gradients; edges in all; size and proportions. */
    public const DIMENSIONS = 9 + self::HUES + self::CELLS * self::CELLS * self::DIRECTIONS + 1 + 2;

    /** @param  list<float>  $values */
    private function __construct(public array $values)
    {
    }

    /**
     * @param  Box  $bounds  of the object, in px
     * @param  int  $width  of the picture, in px
     * @param  int  $height  of the picture, in px
     */
    public static function ofObject(Swatch $swatch, Box $bounds, int $width, int $height): self
    {
        return self::from($swatch, log(max(1.0, $bounds->width * $bounds->height) / ($width * $height)), log(max(1.0, $bounds->width) / max(1.0, $bounds->height)));
    }

    /** Of a whole picture, where size says nothing. */
    public static function ofPicture(Swatch $swatch): self
    {
        return self::from($swatch, 0.0, 0.0);
    }

    private static function from(Swatch $swatch, float $size, float $proportions): self
    {
        $side = Swatch::SIDE;
        $cell = intdiv($side, self::CELLS);
        $bytes = $swatch->bytes;
        $light = [];
        $sums = array_fill(0, 9, 0.0);
        $squares = [0.0, 0.0, 0.0];
        $hues = array_fill(0, self::HUES, 0.0);
        $middle = 0;
        for ($y = 0, $i = 0; $y < $side; $y++) {
            for ($x = 0; $x < $side; $x++, $i += 3) {
                $r = $bytes[$i] / 255;
                $g = $bytes[$i + 1] / 255;
                $b = $bytes[$i + 2] / 255;
                $l = ($r + $g + $b) / 3;
                $red = $r - $g;
                $blue = $b - ($r + $g) / 2;
                $light[] = $l;
                $at = 3;
                if ($x >= $cell && $x < 2 * $cell && $y >= $cell && $y < 2 * $cell) {
                    $at = 0;
                    $middle++;
                }
                $sums[$at] += $l;
                $sums[$at + 1] += $red;
                $sums[$at + 2] += $blue;
                $squares[0] += $l * $l;
                $squares[1] += $red * $red;
                $squares[2] += $blue * $blue;
                // the angle in the plane of the two colours is the hue, its length the saturation
                $saturation = sqrt($red * $red + $blue * $blue);
                if ($saturation > 0.02) {
                    $hues[(int) ((atan2($blue, $red) / M_PI + 1) / 2 * self::HUES) % self::HUES] += $saturation;
                }
            }
        }
        $count = $side * $side;
        $values = [];
        for ($i = 0; $i < 3; $i++) {
            $values[] = $sums[$i] / $middle;
            $values[] = $sums[3 + $i] / ($count - $middle);
            $mean = ($sums[$i] + $sums[3 + $i]) / $count;
            $values[] = sqrt(max(0.0, $squares[$i] / $count - $mean * $mean));
        }
        $all = array_sum($hues) + 1e-3 * $count;
        foreach ($hues as $hue) {
            $values[] = sqrt($hue / $all);
        }
        [$gradients, $edges] = self::gradients($light, $side, $cell);

        return new self([...$values, ...$gradients, $edges, $size / 4, $proportions]);
    }

    /**
     * @param  list<float>  $light
     * @return array{0: list<float>, 1: float} the histograms, and how strong edges are in all
     */
    private static function gradients(array $light, int $side, int $cell): array
    {
        $bins = array_fill(0, self::CELLS * self::CELLS * self::DIRECTIONS, 0.0);
        $total = 0.0;
        for ($y = 1; $y < $side - 1; $y++) {
            $row = intdiv($y, $cell) * self::CELLS;
            for ($x = 1; $x < $side - 1; $x++) {
                $at = $y * $side + $x;
                $dx = $light[$at + 1] - $light[$at - 1];
                $dy = $light[$at + $side] - $light[$at - $side];
                $strength = sqrt($dx * $dx + $dy * $dy);
                $total += $strength;
                // unsigned: an edge is the same from bright to dark and back; shared by the two directions it lies between
                $place = (atan2($dy, $dx) / M_PI + 1) * self::DIRECTIONS;
                $low = (int) $place;
                $share = $place - $low;
                $base = ($row + intdiv($x, $cell)) * self::DIRECTIONS;
                $bins[$base + $low % self::DIRECTIONS] += $strength * (1 - $share);
                $bins[$base + ($low + 1) % self::DIRECTIONS] += $strength * $share;
            }
        }
        $norm = 0.0;
        foreach ($bins as $bin) {
            $norm += $bin * $bin;
        }
        $norm = sqrt($norm) + 1e-3;

        return [array_map(static fn (float $bin): float => $bin / $norm, array_values($bins)), log(1e-3 + $total / ($side * $side)) / 4];
    }

    /** @throws InvalidValue when it is not a packed vector of this length */
    public static function unpack(string $packed): self
    {
        if (strlen($packed) !== 4 * self::DIMENSIONS) {
            throw InvalidValue::at('looks', strlen($packed).' bytes', (4 * self::DIMENSIONS).' bytes');
        }
        /** @var array<int, float> $values */
        $values = unpack('g*', $packed);

        return new self(array_values($values));
    }

    /** 32-bit floats, little endian. */
    public function pack(): string
    {
        return pack('g*', ...$this->values);
    }
}
