<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Imagick;
use ImagickDraw;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Raster\Mask;

/**
 * Draws one picture of a tree with fruit and knows the truth about it. Painted from far to near: haze and blurred foliage, a row of
 * leaves out of focus, branches, apples and leaves in focus, and now and then a large leaf close to the lens.
 */
final class Orchard
{
    public const WIDTH = 1280;

    public const HEIGHT = 960;

    /** Size of a cell of the grid that knows what shows where, in px. */
    private const CELL = 2;

    /** @var array<int, int> number of the thing that shows, by cell; 0: a leaf in front */
    private array $front = [];

    public function __construct(private readonly Sprites $sprites)
    {
    }

    /** @return array{0: Imagick, 1: list<Fruit>} */
    public function picture(Block $block, Chance $chance): array
    {
        $light = $block->light();
        $this->front = [];
        $image = $this->background($block, $light, $chance);
        $this->foliage($image, $chance, 64, 70, 140, 0.62, $light['warm'], 7);
        $this->foliage($image, $chance, 56, 60, 105, 0.80, $light['warm'], 2.2);
        $blurred = $this->farApples($image, $chance);
        $branches = $this->branches($image, $chance);
        [$things, $scabs] = $this->crown($image, $chance, $block, $light['warm']);
        if ($chance->yes(0.5)) {
            $this->nearLeaves($image, $chance, $light['warm']);
        }
        $this->develop($image, $light, $chance, $block);

        return [$image, $this->truth($things, $scabs, $blurred, $branches)];
    }

    /** @param  array{top: string, bottom: string, brightness: float, saturation: float, warm: float, contrast: float}  $light */
    private function background(Block $block, array $light, Chance $chance): Imagick
    {
        $image = new Imagick;
        $image->newPseudoImage(160, 120, "gradient:{$light['top']}-{$light['bottom']}");
        $draw = new ImagickDraw;
        if ($block === Block::OldWall) {
            for ($row = 0; $row < 24; $row++) {
                for ($column = -1; $column < 12; $column++) {
                    $tone = $chance->int(-14, 14);
                    $draw->setFillColor(sprintf('rgb(%d,%d,%d)', 158 + $tone, 104 + $tone, 78 + $tone));
                    $x = $column * 15 + ($row % 2) * 7;
                    $draw->rectangle($x, $row * 5, $x + 13.6, $row * 5 + 4.1);
                }
            }
        }
        for ($i = 0; $i < 70; $i++) {
            // patches of light between far leaves
            $bright = $chance->yes(0.4);
            $draw->setFillColor($bright ? sprintf('rgba(250,245,215,%.2f)', $chance->between(0.10, 0.30)) : sprintf('rgba(40,62,26,%.2f)', $chance->between(0.15, 0.5)));
            $r = $chance->between(3, 13);
            [$x, $y] = [$chance->between(0, 160), $chance->between(0, 130)];
            $draw->ellipse($x, $y, $r, $r * 0.9, 0, 360);
        }
        $image->drawImage($draw);
        $image->gaussianBlurImage(0, 2.4);
        $image->resizeImage(self::WIDTH, self::HEIGHT, Imagick::FILTER_CUBIC, 1);
        $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_OPAQUE);

