<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Imagick;
use ImagickDraw;
use Skeno\Core\Geometry\Pose;

/** The demo project "Trap cards": sticky cards with moths at any angle, some on top of each other, drawn with the truth about their nodes. */
final class TrapCards
{
    public const WIDTH = 1280;

    public const HEIGHT = 960;

    /** @return list<array{path: string, seed: string}> */
    public static function plan(int $cards): array
    {
        $plan = [];
        for ($i = 1; $i <= $cards; $i++) {
            $week = 1 + intdiv(($i - 1) * 3, max(1, $cards));
            $plan[] = ['path' => sprintf('week %d/card-%03d.jpg', $week, $i * 3 + 200), 'seed' => "trap/{$i}"];
        }

        return $plan;
    }

    /** @return array{0: Imagick, 1: list<Pose>} */
    public static function picture(Chance $chance): array
    {
        $image = self::card($chance);
        $moths = [];
        for ($i = $chance->int(4, 11); $i > 0; $i--) {
            $near = $moths !== [] && $chance->yes(0.22) ? $moths[count($moths) - 1] : null;
            $size = $chance->between(115, 215);
            $x = $near === null ? $chance->between(80, self::WIDTH - 80) : $near['x'] + $chance->normal(45);
            $y = $near === null ? $chance->between(80, self::HEIGHT - 80) : $near['y'] + $chance->normal(45);
            $moth = self::moth($x, $y, $size, $chance->between(0, 360), $chance);
            self::draw($image, $moth, $chance);
            $moths[] = $moth;
        }
        self::finish($image, $chance);

        return [$image, self::poses($moths)];
    }

    private static function card(Chance $chance): Imagick
    {
        $image = new Imagick;
        $image->newPseudoImage(self::WIDTH, self::HEIGHT, $chance->yes(0.5) ? 'gradient:#eddf9a-#d9c879' : 'gradient:#e6d88f-#e2d084');
        $draw = new ImagickDraw;
        $draw->setStrokeColor('rgba(120,108,52,0.34)');
        $draw->setStrokeWidth(1.4);
        for ($x = 64; $x < self::WIDTH; $x += 128) {
            $draw->line($x, 0, $x + 3, self::HEIGHT);
        }
        for ($y = 96; $y < self::HEIGHT; $y += 128) {
            $draw->line(0, $y, self::WIDTH, $y - 2);
        }
        $draw->setStrokeColor('none');
        // glue: pale smears, dust, and the small flies every card is full of
        for ($i = 0; $i < 60; $i++) {
            $draw->setFillColor(sprintf('rgba(255,250,214,%.2f)', $chance->between(0.04, 0.16)));
            $draw->ellipse($chance->between(0, self::WIDTH), $chance->between(0, self::HEIGHT), $chance->between(20, 130), $chance->between(10, 60), 0, 360);
        }
        for ($i = 0; $i < 240; $i++) {
            $draw->setFillColor(sprintf('rgba(66,54,30,%.2f)', $chance->between(0.25, 0.8)));
            $r = $chance->between(0.8, 3.4);
            $draw->ellipse($chance->between(0, self::WIDTH), $chance->between(0, self::HEIGHT), $r, $r * $chance->between(0.5, 1), 0, 360);
        }
        $image->drawImage($draw);

        return $image;
    }

    /** @return array{x: float, y: float, size: float, angle: float, nodes: array<string, array{float, float}>} nodes in the moth's own frame, px */
    private static function moth(float $x, float $y, float $size, float $angle, Chance $chance): array
    {
        // wings lie more or less open, and not quite alike
        $open = $chance->between(0.72, 1.04);
        $wing = static fn (): float => $open * $chance->between(0.93, 1.05);
        $nodes = [
            'head' => [0.0, -0.45], 'tail' => [$chance->normal(0.02), 0.45],
            'fore_l' => [-0.48 * $wing(), -0.2 + $chance->normal(0.03)], 'fore_r' => [0.48 * $wing(), -0.2 + $chance->normal(0.03)],
            'hind_l' => [-0.35 * $wing(), 0.25 + $chance->normal(0.02)], 'hind_r' => [0.35 * $wing(), 0.25 + $chance->normal(0.02)],
        ];

        return ['x' => $x, 'y' => $y, 'size' => $size, 'angle' => $angle, 'nodes' => array_map(static fn (array $n): array => [$n[0] * $size, $n[1] * $size], $nodes)];
    }

