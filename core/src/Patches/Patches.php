<?php

declare(strict_types=1);

namespace Skeno\Core\Patches;

use Imagick;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;

/**
 * A picture in small connected regions that follow its edges (superpixels), to paint with. They begin as the squares of a grid, on the picture
 * reduced and in colours that differ as they look; then pixels on borders go over to the neighbour they are more like, by colour and by
 * distance from its middle, as long as no region falls apart (M. Van den Bergh et al., "SEEDS", ECCV 2012, for the exchange at borders; R. Achanta
 * et al., "SLIC Superpixels", IEEE TPAMI 34, 2012, for the distance). At last the borders are looked at again at full size.
 */
final readonly class Patches
{
    /** Pixels of the largest part that is taken at once. */
    public const MOST_PIXELS = 1_700_000;

    /** px by which the picture is reduced at first, for patches that are large enough. */
    private const REDUCED = 3;

    private const SWEEPS = 8;

    private const FINE_SWEEPS = 2;

    /** Colours that differ by this count like a patch's side of distance, in steps of the colour space as bytes. */
    private const COMPACT = 6.0;

    /** What it costs to leave the neighbours one has, in squared steps for each. */
    private const STRAIGHT = 12.0;

    /**
     * @param  array<int, int>  $labels  patch of each pixel, row by row, 0 to count − 1
     */
    private function __construct(public int $width, public int $height, public array $labels, public int $count)
    {
    }

    /**
     * @param  int  $side  px across a patch, about: 4 to 400
     *
     * @throws InvalidValue
     */
    public static function of(Colours $picture, int $side): self
    {
        if ($picture->width * $picture->height > self::MOST_PIXELS) {
            throw InvalidValue::at('part', "{$picture->width} × {$picture->height}", 'at most '.self::MOST_PIXELS.' pixels');
        }
        if ($side < 4 || $side > 400) {
            throw InvalidValue::at('side', $side, '4 to 400 px');
        }
        $by = max(1, min(self::REDUCED, intdiv($side, 5)));
        [$width, $height] = [max(1, (int) round($picture->width / $by)), max(1, (int) round($picture->height / $by))];
        $columns = max(1, (int) round($picture->width / $side));
        $rows = max(1, (int) round($picture->height / $side));
        $labels = $rim = array_fill(0, $width + 2, -1);
        for ($y = 0; $y < $height; $y++) {
            $row = min($rows - 1, intdiv($y * $rows, $height)) * $columns;
            $labels[] = -1;
            for ($x = 0; $x < $width; $x++) {
                $labels[] = $row + min($columns - 1, intdiv($x * $columns, $width));
            }
            $labels[] = -1;
        }
        array_push($labels, ...$rim);
        $small = $picture->resized($width, $height);
        $labels = self::exchanged($small, $labels, $columns * $rows, $side / $by);
        $labels = $by > 1 ? self::atFullSize($picture, $small, $labels, $columns * $rows, $side) : self::without($labels, $width, $height);

        return new self($picture->width, $picture->height, $labels, $columns * $rows);
    }

    /** The patch of a pixel. */
    public function at(int $x, int $y): int
    {
        return $this->labels[$y * $this->width + $x];
    }

    /**
     * As it is sent: "SKP1", width, height, number of patches (32 bits each), then row by row the runs of one patch as its number and the
     * length in px (16 bits each); all little-endian.
     */
    public function bytes(): string
    {
        $out = 'SKP1'.pack('V3', $this->width, $this->height, $this->count);
        $at = 0;
        for ($y = 0; $y < $this->height; $y++) {
            $end = $at + $this->width;
            $runs = [];
            while ($at < $end) {
                $label = $this->labels[$at];
                $from = $at++;
                while ($at < $end && $this->labels[$at] === $label) {
                    $at++;
                }
                $runs[] = $label;
                $runs[] = $at - $from;
            }
            $out .= pack('v*', ...$runs);
        }

        return $out;
    }

    /**
     * Lets pixels on borders go over to the neighbour they are more like.
     *
     * @param  array<int, int>  $labels  of the picture with a rim of one pixel that belongs to nobody, row by row
     * @return array<int, int> likewise
     */
    private static function exchanged(Colours $picture, array $labels, int $count, float $side): array
    {
        [$light, $green, $blue] = self::looks($picture);
        [$width, $height] = [$picture->width, $picture->height];
        $across = $width + 2;
        $n = $sl = $sg = $sb = $sx = $sy = array_fill(0, $count, 0);
        for ($y = 0, $of = 0; $y < $height; $y++) {
            for ($x = 0, $at = ($y + 1) * $across + 1; $x < $width; $x++, $at++, $of++) {
                $k = $labels[$at];
                $n[$k]++;
                $sl[$k] += $light[$of];
                $sg[$k] += $green[$of];
                $sb[$k] += $blue[$of];
                $sx[$k] += $x;
                $sy[$k] += $y;
            }
        }
        $near = (self::COMPACT / $side) ** 2;
        $simple = self::simple();
        for ($sweep = 0; $sweep < self::SWEEPS; $sweep++) {
            for ($y = 0, $of = 0; $y < $height; $y++) {
                for ($x = 0, $at = ($y + 1) * $across + 1; $x < $width; $x++, $at++, $of++) {
                    $mine = $labels[$at];
                    $left = $labels[$at - 1];
                    $right = $labels[$at + 1];
                    $up = $labels[$at - $across];
                    $down = $labels[$at + $across];
                    if (($left === $mine && $right === $mine && $up === $mine && $down === $mine) || $n[$mine] < 2) {
                        continue;
                    }
                    if (! $simple[($left === $mine ? 1 : 0) | ($labels[$at - $across - 1] === $mine ? 2 : 0) | ($up === $mine ? 4 : 0) | ($labels[$at - $across + 1] === $mine ? 8 : 0)
                        | ($right === $mine ? 16 : 0) | ($labels[$at + $across + 1] === $mine ? 32 : 0) | ($down === $mine ? 64 : 0) | ($labels[$at + $across - 1] === $mine ? 128 : 0)]) {
                        continue;
                    }
                    $l = $light[$of];
                    $g = $green[$of];
                    $b = $blue[$of];
                    // how unlike it is to its own patch without itself
                    $m = $n[$mine] - 1;
                    $d1 = $l - ($sl[$mine] - $l) / $m;
                    $d2 = $g - ($sg[$mine] - $g) / $m;
                    $d3 = $b - ($sb[$mine] - $b) / $m;
                    $d4 = $x - ($sx[$mine] - $x) / $m;
                    $d5 = $y - ($sy[$mine] - $y) / $m;
                    $least = $d1 * $d1 + $d2 * $d2 + $d3 * $d3 + $near * ($d4 * $d4 + $d5 * $d5) - self::STRAIGHT * (($left === $mine ? 1 : 0) + ($right === $mine ? 1 : 0) + ($up === $mine ? 1 : 0) + ($down === $mine ? 1 : 0));
                    $best = $mine;
                    $tried = -1;
                    for ($side4 = 0; $side4 < 4; $side4++) {
                        $other = $side4 === 0 ? $left : ($side4 === 1 ? $right : ($side4 === 2 ? $up : $down));
                        if ($other === $mine || $other === $tried || $other < 0) {
                            continue;
                        }
                        $tried = $other;
                        $m = $n[$other];
                        $d1 = $l - $sl[$other] / $m;
                        $d2 = $g - $sg[$other] / $m;
                        $d3 = $b - $sb[$other] / $m;
                        $d4 = $x - $sx[$other] / $m;
                        $d5 = $y - $sy[$other] / $m;
                        $d = $d1 * $d1 + $d2 * $d2 + $d3 * $d3 + $near * ($d4 * $d4 + $d5 * $d5) - self::STRAIGHT * (($left === $other ? 1 : 0) + ($right === $other ? 1 : 0) + ($up === $other ? 1 : 0) + ($down === $other ? 1 : 0));
                        if ($d < $least) {
                            $least = $d;
                            $best = $other;
                        }
                    }
                    if ($best === $mine) {
                        continue;
                    }
                    $labels[$at] = $best;
                    $n[$mine]--;
                    $n[$best]++;
                    $sl[$mine] -= $l;
                    $sl[$best] += $l;
                    $sg[$mine] -= $g;
                    $sg[$best] += $g;
                    $sb[$mine] -= $b;
                    $sb[$best] += $b;
                    $sx[$mine] -= $x;
                    $sx[$best] += $x;
                    $sy[$mine] -= $y;
                    $sy[$best] += $y;
                }
            }
        }

        return $labels;
    }

    /**
     * Labels without the rim.
     *
     * @param  array<int, int>  $labels
     * @return list<int>
     */
    private static function without(array $labels, int $width, int $height): array
    {
        $inner = [];
        for ($y = 1; $y <= $height; $y++) {
            array_push($inner, ...array_slice($labels, $y * ($width + 2) + 1, $width));
        }

        return $inner;
    }

    /**
     * Patches of a smaller picture at full size, their borders moved to where colours change; what patches look like is known already.
     *
     * @param  array<int, int>  $labels  of the smaller picture, with its rim
     * @return array<int, int>
     */
    private static function atFullSize(Colours $picture, Colours $small, array $labels, int $count, int $side): array
    {
        [$width, $height] = [$picture->width, $picture->height];
        $labels = self::without($labels, $small->width, $small->height);
        [$r, $g, $b, $mx, $my] = self::means($small, $labels, $count, $width / $small->width, $height / $small->height);
        $from = [];
        for ($x = 0; $x < $width; $x++) {
            $from[] = intdiv($x * $small->width, $width);
        }
        $large = $row = [];
        $before = -1;
        for ($y = 0; $y < $height; $y++) {
            $line = intdiv($y * $small->height, $height) * $small->width;
            if ($line !== $before) {
                $row = [];
                foreach ($from as $x) {
                    $row[] = $labels[$line + $x];
                }
                $before = $line;
            }
            array_push($large, ...$row);
        }
        $near = (self::COMPACT / $side) ** 2;
        $simple = self::simple();
        $bytes = $picture->bytes;
        // the outermost pixels stay, so that none has to be asked whether it has neighbours
        for ($sweep = 0; $sweep < self::FINE_SWEEPS; $sweep++) {
            for ($y = 1; $y < $height - 1; $y++) {
                for ($at = $y * $width + 1, $end = $at + $width - 2; $at < $end; $at++) {
                    $mine = $large[$at];
                    $left = $large[$at - 1];
                    $right = $large[$at + 1];
                    $up = $large[$at - $width];
                    $down = $large[$at + $width];
                    if (($left === $mine && $right === $mine && $up === $mine && $down === $mine)
                        || ! $simple[($left === $mine ? 1 : 0) | ($large[$at - $width - 1] === $mine ? 2 : 0) | ($up === $mine ? 4 : 0) | ($large[$at - $width + 1] === $mine ? 8 : 0)
                        | ($right === $mine ? 16 : 0) | ($large[$at + $width + 1] === $mine ? 32 : 0) | ($down === $mine ? 64 : 0) | ($large[$at + $width - 1] === $mine ? 128 : 0)]) {
                        continue;
                    }
                    $x = $at % $width;
                    $cr = ord($bytes[3 * $at]);
                    $cg = ord($bytes[3 * $at + 1]);
                    $cb = ord($bytes[3 * $at + 2]);
                    $d1 = $cr - $r[$mine];
                    $d2 = $cg - $g[$mine];
                    $d3 = $cb - $b[$mine];
                    $d4 = $x - $mx[$mine];
                    $d5 = $y - $my[$mine];
                    $least = $d1 * $d1 + $d2 * $d2 + $d3 * $d3 + $near * ($d4 * $d4 + $d5 * $d5) - self::STRAIGHT * (($left === $mine ? 1 : 0) + ($right === $mine ? 1 : 0) + ($up === $mine ? 1 : 0) + ($down === $mine ? 1 : 0));
                    $best = $mine;
                    $tried = -1;
                    for ($side4 = 0; $side4 < 4; $side4++) {
                        $other = $side4 === 0 ? $left : ($side4 === 1 ? $right : ($side4 === 2 ? $up : $down));
                        if ($other === $mine || $other === $tried) {
                            continue;
                        }
                        $tried = $other;
                        $d1 = $cr - $r[$other];
                        $d2 = $cg - $g[$other];
                        $d3 = $cb - $b[$other];
                        $d4 = $x - $mx[$other];
                        $d5 = $y - $my[$other];
                        $d = $d1 * $d1 + $d2 * $d2 + $d3 * $d3 + $near * ($d4 * $d4 + $d5 * $d5) - self::STRAIGHT * (($left === $other ? 1 : 0) + ($right === $other ? 1 : 0) + ($up === $other ? 1 : 0) + ($down === $other ? 1 : 0));
                        if ($d < $least) {
                            $least = $d;
                            $best = $other;
                        }
                    }
                    $large[$at] = $best;
                }
            }
        }

        return $large;
    }

    /**
     * Mean colour and middle of each patch.
     *
     * @param  list<int>  $labels
     * @return array{array<int, float>, array<int, float>, array<int, float>, array<int, float>, array<int, float>} r, g, b, x, y; places in px of the large picture
     */
    private static function means(Colours $small, array $labels, int $count, float $byX, float $byY): array
    {
        $n = $r = $g = $b = $mx = $my = array_fill(0, $count, 0);
        $bytes = $small->bytes;
        for ($y = 0, $at = 0; $y < $small->height; $y++) {
            for ($x = 0; $x < $small->width; $x++, $at++) {
                $k = $labels[$at];
                $n[$k]++;
                $r[$k] += ord($bytes[3 * $at]);
                $g[$k] += ord($bytes[3 * $at + 1]);
                $b[$k] += ord($bytes[3 * $at + 2]);
                $mx[$k] += $x + 0.5;
                $my[$k] += $y + 0.5;
            }
        }
        foreach ($n as $k => $of) {
            $of = max(1, $of);
            [$r[$k], $g[$k], $b[$k], $mx[$k], $my[$k]] = [$r[$k] / $of, $g[$k] / $of, $b[$k] / $of, $mx[$k] / $of * $byX, $my[$k] / $of * $byY];
        }

        return [$r, $g, $b, $mx, $my];
    }

    /**
     * Whether a pixel may leave its patch without parting it, by which of its eight neighbours (from the left one on, clockwise) belong to it:
     * those above, below and beside it must hang together round it.
     *
     * @return list<bool>
     */
    private static function simple(): array
    {
        $table = [];
        for ($round = 0; $round < 256; $round++) {
            // runs of neighbours round the pixel that have at least one of the four direct ones
            $groups = 0;
            for ($i = 0; $i < 8; $i += 2) {
                $is = ($round >> $i & 1) === 1;
                $linked = ($round >> (($i + 1) % 8) & 1) === 1 && ($round >> (($i + 2) % 8) & 1) === 1;
                $groups += $is && ! $linked ? 1 : 0;
            }
            $table[] = $groups <= 1;
        }

        return $table;
    }

    /** @return array{list<int>, list<int>, list<int>} lightness and both differences, as bytes */
    private static function looks(Colours $picture): array
    {
        $image = $picture->image();
        $image->transformImageColorspace(Imagick::COLORSPACE_LAB); // @phpstan-ignore classConstant.notFound, argument.type (the stubs don't know it)
        /** @var list<int> $light */
        $light = $image->exportImagePixels(0, 0, $picture->width, $picture->height, 'R', Imagick::PIXEL_CHAR);
        /** @var list<int> $green */
        $green = $image->exportImagePixels(0, 0, $picture->width, $picture->height, 'G', Imagick::PIXEL_CHAR);
        /** @var list<int> $blue */
        $blue = $image->exportImagePixels(0, 0, $picture->width, $picture->height, 'B', Imagick::PIXEL_CHAR);

        return [$light, $green, $blue];
    }
}
