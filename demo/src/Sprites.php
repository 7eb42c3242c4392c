<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Imagick;

/** Apples and leaves, shaded pixel by pixel once and then only turned, scaled and laid down. */
final class Sprites
{
    public const APPLE = 150;

    public const LEAF = 120;

    /** @var array<string, list<Imagick>> apples by ripeness */
    private array $apples = [];

    /** @var list<Imagick> */
    private array $leaves = [];

    /** @var list<Imagick> leaves with scab spots */
    private array $sick = [];

    /** @var array<string, Imagick> leaves turned and toned, by what was done to them */
    private array $turned = [];

    private readonly Imagick $shadow;

    public function __construct(private readonly Chance $chance)
    {
        $this->shadow = $this->softDisc();
        foreach (['green' => 0.06, 'turning' => 0.5, 'ripe' => 0.95] as $ripeness => $blush) {
            for ($i = 0; $i < 4; $i++) {
                $this->apples[$ripeness][] = $this->apple($blush);
            }
        }
        for ($i = 0; $i < 7; $i++) {
            $this->leaves[] = $this->leaf(false);
        }
        for ($i = 0; $i < 3; $i++) {
            $this->sick[] = $this->leaf(true);
        }
    }

    public function takeApple(string $ripeness, float $size, float $tilt): Imagick
    {
        return $this->fit(clone $this->chance->one(self::some($this->apples[$ripeness])), $size, $tilt);
    }

    public function takeLeaf(float $size, float $tilt, bool $sick, float $light, float $warm): Imagick
    {
        // turning and toning cost most, so they are done once for steps the eye does not see and kept
        $which = $this->chance->int(0, ($sick ? count($this->sick) : count($this->leaves)) - 1);
        $step = (int) round($tilt / 24) % 15;
        $tone = max(0, min(3, (int) round(($light - 0.6) / 0.18)));
        $key = ($sick ? 's' : 'l')."{$which}/{$step}/{$tone}/{$warm}";
        if (! isset($this->turned[$key])) {
            $leaf = clone ($sick ? $this->sick : $this->leaves)[$which];
            $leaf->modulateImage(60 + 18 * $tone, 84 + 9 * ($which % 4), 100 - $warm * 9 + ($which % 5) * 2 - 4);
            $leaf->rotateImage('transparent', $step * 24);
            $leaf->setImagePage(0, 0, 0, 0);
            $this->turned[$key] = $leaf;
        }
        $leaf = clone $this->turned[$key];
        $share = $size / self::LEAF;
        $leaf->resizeImage(max(3, (int) ($leaf->getImageWidth() * $share)), max(3, (int) ($leaf->getImageHeight() * $share)), Imagick::FILTER_TRIANGLE, 1);

        return $leaf;
    }

    public function takeShadow(float $rx, float $ry, float $tilt): Imagick
    {
        $step = (int) round($tilt / 20) % 18;
        $flat = $ry < $rx * 0.8;
        $key = "shadow/{$step}/".($flat ? 'flat' : 'round');
        if (! isset($this->turned[$key])) {
            $turned = clone $this->shadow;
            $turned->resizeImage(64, $flat ? 34 : 64, Imagick::FILTER_TRIANGLE, 1);
            if ($flat) {
                $turned->rotateImage('transparent', $step * 20);
            }
            $turned->setImagePage(0, 0, 0, 0);
            $this->turned[$key] = $turned;
        }
        $shadow = clone $this->turned[$key];
        $share = $rx * 2.7 / 64;
        $shadow->resizeImage(max(4, (int) ($shadow->getImageWidth() * $share)), max(4, (int) ($shadow->getImageHeight() * $share)), Imagick::FILTER_TRIANGLE, 1);

        return $shadow;
    }

    private function fit(Imagick $sprite, float $size, float $tilt): Imagick
    {
        $sprite->resizeImage(max(3, (int) $size), max(3, (int) $size), Imagick::FILTER_TRIANGLE, 1);
        $sprite->rotateImage('transparent', $tilt);
        $sprite->setImagePage(0, 0, 0, 0);

        return $sprite;
    }