    /** @param  array{x: float, y: float, size: float, angle: float, nodes: array<string, array{float, float}>}  $moth */
    private static function draw(Imagick $image, array $moth, Chance $chance): void
    {
        $s = $moth['size'];
        $reach = (int) ($s * 1.3);
        $layer = new Imagick;
        $layer->newImage(2 * $reach, 2 * $reach, 'transparent', 'png');
        $tone = $chance->int(-16, 18);
        $rgb = static fn (int $r, int $g, int $b, float $alpha = 1.0): string => sprintf('rgba(%d,%d,%d,%.2f)', max(0, $r + $tone), max(0, $g + $tone), max(0, $b + $tone), $alpha);
        $draw = new ImagickDraw;
        $draw->translate($reach, $reach);
        $draw->rotate($moth['angle']);
        foreach (['l' => -1, 'r' => 1] as $side => $sign) {
            [$hx, $hy] = $moth['nodes']["hind_{$side}"];
            [$fx, $fy] = $moth['nodes']["fore_{$side}"];
            $draw->setStrokeColor($rgb(70, 56, 44));
            $draw->setStrokeWidth(1.2);
            $draw->setFillColor($rgb(150, 132, 112));
            self::wing($draw, [[$sign * 0.03 * $s, 0.0], [$hx * 0.96, $hy - 0.17 * $s], [$hx, $hy], [$hx * 0.4, $hy + 0.02 * $s], [$sign * 0.03 * $s, 0.2 * $s]]);
            $draw->setFillColor($rgb(118, 98, 78));
            self::wing($draw, [[$sign * 0.03 * $s, -0.3 * $s], [$fx * 0.7, $fy - 0.07 * $s], [$fx, $fy], [$fx * 0.84, $fy + 0.22 * $s], [$sign * 0.03 * $s, 0.06 * $s]]);
            // bands and an eye spot on the fore wing
            $draw->setFillColor('none');
            $draw->setStrokeColor($rgb(196, 178, 150, 0.75));
            $draw->setStrokeWidth(2.2);
            $draw->polyline([['x' => $fx * 0.78, 'y' => $fy - 0.03 * $s], ['x' => $fx * 0.7, 'y' => $fy + 0.08 * $s], ['x' => $fx * 0.72, 'y' => $fy + 0.2 * $s]]);
            $draw->setStrokeColor($rgb(52, 40, 30, 0.8));
            $draw->polyline([['x' => $fx * 0.5, 'y' => $fy - 0.01 * $s], ['x' => $fx * 0.44, 'y' => $fy + 0.1 * $s], ['x' => $fx * 0.47, 'y' => $fy + 0.22 * $s]]);
            $draw->setStrokeColor('none');
            $draw->setFillColor($rgb(44, 34, 26, 0.85));
            $draw->ellipse($fx * 0.62, $fy + 0.07 * $s, 0.022 * $s, 0.022 * $s, 0, 360);
            $draw->setFillColor('none');
            $draw->setStrokeColor($rgb(60, 48, 38));
            $draw->setStrokeWidth(1.1);
            $draw->line($sign * 0.015 * $s, -0.45 * $s, $sign * 0.13 * $s, -0.6 * $s);
        }
        $draw->setStrokeColor('none');
        [$tx, $ty] = $moth['nodes']['tail'];
        $draw->setFillColor($rgb(96, 78, 60));
        $draw->ellipse($tx / 2, $ty / 2 - 0.02 * $s, 0.058 * $s, $ty * 0.55, 0, 360);
        $draw->setFillColor($rgb(126, 106, 84));
        $draw->ellipse(0, -0.24 * $s, 0.075 * $s, 0.13 * $s, 0, 360);
        $draw->setFillColor($rgb(84, 68, 54));
        $draw->ellipse(0, -0.41 * $s, 0.048 * $s, 0.05 * $s, 0, 360);
        $layer->drawImage($draw);
        // the shadow is blurred at a quarter of the size, since it is soft anyway
        $shadow = clone $layer;
        $shadow->setImageAlphaChannel(Imagick::ALPHACHANNEL_EXTRACT);
        $shadow->resizeImage(intdiv($reach, 2), intdiv($reach, 2), Imagick::FILTER_BOX, 1);
        $shadow->blurImage(0, 1);
        $shadow->resizeImage(2 * $reach, 2 * $reach, Imagick::FILTER_TRIANGLE, 1);
        $shade = new Imagick;
        $shade->newImage(2 * $reach, 2 * $reach, 'rgb(92,78,36)', 'png');
        $shade->compositeImage($shadow, Imagick::COMPOSITE_COPYOPACITY, 0, 0);
        $image->compositeImage($shade, Imagick::COMPOSITE_OVER, (int) $moth['x'] - $reach + 4, (int) $moth['y'] - $reach + 6);
        $image->compositeImage($layer, Imagick::COMPOSITE_OVER, (int) $moth['x'] - $reach, (int) $moth['y'] - $reach);
    }

    /** @param  list<array{float, float}>  $points  rounded by curves through the middles of its sides */
    private static function wing(ImagickDraw $draw, array $points): void
    {
        $n = count($points);
        $middle = static fn (int $i): array => [($points[$i % $n][0] + $points[($i + 1) % $n][0]) / 2, ($points[$i % $n][1] + $points[($i + 1) % $n][1]) / 2];
        $draw->pathStart();
        // the tip keeps its point: it is a node
        $draw->pathMoveToAbsolute($points[0][0], $points[0][1]);
        $draw->pathCurveToQuadraticBezierAbsolute($points[1][0], $points[1][1], ...$middle(1));
        $draw->pathLineToAbsolute($points[2][0], $points[2][1]);
        $draw->pathCurveToQuadraticBezierAbsolute($points[3][0], $points[3][1], ...$middle(3));
        $draw->pathLineToAbsolute($points[4][0], $points[4][1]);
        $draw->pathClose();
        $draw->pathFinish();
    }

