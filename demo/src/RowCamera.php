<?php

declare(strict_types=1);

namespace Skeno\Demo;

use RuntimeException;

/** What a camera under the scanner of "Row scan" sees ahead: a ray for each pixel, by the same things and canopies. */
final readonly class RowCamera
{
    private const WIDTH = 480;

    private const HEIGHT = 288;

    /** px of its focal length. */
    private const FOCAL = 330.0;

    /** px of the middle of its picture. */
    private const MIDDLE = [240.0, 132.0];

    /** Metres ahead of the scanner and over the ground. */
    private const AT = [0.28, 1.52];

    /** Metres from where on all is haze. */
    private const FAR = 48.0;

    /** Of each class: its colour on a side in the light. */
    private const COLOURS = ['bin' => [196, 148, 92], 'post' => [148, 146, 138], 'trunk' => [104, 82, 64], 'cart' => [92, 128, 148]];

    public function __construct(private Noise $noise)
    {
    }

    /** @return array<string, mixed> where it is, as `cameras.json` says it */
    public static function calibration(): array
    {
        return ['cameras' => [[
            'name' => 'ahead', 'width' => self::WIDTH, 'height' => self::HEIGHT,
            'to_camera' => [0.0, -1.0, 0.0, 0.0, 0.0, 0.0, -1.0, self::AT[1], 1.0, 0.0, 0.0, -self::AT[0]],
            'intrinsics' => [self::FOCAL, self::FOCAL, ...self::MIDDLE],
        ]]];
    }

    /**
     * @param  list<array{class: string, x: float, y: float, size: array{float, float, float}, heading: float, round: bool, glow: float}>  $things  where they stand in this frame
     * @param  list<array{float, float, float, float, float}>  $canopies
     * @param  float  $gone  metres the cart has gone: what lies on the ground stays there
     */
    public function write(string $file, array $things, array $canopies, float $gone): void
    {
        $image = imagecreatetruecolor(self::WIDTH, self::HEIGHT) ?: throw new RuntimeException('no memory for a picture');
        for ($u = 0; $u < self::WIDTH; $u++) {
            $side = -($u + 0.5 - self::MIDDLE[0]) / self::FOCAL;
            $long = hypot(1.0, $side);
            [$c, $s] = [1 / $long, $side / $long];
            $met = [];
            foreach ($things as $thing) {
                $through = RowScan::through($thing, $thing['x'] - self::AT[0], $thing['y'], $c, $s);
                if ($through !== null) {
                    $met[] = [$through[0], $through[1], $thing, null];
                }
            }
            foreach ($canopies as $canopy) {
                $through = RowScan::circle($canopy[0] - self::AT[0], $canopy[1], $canopy[3], $c, $s);
                if ($through !== null) {
                    $met[] = [$through[0], $through[1], null, $canopy];
                }
            }
            for ($v = 0; $v < self::HEIGHT; $v++) {
                $tan = -($v + 0.5 - self::MIDDLE[1]) / self::FOCAL / $long;
                [$colour, $far] = $this->behind($tan, $c, $s, $gone);
                foreach ($met as [$from, $to, $thing, $canopy]) {
                    if ($from >= $far) {
                        continue;
                    }
                    $found = $thing !== null ? $this->thing($thing, $from, $to, $tan, $c, $s) : $this->leaves($canopy ?? [0.0, 0.0, 0.0, 1.0, 1.0], $from, $to, $tan, $c, $s, $gone);
                    if ($found !== null && $found[1] < $far) {
                        [$colour, $far] = $found;
                    }
                }
                $haze = min(1.0, $far / self::FAR) ** 1.6;
                [$r, $g, $b] = [(int) round($colour[0] * (1 - $haze) + 201 * $haze), (int) round($colour[1] * (1 - $haze) + 212 * $haze), (int) round($colour[2] * (1 - $haze) + 214 * $haze)];
                imagesetpixel($image, $u, $v, max(0, min(255, $r)) << 16 | max(0, min(255, $g)) << 8 | max(0, min(255, $b)));
            }
        }
        if (! imagejpeg($image, $file, 88)) {
            throw new RuntimeException("{$file} can't be written");
        }
    }

    /** @return array{array{float, float, float}, float} the sky, or the ground and how far it is */
    private function behind(float $tan, float $c, float $s, float $gone): array
    {
        if ($tan >= -self::AT[1] / self::FAR) {
            return [[206 - 60 * $tan, 216 - 26 * $tan, 218 + 14 * $tan], self::FAR * 0.6];
        }
        $t = -self::AT[1] / $tan;
        [$x, $y] = [$t * $c + self::AT[0] + $gone, $t * $s];
        $rut = exp(-((abs($y) - 0.75) / 0.2) ** 2);
        $fine = max(0.0, 1 - $t / 14);
        $light = 1 + 0.12 * $this->noise->at($x / 0.7, $y / 0.7, 3.0) + $fine * 0.14 * $this->noise->at($x * 9, $y * 14, 5.0);

        return [[(98 + 40 * $rut) * $light, (116 + 2 * $rut) * $light, (62 + 18 * $rut) * $light], $t];
    }

    /**
     * @param  array{class: string, x: float, y: float, size: array{float, float, float}, heading: float, round: bool, glow: float}  $thing
     * @return ?array{array{float, float, float}, float}
     */
    private function thing(array $thing, float $from, float $to, float $tan, float $c, float $s): ?array
    {
        $top = $thing['size'][2];
        $high = self::AT[1] + $from * $tan;
        $onTop = $high > $top;
        $t = $onTop ? ($tan < 0 ? ($top - self::AT[1]) / $tan : INF) : $from;
        if ($t > $to || $high < 0) {
            return null;
        }
        [$hc, $hs] = [cos(deg2rad($thing['heading'])), sin(deg2rad($thing['heading']))];
        [$dx, $dy] = [$t * $c + self::AT[0] - $thing['x'], $t * $s - $thing['y']];
        [$u, $v] = [$dx * $hc + $dy * $hs, $dy * $hc - $dx * $hs];
        [$r, $g, $b] = self::COLOURS[$thing['class']] ?? [128, 128, 128];
        if ($onTop) {
            // an open bin is full of fruit
            $fruit = $thing['class'] === 'bin' && abs($u) < $thing['size'][0] / 2 - 0.05 && abs($v) < $thing['size'][1] / 2 - 0.05;
            $light = 1.1 + ($fruit ? 0.35 * $this->noise->at($u * 12, $v * 12, $thing['x']) : 0.0);

            return [$fruit ? [178 * $light, 70 * $light, 52 * $light] : [$r * $light, $g * $light, $b * $light], $t];
        }
        if ($thing['round']) {
            $light = 0.85 + 0.25 * ($dy > 0 ? 1 : -1) * min(1.0, abs($dy) / ($thing['size'][0] / 2)) + 0.15 * $this->noise->at($u * 20, $v * 20, $high * 6);
        } else {
            $end = abs(abs($u) - $thing['size'][0] / 2) < abs(abs($v) - $thing['size'][1] / 2);
            $light = $end ? 0.78 : 1.0;
            if ($thing['class'] === 'bin') {
                // boards with gaps between, and posts at its corners
                $along = $end ? abs($v) / ($thing['size'][1] / 2) : abs($u) / ($thing['size'][0] / 2);
                $light *= fmod($high, 0.13) < 0.018 && $along < 0.9 ? 0.45 : 1 + 0.08 * $this->noise->at($u * 3, floor($high / 0.13) * 7, $v * 3);
            } elseif ($thing['class'] === 'cart') {
                // wheels below, a dark window in its back
                $light *= $high < 0.3 ? 0.35 : ($end && $high > 0.8 && $high < 1.2 && abs($v) < 0.42 ? 0.5 : 1.0);
            }
        }

        return [[$r * $light, $g * $light, $b * $light], $t];
    }

    /**
     * @param  array{float, float, float, float, float}  $canopy
     * @return ?array{array{float, float, float}, float}
     */
    private function leaves(array $canopy, float $from, float $to, float $tan, float $c, float $s, float $gone): ?array
    {
        [$x, $y, $middle, $wide, $tall] = $canopy;
        for ($n = 0; $n < 5; $n++) {
            $t = $from + ($to - $from) * $n / 5;
            [$px, $py, $pz] = [$t * $c + self::AT[0], $t * $s, self::AT[1] + $t * $tan];
            $inside = (($px - $x) ** 2 + ($py - $y) ** 2) / $wide ** 2 + (($pz - $middle) / $tall) ** 2;
            if ($inside >= 1.0) {
                continue;
            }
            $thick = $this->noise->at(($px + $gone) * 4.5, $py * 4.5, $pz * 4.5);
            if ($thick > -0.28 + 0.5 * $inside * $inside) {
                $light = 0.72 + 0.3 * ($pz - $middle) / $tall + 0.3 * $this->noise->at(($px + $gone) * 13, $py * 13, $pz * 13);

                return [[74 * $light, 112 * $light, 56 * $light], $t];
            }
        }

        return null;
    }
}