        return $image;
    }

    private function foliage(Imagick $image, Chance $chance, int $count, float $small, float $large, float $light, float $warm, float $blur): void
    {
        // painted at half size, since it is blurred anyway
        $layer = new Imagick;
        $layer->newImage(self::WIDTH / 2, self::HEIGHT / 2, 'transparent', 'png');
        [$cx, $cy] = [$chance->between(150, 490), $chance->between(120, 360)];
        for ($i = 0; $i < $count; $i++) {
            $leaf = $this->sprites->takeLeaf($chance->between($small, $large) * 0.8, $chance->between(0, 360), false, $light * $chance->between(0.75, 1.15), $warm);
            $x = $cx + $chance->normal(210);
            $y = $cy + $chance->normal(150);
            $layer->compositeImage($leaf, Imagick::COMPOSITE_OVER, (int) $x - 40, (int) $y - 40);
        }
        $layer->blurImage(0, $blur / 2);
        $layer->resizeImage(self::WIDTH, self::HEIGHT, Imagick::FILTER_TRIANGLE, 1);
        $image->compositeImage($layer, Imagick::COMPOSITE_OVER, 0, 0);
    }

    /** @return list<Box> apples so far out of focus that nobody can tell what they are */
    private function farApples(Imagick $image, Chance $chance): array
    {
        $boxes = [];
        for ($i = $chance->int(0, 3); $i > 0; $i--) {
            $size = $chance->between(44, 66);
            [$x, $y] = [$chance->between(40, self::WIDTH - 120), $chance->between(40, self::HEIGHT - 120)];
            $apple = new Imagick;
            $apple->newImage((int) $size + 50, (int) $size + 50, 'transparent', 'png');
            $apple->compositeImage($this->sprites->takeApple($chance->one(['ripe', 'turning', 'green']), $size, 0), Imagick::COMPOSITE_OVER, 25, 25);
            $apple->modulateImage(80, 75, 100);
            $apple->blurImage(0, 6.5);
            $image->compositeImage($apple, Imagick::COMPOSITE_OVER, (int) $x - 25, (int) $y - 25);
            $boxes[] = Box::of(round($x) - 4, round($y) - 4, round($size) + 8, round($size) + 8);
        }

        return $boxes;
    }

    /** @return list<Polyline> the middle lines of the branches, as far as they lie on the picture */
    private function branches(Imagick $image, Chance $chance): array
    {
        $lines = [];
        for ($k = $chance->int(2, 3); $k > 0; $k--) {
            $points = [];
            $x = -60.0;
            $y = $chance->between(250, 950);
            $angle = $chance->between(-0.7, 0.2);
            for ($s = 0; $s < 26; $s++) {
                $points[] = ['x' => $x, 'y' => $y];
                $angle += $chance->normal(0.09);
                $x += 62 * cos($angle);
                $y += 62 * sin($angle);
            }
            $inside = [];
            foreach ($points as $point) {
                if ($point['x'] >= 0 && $point['x'] <= self::WIDTH && $point['y'] >= 0 && $point['y'] <= self::HEIGHT) {
                    array_push($inside, round($point['x'], 1), round($point['y'], 1));
                }
            }
            if (count($inside) >= 6) {
                $lines[] = Polyline::of($inside);
            }
            $width = $chance->between(13, 26);
            // a cylinder by strokes that grow thinner and lighter towards the light
            foreach ([[1.0, '#2e241b', 0.0], [0.76, '#513f2f', -0.07], [0.46, '#705b47', -0.15], [0.18, '#98846b', -0.23]] as [$share, $color, $shift]) {
                $draw = new ImagickDraw;
                $draw->setFillColor('none');
                $draw->setStrokeColor($color);
                $draw->setStrokeWidth($width * $share);
                $draw->setStrokeLineCap(Imagick::LINECAP_ROUND);
                $draw->setStrokeLineJoin(Imagick::LINEJOIN_ROUND);
                $draw->polyline(array_map(static fn (array $point): array => ['x' => $point['x'], 'y' => $point['y'] + $width * $shift], $points));
                $image->drawImage($draw);
            }
        }

        return $lines;
    }

    /**
     * Apples and leaves in focus, in an order that lets leaves hang over apples and apples over each other.
     *
     * @return array{0: array<int, array{cells: int, answers: array<string, array<string, mixed>>, blurred: bool}>, 1: list<Polygon>}
     */
    private function crown(Imagick $image, Chance $chance, Block $block, float $warm): array
    {
        $things = $scabs = [];
        $apples = $block === Block::Nursery ? $chance->int(2, 6) : $chance->int(5, 13);
        if ($chance->yes(0.06)) {
            $apples = 0;
        }
        $places = [];
        for ($tries = 0; count($places) < $apples && $tries < 400; $tries++) {
            [$x, $y] = [$chance->between(90, self::WIDTH - 90), $chance->between(90, self::HEIGHT - 90)];
            foreach ($places as [$px, $py]) {
                if (hypot($x - $px, $y - $py) < 88) {
                    continue 2;
                }
            }
            $places[] = [$x, $y];
        }
        $jobs = array_map(static fn (array $place): array => ['apple', ...$place], $places);
        for ($i = 0; $i < 140; $i++) {
            // leaves hang in clusters, some of them round the fruit
            [$ax, $ay] = $places !== [] && $chance->yes(0.5) ? $chance->one($places) : [$chance->between(0, self::WIDTH), $chance->between(0, self::HEIGHT)];
            $jobs[] = ['leaf', $ax + $chance->normal(95), $ay - 25 + $chance->normal(85)];
        }
        $order = [];
        foreach ($jobs as $i => $job) {
            $order[$i] = $chance->between(0, 1) + ($job[0] === 'apple' ? 0.12 : 0);
        }
        asort($order);
        foreach (array_keys($order) as $i) {
            [$kind, $x, $y] = $jobs[$i];
            if ($kind === 'leaf') {
                $sick = $chance->yes(0.035);
                $size = $sick ? $chance->between(120, 150) : $chance->between(62, 112);
                $tilt = $chance->between(0, 360);
                $this->shadow($image, $x + 5, $y + 9, $size * 0.42, $size * 0.22, $tilt);
                $leaf = $this->sprites->takeLeaf($size, $tilt, $sick, $chance->between(0.78, 1.2), $warm);
                $image->compositeImage($leaf, Imagick::COMPOSITE_OVER, (int) ($x - $leaf->getImageWidth() / 2), (int) ($y - $leaf->getImageHeight() / 2));
                $this->cover($x, $y, $size * 0.5, $size * 0.19, deg2rad($tilt), 0);
                if ($sick && $x > 60 && $y > 60 && $x < self::WIDTH - 60 && $y < self::HEIGHT - 60) {
                    $scabs[] = $this->spots($x, $y, $size, deg2rad($tilt));
                }
            } else {
                $ripeness = $chance->one($block === Block::NorthTerrace ? ['green', 'turning', 'turning', 'ripe'] : ['green', 'turning', 'ripe', 'ripe']);
                $size = $chance->between(78, 118);
                $this->shadow($image, $x + 8, $y + 14, $size * 0.46, $size * 0.44, 0);
                $apple = $this->sprites->takeApple($ripeness, $size, $chance->between(-24, 24));
                $damage = $this->hurt($apple, $chance);
                $image->compositeImage($apple, Imagick::COMPOSITE_OVER, (int) ($x - $apple->getImageWidth() / 2), (int) ($y - $apple->getImageHeight() / 2));
                $number = count($things) + 1;
                $things[$number] = ['cells' => $this->cover($x, $y, $size * 0.462, $size * 0.445, 0, $number), 'answers' => ['ripeness' => ['value' => $ripeness]] + $damage, 'blurred' => false];
            }
        }

        return [$things, $scabs];
    }

    /** The outline round the spots of a sick leaf, as a hand would draw it: a dozen points, none quite regular. */
    private function spots(float $x, float $y, float $size, float $tilt): Polygon
    {
        $ring = [];
        for ($i = 0; $i < 12; $i++) {
            $a = 2 * M_PI * $i / 12;
            // from the place only, so that the pictures stay what they were
            $wave = 1 + 0.09 * sin(3 * $a + $x) + 0.06 * cos(5 * $a + $y);
            [$u, $v] = [cos($a) * $size * 0.33 * $wave, sin($a) * $size * 0.15 * $wave];
            array_push($ring, round($x + $u * cos($tilt) - $v * sin($tilt), 1), round($y + $u * sin($tilt) + $v * cos($tilt), 1));
        }

        return Polygon::of([$ring]);
    }

    /**
     * Now and then a bird's peck or a crack.
     *
     * @return array<string, array<string, mixed>> the true answers
     */
    private function hurt(Imagick $apple, Chance $chance): array
    {
        $size = $apple->getImageWidth();
        $draw = new ImagickDraw;
        if ($chance->yes(0.10)) {
            $draw->setFillColor('rgba(70,44,22,0.9)');
            $draw->ellipse($size * 0.56, $size * 0.52, $size * 0.07, $size * 0.055, 0, 360);
            $draw->setFillColor('rgba(196,160,104,0.95)');
            $draw->ellipse($size * 0.57, $size * 0.53, $size * 0.045, $size * 0.033, 0, 360);
            $apple->drawImage($draw);

            return ['damage' => ['value' => ['bird']]];
        }
        if ($chance->yes(0.08)) {
            $draw->setFillColor('none');
            $draw->setStrokeColor('rgba(60,34,20,0.85)');
            $draw->setStrokeWidth(2.4);
            $draw->polyline([['x' => $size * 0.34, 'y' => $size * 0.44], ['x' => $size * 0.45, 'y' => $size * 0.53], ['x' => $size * 0.53, 'y' => $size * 0.52], ['x' => $size * 0.63, 'y' => $size * 0.61]]);
            $apple->drawImage($draw);

            return ['damage' => ['value' => ['crack']], 'crack_length' => ['value' => $chance->int(8, 30)]];
        }

        return ['damage' => ['no_value' => 'none']];
    }

    private function shadow(Imagick $image, float $x, float $y, float $rx, float $ry, float $tilt): void
    {
        $shadow = $this->sprites->takeShadow($rx, $ry, $tilt);
        $image->compositeImage($shadow, Imagick::COMPOSITE_OVER, (int) ($x - $shadow->getImageWidth() / 2), (int) ($y - $shadow->getImageHeight() / 2));
    }

    private function nearLeaves(Imagick $image, Chance $chance, float $warm): void
    {
        for ($i = $chance->int(1, 3); $i > 0; $i--) {
            $size = $chance->between(260, 380);
            $left = $chance->yes(0.5);
            [$x, $y] = [$left ? $chance->between(-40, 120) : $chance->between(self::WIDTH - 120, self::WIDTH + 40), $chance->between(0, self::HEIGHT)];
            $tilt = $chance->between(0, 360);
            $leaf = $this->sprites->takeLeaf($size, $tilt, false, 0.72, $warm);
            $leaf->blurImage(0, 8);
            $image->compositeImage($leaf, Imagick::COMPOSITE_OVER, (int) ($x - $leaf->getImageWidth() / 2), (int) ($y - $leaf->getImageHeight() / 2));
            $this->cover($x, $y, $size * 0.48, $size * 0.19, deg2rad($tilt), 0);
        }
    }

    /** @param  array{top: string, bottom: string, brightness: float, saturation: float, warm: float, contrast: float}  $light */
    private function develop(Imagick $image, array $light, Chance $chance, Block $block): void
    {
        $image->modulateImage($light['brightness'] * $chance->between(0.94, 1.05), $light['saturation'], 100);
        $image->sigmoidalContrastImage(true, $light['contrast'], 0.46 * Imagick::getQuantum());
        $glow = new Imagick;
        $low = $block === Block::Slope;
        $glow->newPseudoImage(64, 48, $low ? 'radial-gradient:rgba(255,224,160,0.55)-rgba(40,30,10,0.35)' : 'radial-gradient:rgba(255,255,245,0.10)-rgba(8,14,10,0.40)');
        $glow->resizeImage((int) (self::WIDTH * 1.25), (int) (self::HEIGHT * 1.25), Imagick::FILTER_TRIANGLE, 1);
        $image->compositeImage($glow, $low ? Imagick::COMPOSITE_SOFTLIGHT : Imagick::COMPOSITE_OVER, $low ? -(int) (self::WIDTH * 0.25) : -(int) (self::WIDTH * 0.125), $low ? -(int) (self::HEIGHT * 0.25) : -(int) (self::HEIGHT * 0.125));
        $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
        // the grain of a small camera: one tile of noise laid over the whole
        $grain = new Imagick;
        $grain->newImage(256, 256, 'rgb(128,128,128)');
        $grain->addNoiseImage(Imagick::NOISE_GAUSSIAN);
        $grain->setImageType(Imagick::IMGTYPE_GRAYSCALE);
        $grain->setImageFormat('png');
        $tiles = $image->textureImage($grain);
        $blend = clone $image;
        $blend->compositeImage($tiles, Imagick::COMPOSITE_SOFTLIGHT, 0, 0);
        $image->blurImage(0, 0.55);
        $blend->setImageAlphaChannel(Imagick::ALPHACHANNEL_OPAQUE);
        $blend->evaluateImage(Imagick::EVALUATE_MULTIPLY, 0.22, Imagick::CHANNEL_ALPHA);
        $image->compositeImage($blend, Imagick::COMPOSITE_OVER, 0, 0);
        $image->setImageFormat('jpeg');
        $image->setImageCompressionQuality(87);
        $image->stripImage();
    }

    /** Marks the cells of a turned ellipse as belonging to a thing; returns how many of them lie on the picture. */
    private function cover(float $x, float $y, float $rx, float $ry, float $tilt, int $number): int
    {
        $reach = max($rx, $ry);
        [$cos, $sin] = [cos($tilt), sin($tilt)];
        $columns = intdiv(self::WIDTH, self::CELL);
        $count = 0;
        for ($j = max(0, (int) (($y - $reach) / self::CELL)); $j <= min(intdiv(self::HEIGHT, self::CELL) - 1, (int) (($y + $reach) / self::CELL)); $j++) {
            for ($i = max(0, (int) (($x - $reach) / self::CELL)); $i <= min($columns - 1, (int) (($x + $reach) / self::CELL)); $i++) {
                $dx = ($i + 0.5) * self::CELL - $x;
                $dy = ($j + 0.5) * self::CELL - $y;
                if ((($dx * $cos + $dy * $sin) / $rx) ** 2 + (($dy * $cos - $dx * $sin) / $ry) ** 2 <= 1) {
                    $this->front[$j * $columns + $i] = $number;
                    $count++;
                }
            }
        }

        return $count;
    }

    /**
     * @param  array<int, array{cells: int, answers: array<string, array<string, mixed>>, blurred: bool}>  $things
     * @param  list<Polygon>  $scabs
     * @param  list<Box>  $blurred
     * @param  list<Polyline>  $branches
     * @return list<Fruit>
     */
    private function truth(array $things, array $scabs, array $blurred, array $branches): array
    {
        $columns = intdiv(self::WIDTH, self::CELL);
        $bounds = $shows = $cells = [];
        foreach ($this->front as $cell => $number) {
            if ($number > 0) {
                [$i, $j] = [$cell % $columns, intdiv($cell, $columns)];
                $shows[$number] = ($shows[$number] ?? 0) + 1;
                $cells[$number][$i][$j] = true;
                $b = $bounds[$number] ?? [$i, $j, $i, $j];
                $bounds[$number] = [min($b[0], $i), min($b[1], $j), max($b[2], $i), max($b[3], $j)];
            }
        }
        $fruit = [];
        foreach ($things as $number => $thing) {
            $visible = ($shows[$number] ?? 0) / max(1, $thing['cells']);
            if ($visible >= 0.33) {
                $b = $bounds[$number];
                $shaded = 5.0 * round((1 - $visible) * 20);
                $fruit[] = new Fruit('apple', Box::of($b[0] * self::CELL, $b[1] * self::CELL, ($b[2] - $b[0] + 1) * self::CELL, ($b[3] - $b[1] + 1) * self::CELL), $visible, $thing['answers'] + ['shaded' => ['value' => $shaded]], self::pixels($cells[$number] ?? []));
            }
        }
        foreach ($scabs as $outline) {
            $fruit[] = new Fruit('scab', $outline, 1.0, []);
        }
        foreach ($branches as $line) {
            $fruit[] = new Fruit('branch', $line, 1.0, []);
        }
        foreach ($blurred as $box) {
            $inside = $box->clippedTo(self::WIDTH, self::HEIGHT);
            if ($inside !== null) {
                $fruit[] = new Fruit('blurred', $inside, 1.0, []);
            }
        }

        return $fruit;
    }

    /** @param  array<int, array<int, true>>  $cells  by column and row of the grid */
    private static function pixels(array $cells): Mask
    {
        ksort($cells);
        $columns = [];
        foreach ($cells as $i => $rows) {
            ksort($rows);
            $runs = [];
            foreach (array_keys($rows) as $j) {
                if ($runs !== [] && $runs[count($runs) - 1] === $j * self::CELL) {
                    $runs[count($runs) - 1] = ($j + 1) * self::CELL;
                } else {
                    array_push($runs, $j * self::CELL, ($j + 1) * self::CELL);
                }
            }
            for ($x = $i * self::CELL; $x < ($i + 1) * self::CELL; $x++) {
                $columns[$x] = $runs;
            }
        }

        return Mask::ofColumns(self::WIDTH, self::HEIGHT, $columns);
    }
}