    /** @param  float  $blush 0 green to 1 red all over */
    private function apple(float $blush): Imagick
    {
        $n = self::APPLE;
        $flecks = $this->noise(12);
        $patches = $this->noise(4);
        $flat = $this->chance->between(0.9, 1.0);
        $sun = $this->chance->between(-0.7, 0.7);
        $pixels = '';
        for ($j = 0; $j < $n; $j++) {
            for ($i = 0; $i < $n; $i++) {
                $u = ($i + 0.5) / $n * 2.1 - 1.05;
                $v = (($j + 0.5) / $n * 2.1 - 1.05) / $flat;
                // a shallow dip at the top and bottom makes it an apple and not a ball
                $edge = 0.97 - 0.10 * exp(-($u * $u) / 0.05) * ($v < 0 ? 1 : 0.5);
                $r = sqrt($u * $u + $v * $v) / $edge;
                if ($r > 1.0) {
                    $pixels .= "\0\0\0\0";

                    continue;
                }
                $z = sqrt(max(0.0, 1 - $r * $r));
                $light = max(0.0, -0.48 * $u - 0.62 * $v + 0.62 * $z);
                $streak = 0.05 * sin(atan2($u, 1.3 - $v) * 46 + 5 * $this->at($patches, 4, $u, $v)) + 0.16 * ($this->at($flecks, 12, $u, $v * 0.35) - 0.5);
                $red = $blush + 0.45 * ($u * $sun) + 0.55 * ($this->at($patches, 4, $u, $v) - 0.5) + $streak * ($blush > 0.2 ? 1 : 0.2);
                $red = max(0.0, min(1.0, ($red - 0.2) / 0.5));
                $fleck = $this->at($flecks, 12, $u * 2.3, $v * 2.3) > 0.88 ? 22 : 0;
                $shade = 0.30 + 0.80 * $light - 0.18 * max(0.0, $v) * (1 - $z);
                $gloss = 105 * max(0.0, -0.40 * $u - 0.52 * $v + 0.76 * $z) ** 34;
                $dip = exp(-(($u * $u) / 0.022 + (($v + 0.80) ** 2) / 0.016));
                $shade *= 1 - 0.75 * $dip;
                $pixels .= chr(self::byte((142 + 46 * $red + $fleck) * $shade + $gloss))
                    .chr(self::byte((158 - 124 * $red + $fleck) * $shade + $gloss))
                    .chr(self::byte((58 - 18 * $red + $fleck * 0.6) * $shade + $gloss))
                    .chr(self::byte(255 * min(1.0, (1.0 - $r) * $n / 5)));
            }
        }

        return $this->image($pixels, $n);
    }

