<?php

declare(strict_types=1);

use Skeno\Core\Follow\Followed;
use Skeno\Core\Follow\Follower;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Tracks\InBetweens;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Thinning;
use Skeno\Core\Tracks\Track;

/** What lies between the keys of tracks. */
return static function (callable $print): void {
    $time = static function (callable $work): float {
        $start = hrtime(true);
        $work();

        return (hrtime(true) - $start) / 1e6;
    };
    $ms = static fn (float $n): string => sprintf($n < 10 ? '%.2f ms' : '%.0f ms', $n);
    $wavy = static function (int $points, float $x, float $turn): array {
        $ring = [];
        for ($i = 0; $i < $points; $i++) {
            $a = 2 * M_PI * $i / $points + $turn;
            $r = 80 + 15 * sin(5 * $a);
            array_push($ring, $x + $r * cos($a), 200 + $r * sin($a));
        }

        return $ring;
    };
    $track = static fn (int $every): Track => Track::of(array_map(static fn (int $i): Key => Key::of($i, Box::of(($i * 7) % 900, 5, 20, 10)), range(0, 1999, $every)), Places::stretch(0, 1999));
    foreach ([20, 2] as $every) {
        $tracks = array_map(static fn (): Track => $track($every), range(1, 200));
        $print("200 tracks of boxes over 2,000 frames, a key every {$every}", $ms($time(static function () use ($tracks): void {
            foreach ($tracks as $one) {
                foreach ($one->shapes(0, 1999) as $shape) {
                    unset($shape);
                }
            }
        })), '<= 1 s');
    }
    [$a, $b] = [Polygon::of([$wavy(100, 200, 0)]), Polygon::of([$wavy(83, 500, 0.4)])];
    $way = InBetweens::of($a, $b);
    $print('two polygons of 100 and 83 points matched; a frame', $ms($time(static fn () => InBetweens::of($a, $b))).'; '.$ms($time(static fn () => $way->at(0.5))), '');
    $disc = static fn (float $x, float $r) => ScanConversion::mask(Ellipse::of($x, 270, $r, $r)->rings(), 960, 540);
    [$a, $b] = [$disc(200, 90), $disc(600, 120)];
    $way = InBetweens::of($a, $b);
    $print('two masks of 25,000 and 45,000 px laid on each other; a frame', $ms($time(static fn () => InBetweens::of($a, $b))).'; '.$ms($time(static fn () => $way->at(0.5))), '');
    $seen = [];
    for ($i = 0; $i < 2000; $i++) {
        $seen[$i] = Box::of(300 + 200 * sin($i / 40) + ($i * 7919 % 13) / 20, 200 + $i / 20, 60 + 10 * sin($i / 90), 40);
    }
    $keys = [];
    $took = $time(static function () use ($seen, &$keys): void {
        $keys = Thinning::places($seen);
    });
    $print('2,000 followed boxes to the keys that are needed', $ms($took).', '.count($keys).' keys', '');
    // an object of 120 × 90 px that moves and grows over a ground of its own, on 960 × 540
    $frames = [];
    for ($k = 0; $k < 40; $k++) {
        [$x, $y, $size] = [100 + 4 * $k, 200 + 60 * sin($k / 8), 1 + 0.004 * $k];
        $bytes = '';
        for ($j = 0; $j < 540; $j++) {
            for ($i = 0; $i < 960; $i++) {
                $inside = $i >= $x && $j >= $y && $i < $x + 120 * $size && $j < $y + 90 * $size;
                [$u, $v] = $inside ? [($i - $x) / $size, ($j - $y) / $size] : [$i + 1000, $j];
                $bytes .= chr((int) (128 + 60 * sin($u / 7 + sin($v / 11)) + 50 * cos($v / 9 + $u / 23)));
            }
        }
        $frames[] = [Plane::of(960, 540, $bytes), Box::of($x, $y, 120 * $size, 90 * $size)];
    }
    $follower = Follower::on(...$frames[0]);
    $found = [];
    $took = $time(static function () use ($follower, $frames, &$found): void {
        foreach (array_slice($frames, 1) as [$plane]) {
            $found[] = $follower->next($plane);
        }
    });
    $iou = array_map(static fn (Followed $one, array $frame): float => $one->box->iou($frame[1]), $found, array_slice($frames, 1));
    $print('an object of 120 x 90 px followed by its looks, 960 x 540', sprintf('%.0f frames/s, IoU %.2f', 1000 * count($found) / $took, array_sum($iou) / count($iou)), '>= 20 frames/s');
};