    private static function finish(Imagick $image, Chance $chance): void
    {
        $glow = new Imagick;
        $glow->newPseudoImage(64, 48, 'radial-gradient:rgba(255,255,240,0.16)-rgba(60,50,16,0.30)');
        $glow->resizeImage((int) (self::WIDTH * 1.3), (int) (self::HEIGHT * 1.3), Imagick::FILTER_TRIANGLE, 1);
        $image->compositeImage($glow, Imagick::COMPOSITE_OVER, -(int) $chance->between(0, self::WIDTH * 0.3), -(int) $chance->between(0, self::HEIGHT * 0.3));
        $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
        $image->blurImage(0, $chance->between(0.5, 0.9));
        $image->setImageFormat('jpeg');
        $image->setImageCompressionQuality(88);
        $image->stripImage();
    }

    /**
     * @param  list<array{x: float, y: float, size: float, angle: float, nodes: array<string, array{float, float}>}>  $moths  lowest first
     * @return list<Pose> nodes under a later moth are hidden, nodes off the card absent
     */
    private static function poses(array $moths): array
    {
        $poses = [];
        foreach ($moths as $i => $moth) {
            $nodes = [];
            [$cos, $sin] = [cos(deg2rad($moth['angle'])), sin(deg2rad($moth['angle']))];
            foreach ($moth['nodes'] as $key => [$nx, $ny]) {
                [$x, $y] = [$moth['x'] + $nx * $cos - $ny * $sin, $moth['y'] + $nx * $sin + $ny * $cos];
                if ($x < 0 || $y < 0 || $x > self::WIDTH || $y > self::HEIGHT) {
                    continue;
                }
                $covered = array_filter(array_slice($moths, $i + 1), static fn (array $over): bool => self::covers($over, $x, $y)) !== [];
                $nodes[$key] = ['x' => round($x, 1), 'y' => round($y, 1), 'state' => $covered ? Pose::HIDDEN : Pose::VISIBLE];
            }
            if (count($nodes) >= 3) {
                $poses[] = Pose::of($nodes);
            }
        }

        return $poses;
    }

    /** @param  array{x: float, y: float, size: float, angle: float, nodes: array<string, array{float, float}>}  $moth */
    private static function covers(array $moth, float $x, float $y): bool
    {
        [$cos, $sin] = [cos(deg2rad($moth['angle'])), sin(deg2rad($moth['angle']))];
        [$dx, $dy] = [$x - $moth['x'], $y - $moth['y']];
        [$u, $v] = [($dx * $cos + $dy * $sin) / $moth['size'], ($dy * $cos - $dx * $sin) / $moth['size']];

        // wings and body, taken together as two ellipses
        return ($u / 0.4) ** 2 + (($v + 0.08) / 0.2) ** 2 <= 1 || ($u / 0.09) ** 2 + ($v / 0.45) ** 2 <= 1;
    }

    /**
     * The work done so far: the first two weeks are labelled, the first reviewed.
     *
     * @param  array<string, list<Pose>>  $truth  by path
     * @return list<array<string, mixed>> as Season::work
     */
    public static function work(array $truth): array
    {
        $chance = new Chance('trap season');
        $people = Labeller::cases();
        $work = [];
        $begun = array_values(array_filter(array_keys($truth), static fn (string $path): bool => ! str_starts_with($path, 'week 3')));
        foreach ($begun as $i => $path) {
            $person = $people[$i % 3];
            $marks = array_map(static fn (Pose $pose): array => ['class' => 'moth', 'kind' => 'skeleton', 'geometry' => self::placed($pose, $person, $chance)->toArray(), 'answers' => []], $truth[$path]);
            $entry = ['path' => $path, 'labeller' => $person->value, 'days_ago' => 4 - intdiv($i, 6), 'seconds' => 30 + count($marks) * $chance->int(8, 16), 'marks' => $marks, 'said' => ['answers' => ['usable' => ['value' => true]]]];
            $work[] = $entry + (str_starts_with($path, 'week 1') ? ['decision' => 'accept'] : []);
        }

        return $work;
    }

    /** As a hand places it: Mei to a pixel, Ravi less so, Aoife a little off to the right. */
    private static function placed(Pose $pose, Labeller $person, Chance $chance): Pose
    {
        [$shake, $drift] = match ($person) {
            Labeller::Mei => [0.8, 0.0],
            Labeller::Ravi => [2.4, 0.0],
            Labeller::Aoife => [1.2, 3.0],
        };

        return Pose::of(array_map(static fn (array $node): array => [
            'x' => round(max(0.0, min((float) self::WIDTH, $node['x'] + $drift + $chance->normal($shake))), 1),
            'y' => round(max(0.0, min((float) self::HEIGHT, $node['y'] + $chance->normal($shake))), 1),
            'state' => $node['state'],
        ], $pose->nodes));
    }
}
