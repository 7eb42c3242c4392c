<?php

declare(strict_types=1);

// Clouds: a frame of five million points laid out, cuboids fitted and counted; how well a rough drag does on the demo's row.

use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Fit;
use Skeno\Core\Cloud\Follow;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Making;
use Skeno\Core\Cloud\Near;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Demo\Chance;
use Skeno\Demo\RowScan;

return static function (callable $print, string $folder, array $options): void {
    $random = new Chance('clouds');
    $median = static function (callable $work, int $times = 9): array {
        $all = [];
        for ($i = 0; $i < $times; $i++) {
            $began = hrtime(true);
            $work();
            $all[] = (hrtime(true) - $began) / 1e6;
        }
        sort($all);

        return [$all[intdiv($times, 2)], $all[$times - 1]];
    };

    // a frame as large as any that is taken
    $count = (int) ($options['points'] ?? 5_000_000);
    $out = fopen($file = "{$folder}/large.bin", 'wb') ?: throw new RuntimeException('it could not be written');
    for ($i = 0; $i < $count; $i += 1_000) {
        $some = '';
        for ($k = 0; $k < min(1_000, $count - $i); $k++) {
            $some .= pack('g4', $random->between(-80, 80), $random->between(-80, 80), $random->between(0, 1) ** 6 * 8, $random->between(0, 1));
        }
        fwrite($out, $some);
    }
    fclose($out);
    mkdir($made = "{$folder}/large");
    memory_reset_peak_usage();
    $began = microtime(true);
    (new Making)->make([CloudFile::open($file, 'large.bin', new CloudLimits)], $made);
    $print(number_format($count).' points laid out', sprintf('%.0f s, %.0f MB', microtime(true) - $began, memory_get_peak_usage() / 1e6), '');
    $frame = Frame::open($made, 0);
    [$mid, $most] = $median(static fn () => $frame->over([3, 3, 6, 6]), 3);
    $print('what lies over a part of its ground', sprintf('median %.0f, most %.0f ms', $mid, $most), '');

    // cuboids over a frame of 200,000
    $bytes = '';
    for ($i = 0; $i < 200_000; $i++) {
        $bytes .= pack('g4', $random->between(-40, 40), $random->between(-40, 40), $random->between(0, 3), 0.5);
    }
    file_put_contents($file = "{$folder}/frame.bin", $bytes);
    mkdir($made = "{$folder}/frame");
    (new Making)->make([CloudFile::open($file, 'frame.bin', new CloudLimits)], $made);
    $frame = Frame::open($made, 0);
    $cuboids = [];
    for ($i = 0; $i < 200; $i++) {
        $cuboids[] = Cuboid::of([$random->between(-40, 40), $random->between(-40, 40), 1.0], [$random->between(1, 5), $random->between(0.5, 2), 2.0], $random->between(-180, 180));
    }
    [$mid, $most] = $median(static fn () => (new Inside($cuboids))->count($frame));
    $print('points in 200 cuboids over 200,000', sprintf('median %.0f, most %.0f ms', $mid, $most), '≤ 100 ms');

    // a cuboid to 20,000 points
    $x = $y = $z = [];
    for ($i = 0; $i < 20_000; $i++) {
        [$u, $v] = $i % 2 === 0 ? [-2.0, $random->between(-0.9, 0.9)] : [$random->between(-2, 2), -0.9];
        [$c, $s] = [cos(0.4), sin(0.4)];
        $x[] = 9 + $u * $c - $v * $s;
        $y[] = 3 + $u * $s + $v * $c;
        $z[] = $random->between(0.1, 1.5);
    }
    $near = new Near($x, $y, $z, array_fill(0, 100, 0.0));
    [$mid, $most] = $median(static fn () => Fit::drag($near, [6.5, 1.0], [11.5, 5.0]));
    $print('a cuboid fitted to 20,000 points', sprintf('median %.0f, most %.0f ms', $mid, $most), '≤ 30 ms');

    // the demo: a rough drag over everything that 60 points or more are of, 8 to 30 cm too wide at each side
    mkdir($scans = "{$folder}/scans");
    $truth = (new RowScan(new Chance('row scan/2')))->write($scans);
    mkdir($made = "{$folder}/row");
    (new Making)->make(array_map(static fn (string $scan) => CloudFile::open($scan, $scan, new CloudLimits), (array) glob("{$scans}/*.pcd")), $made);
    $iou = static function (Cuboid $a, Cuboid $b) use ($random): float {
        $both = $any = 0;
        // within what both reach: of a thin thing nearly all places around it would be of neither
        $ends = [];
        foreach ([0, 1, 2] as $axis) {
            $reach = static fn (Cuboid $of): float => $axis === 2 ? $of->size[2] / 2 : hypot($of->size[0], $of->size[1]) / 2;
            $ends[] = [min($a->center[$axis] - $reach($a), $b->center[$axis] - $reach($b)), max($a->center[$axis] + $reach($a), $b->center[$axis] + $reach($b))];
        }
        for ($i = 0; $i < 4_000; $i++) {
            $place = array_map(static fn (array $end): float => $random->between($end[0], $end[1]), $ends);
            [$in, $of] = [$a->contains(...$place), $b->contains(...$place)];
            $both += $in && $of ? 1 : 0;
            $any += $in || $of ? 1 : 0;
        }

        return $any === 0 ? 0.0 : $both / $any;
    };
    $found = [];
    foreach ($truth as $track) {
        foreach ($track['frames'] as $n => $seen) {
            if ($seen['points'] < 60) {
                continue;
            }
            $true = Cuboid::of($seen['center'], $seen['size'], $seen['heading']);
            [$c, $s] = [cos(deg2rad($seen['heading'])), sin(deg2rad($seen['heading']))];
            [$wide, $deep] = [($seen['size'][0] * abs($c) + $seen['size'][1] * abs($s)) / 2, ($seen['size'][0] * abs($s) + $seen['size'][1] * abs($c)) / 2];
            [$sx, $sy] = [$c >= 0 ? 1 : -1, $s >= 0 ? 1 : -1];
            $from = [$seen['center'][0] - $sx * ($wide + $random->between(0.08, 0.3)), $seen['center'][1] - $sy * ($deep + $random->between(0.08, 0.3))];
            $to = [$seen['center'][0] + $sx * ($wide + $random->between(0.08, 0.3)), $seen['center'][1] + $sy * ($deep + $random->between(0.08, 0.3))];
            $near = Frame::open($made, $n)->over([min($from[0], $to[0]) - Fit::AROUND, min($from[1], $to[1]) - Fit::AROUND, max($from[0], $to[0]) + Fit::AROUND, max($from[1], $to[1]) + Fit::AROUND]);
            foreach (['the first of its class' => null, 'its size known' => $seen['size']] as $how => $typical) {
                $found["{$track['class']}, {$how}"][] = $iou($true, Fit::drag($near, $from, $to, $typical));
            }
        }
    }
    foreach (['the first of its class', 'its size known'] as $how) {
        $found["thing of any class, {$how}"] = array_merge(...array_values(array_filter($found, static fn (string $what): bool => str_ends_with($what, $how), ARRAY_FILTER_USE_KEY)));
    }
    ksort($found);
    foreach ($found as $what => $all) {
        sort($all);
        $print("3D IoU of a {$what}", sprintf('mean %.2f, median %.2f of %d', array_sum($all) / count($all), $all[intdiv(count($all), 2)], count($all)), '≥ 0.8 in the mean');
    }

    // taken along from the first frame it is seen on, by its points alone: how far off it is on each frame, until it is not sure
    $began = microtime(true);
    $scenes = [];
    for ($n = 0; $n + 1 < RowScan::FRAMES; $n++) {
        $scenes[] = Follow::scene(Frame::open($made, $n), Frame::open($made, $n + 1));
    }
    $print('how the scanner moved, told from a frame and the next', sprintf('%.0f ms', 1000 * (microtime(true) - $began) / count($scenes)), '');
    $off = $time = [];
    $unsure = 0;
    foreach ($truth as $track) {
        $own = null;
        $cuboid = null;
        foreach ($track['frames'] as $n => $seen) {
            $true = Cuboid::of($seen['center'], $seen['size'], $seen['heading']);
            if ($cuboid !== null) {
                $began = microtime(true);
                $over = static function (int $frame, Cuboid $about, bool $first) use ($made): Near {
                    $reach = Follow::reach($about, $first);

                    return Frame::open($made, $frame)->over([$about->center[0] - $reach, $about->center[1] - $reach, $about->center[0] + $reach, $about->center[1] + $reach]);
                };
                $one = Follow::next($cuboid, $over($n - 1, $cuboid, false), $scenes[$n - 1], $own, $over($n, Follow::guess($cuboid, $scenes[$n - 1], $own)->cuboid($cuboid), $own === null));
                $time[] = 1000 * (microtime(true) - $began);
                if ($one->unsure !== null) {
                    $unsure++;
                    break;
                }
                $off[$track['class']][] = hypot($one->cuboid->center[0] - $true->center[0], $one->cuboid->center[1] - $true->center[1]);
            }
            if (! isset($track['frames'][$n + 1])) {
                break;
            }
            [$cuboid, $own] = [$cuboid === null ? $true : $one->cuboid, isset($one) && $cuboid !== null ? $one->own : null];
        }
    }
    foreach ($off as $class => $all) {
        sort($all);
        $print("a {$class} followed is off by", sprintf('mean %.0f, most %.0f mm of %d frames', 1000 * array_sum($all) / count($all), 1000 * $all[count($all) - 1], count($all)), '');
    }
    sort($time);
    $print('a cuboid taken a frame on', sprintf('median %.0f, most %.0f ms; %d of %d tracks ended early, not sure', $time[intdiv(count($time), 2)], $time[count($time) - 1], $unsure, count($truth)), '');
};
