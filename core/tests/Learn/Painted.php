<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Learn;

use Imagick;
use ImagickDraw;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Learn\Example;

/** Pictures painted for the tests of what is learned, with the truth about them. */
final class Painted
{
    public const WIDTH = 320;

    public const HEIGHT = 240;

    /** Nodes of an arrow, and their twins. */
    public const NODES = ['tip', 'end', 'left', 'right'];

    public const FLIP = [0, 1, 3, 2];

    /** px of an arrow pointing right, by node. */
    private const ARROW = ['tip' => [40, 0], 'end' => [-40, 0], 'left' => [8, -26], 'right' => [8, 26]];

    /**
     * Red discs on green leaves, some of which touch; and as many brown ones nobody asks for.
     *
     * @param  'box'|'ellipse'  $as
     */
    public static function discs(int $seed, string $as = 'box', int $count = 4): Example
    {
        $random = new Randomizer(new Mt19937($seed));
        $image = self::ground($random, '#3f6b33', ['#4a7a3a', '#345c2a', '#557f45']);
        $things = $taken = [];
        for ($i = 0; $i < 2 * $count; $i++) {
            $r = $random->getInt(13, 19);
            // every third one touches the one before
            [$x, $y] = $i % 3 === 2 && $taken !== [] ? [$taken[0] + 2 * $r + 1, $taken[1]] : [$random->getInt(22, self::WIDTH - 22), $random->getInt(22, self::HEIGHT - 22)];
            foreach ($things as $thing) {
                $box = $thing->bounds();
                if (hypot($x - $box->x - $box->width / 2, $y - $box->y - $box->height / 2) < $r + $box->width / 2 - 1) {
                    continue 2;
                }
            }
            if ($x + $r > self::WIDTH) {
                continue;
            }
            $draw = new ImagickDraw;
            $draw->setFillColor($i % 4 === 3 ? '#6b5238' : '#b8322a');
            $draw->ellipse($x, $y, $r, $r, 0, 360);
            $image->drawImage($draw);
            $taken = [$x, $y];
            if ($i % 4 !== 3) {
                $things[] = $as === 'box' ? Box::of($x - $r, $y - $r, 2 * $r, 2 * $r) : Ellipse::of($x, $y, $r, $r);
            }
        }

        return self::example($image, array_map(static fn (Box|Ellipse $shape): array => ['class' => 'disc', 'geometry' => $shape], $things));
    }

    /** Arrows in any direction, their heads dark, each of its own size. */
    public static function arrows(int $seed, int $count = 2): Example
    {
        $random = new Randomizer(new Mt19937($seed));
        $image = self::ground($random, '#d8cfa0', ['#cfc590', '#e2d9ae']);
        $things = [];
        for ($i = 0; $i < $count; $i++) {
            $by = $random->getInt(80, 115) / 100;
            $angle = deg2rad($random->getInt(0, 359));
            [$cx, $cy] = [80 + 160 * $i, 120 + $random->getInt(-40, 40)];
            $at = [];
            foreach (self::ARROW as $node => [$x, $y]) {
                $at[$node] = ['x' => $cx + $by * ($x * cos($angle) - $y * sin($angle)), 'y' => $cy + $by * ($x * sin($angle) + $y * cos($angle))];
            }
            $draw = new ImagickDraw;
            $draw->setStrokeColor('#4a3a2a');
            $draw->setStrokeWidth(5);
            $draw->line($at['end']['x'], $at['end']['y'], $at['tip']['x'], $at['tip']['y']);
            $draw->setFillColor('#5e4a36');
            $draw->setStrokeWidth(1);
            $draw->polygon([$at['tip'], $at['left'], $at['right']]);
            $image->drawImage($draw);
            $things[] = ['class' => 'arrow', 'geometry' => Pose::of(array_map(static fn (array $p): array => $p + ['state' => 'visible'], $at))];
        }

        return self::example($image, $things);
    }

    /** @param  list<string>  $spots */
    private static function ground(Randomizer $random, string $colour, array $spots): Imagick
    {
        $image = new Imagick;
        $image->newImage(self::WIDTH, self::HEIGHT, $colour);
        $draw = new ImagickDraw;
        for ($i = 0; $i < 120; $i++) {
            $draw->setFillColor($spots[$i % count($spots)]);
            $draw->ellipse($random->getInt(0, self::WIDTH), $random->getInt(0, self::HEIGHT), $random->getInt(4, 22), $random->getInt(3, 12), 0, 360);
        }
        $image->drawImage($draw);

        return $image;
    }

    /** @param  list<array{class: string, geometry: \Skeno\Core\Geometry\Geometry}>  $things */
    private static function example(Imagick $image, array $things): Example
    {
        $image->blurImage(0, 0.8);
        $colours = Colours::ofImage($image);

        return new Example(static fn (int $x, int $y, int $width, int $height, int $columns, int $rows): Colours => $colours->part($x, $y, $width, $height)->resized($columns, $rows), self::WIDTH, self::HEIGHT, $things);
    }
}