    private function leaf(bool $sick): Imagick
    {
        $n = self::LEAF;
        $bend = $this->chance->between(-0.18, 0.18);
        $width = $this->chance->between(0.34, 0.48);
        $noise = $this->noise(10);
        $green = $this->chance->between(0.82, 1.12);
        $half = $this->chance->between(-1, 1);
        $spots = [];
        for ($k = $sick ? $this->chance->int(4, 7) : 0; $k > 0; $k--) {
            $spots[] = [$this->chance->between(-0.6, 0.6), $this->chance->between(-0.22, 0.22), $this->chance->between(0.07, 0.14)];
        }
        $pixels = '';
        for ($j = 0; $j < $n; $j++) {
            for ($i = 0; $i < $n; $i++) {
                $x = ($i + 0.5) / $n * 2 - 1;
                $y = (($j + 0.5) / $n * 2 - 1) - $bend * (1 - $x * $x);
                $w = $width * max(0.0, 1 - $x * $x) ** 0.72 * (1 + 0.16 * $x) * (1 + 0.035 * sin($x * 70));
                if (abs($y) > $w) {
                    $pixels .= "\0\0\0\0";

                    continue;
                }
                $t = $y / max(1e-6, $w);
                $shade = 0.78 + 0.26 * $t * $half + 0.22 * ($this->at($noise, 10, $x, $y) - 0.5) - 0.10 * abs($t) ** 3;
                $vein = abs($y) < 0.018 ? 0.30 : 0.09 * max(0.0, sin($x * 24 - abs($t) * 7)) ** 8;
                $r = (92 + 70 * $vein) * $green;
                $g = (138 + 60 * $vein) * $green;
                $b = 56 + 40 * $vein;
                foreach ($spots as [$sx, $sy, $sr]) {
                    $d = sqrt(($x - $sx) ** 2 + ($y - $sy) ** 2) / $sr + 0.5 * ($this->at($noise, 10, $x * 2, $y * 2) - 0.5);
                    if ($d < 1) {
                        $k = min(1.0, (1 - $d) * 3);
                        [$r, $g, $b] = [$r + (74 - $r) * $k, $g + (62 - $g) * $k, $b + (34 - $b) * $k];
                    }
                }
                $pixels .= chr(self::byte($r * $shade)).chr(self::byte($g * $shade)).chr(self::byte($b * $shade)).chr(self::byte(255 * min(1.0, ($w - abs($y)) * $n / 3)));
            }
        }

        return $this->image($pixels, $n);
    }

    /** A dark disc that fades out towards its edge. */
    private function softDisc(): Imagick
    {
        $n = 64;
        $pixels = '';
        for ($j = 0; $j < $n; $j++) {
            for ($i = 0; $i < $n; $i++) {
                $r = hypot($i + 0.5 - $n / 2, $j + 0.5 - $n / 2) / ($n / 2);
                $fade = max(0.0, min(1.0, (1 - $r) / 0.5));
                $pixels .= "\x0e\x16\x08".chr(self::byte(110 * $fade * $fade * (3 - 2 * $fade)));
            }
        }

        return $this->image($pixels, $n);
    }

    /** @return list<float> values of a grid of (n+1)² points */
    private function noise(int $n): array
    {
        $grid = [];
        for ($i = 0; $i < ($n + 1) ** 2; $i++) {
            $grid[] = $this->chance->between(0, 1);
        }

        return $grid;
    }

    /**
     * Smooth noise at a place of [-1,1]², repeating outside.
     *
     * @param  list<float>  $grid
     */
    private function at(array $grid, int $n, float $x, float $y): float
    {
        $x = fmod(($x + 9) * 0.5, 1.0) * $n;
        $y = fmod(($y + 9) * 0.5, 1.0) * $n;
        [$i, $j] = [(int) $x, (int) $y];
        [$fx, $fy] = [$x - $i, $y - $j];
        $fx = $fx * $fx * (3 - 2 * $fx);
        $fy = $fy * $fy * (3 - 2 * $fy);
        $w = $n + 1;
        $top = $grid[$j * $w + $i] * (1 - $fx) + $grid[$j * $w + $i + 1] * $fx;
        $bottom = $grid[($j + 1) * $w + $i] * (1 - $fx) + $grid[($j + 1) * $w + $i + 1] * $fx;

        return $top * (1 - $fy) + $bottom * $fy;
    }

    private function image(string $rgba, int $n): Imagick
    {
        $image = new Imagick;
        $image->setSize($n, $n);
        $image->setOption('depth', '8');
        $image->setFormat('rgba');
        $image->setOption('size', "{$n}x{$n}");
        $image->readImageBlob($rgba);
        $image->setImageFormat('png');

        return $image;
    }

    private static function byte(float $value): int
    {
        return max(0, min(255, (int) $value));
    }

    /**
     * @template T
     *
     * @param  list<T>  $list
     * @return non-empty-list<T>
     */
    private static function some(array $list): array
    {
        assert($list !== []);

        return $list;
    }
}
