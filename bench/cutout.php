<?php

declare(strict_types=1);

use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\Stroke;
use Skeno\Core\Cutout\Window;

require_once __DIR__.'/scenes.php';

/** Cut-out on scenes whose truth is known: --scenes=DIR (else twenty of our own), --masks=OUT, --json. */
return static function (callable $print, string $temporary, array $options = []): void {
    $folder = $options['scenes'] ?? null;
    $rows = $dials = $later = [];
    $warm = true;
    $time = static function (callable $work): array {
        $begin = hrtime(true);
        $result = $work();

        return [$result, (hrtime(true) - $begin) / 1e6];
    };
    foreach (BenchScenes::in($folder, $temporary) as ['scene' => $name, 'picture' => $picture, 'box' => $box, 'truth' => $truth]) {
        $cut = static function () use ($picture, $box): array {
            $window = Window::round($box, [], $picture->width, $picture->height);
            $part = $picture->part($window->x, $window->y, $window->width, $window->height);
            $cutout = new Cutout($part->resized($window->columns, $window->rows), $window->box);

            return [$cutout, $window, $window->out($cutout->mask())];
        };
        // the first of a process compiles; a server has done so long ago
        for (; $warm; $warm = false) {
            $cut();
            $cut()[0]->stroke(Stroke::of(true, [$box->width / 2, $box->height / 2]));
        }
        [[$cutout, $window, $mask], $ms] = $time($cut);
        if (isset($options['masks'])) {
            BenchScenes::write($mask, "{$options['masks']}/{$name}.png");
        }
        $row = ['scene' => $name, 'iou' => round($mask->iou($truth), 4), 'ms' => round($ms, 1), 'ms_click' => 0.0, 'clicks' => []];
        if (! isset($options['json'])) {
            foreach ([-2.0, 2.0] as $by) {
                $dials[] = $time(static fn () => $cutout->dialled($by))[1];
            }
        }
        $clicks = [];
        for ($i = 0; $i < 5; $i++) {
            $click = BenchScenes::click($mask, $truth);
            if ($click !== null) {
                [$mask, $clicks[]] = $time(static function () use ($cutout, $window, $click) {
                    $cutout->stroke($window->stroke(Stroke::of($click['adds'], [$click['x'], $click['y']])));

                    return $window->out($cutout->mask());
                });
            }
            $row['clicks'][] = round($mask->iou($truth), 4);
        }
        $row['ms_click'] = round($clicks[1] ?? $clicks[0] ?? 0.0, 1);
        $rows[] = $row;
        array_push($later, ...$clicks);
    }
    if (isset($options['json'])) {
        echo json_encode($rows, JSON_PRETTY_PRINT), "\n";

        return;
    }
    $median = static fn (callable $of, array $rows): string => sprintf('%.3f', BenchScenes::median(array_map($of, $rows)));
    $mean = static fn (callable $of, array $rows): string => sprintf('%.3f', array_sum(array_map($of, $rows)) / count($rows));
    $first = static fn (array $row): float => $row['iou'];
    $print('cut-out: IoU of the first shot, median and mean', $median($first, $rows).'; '.$mean($first, $rows), '>= 0.85 (0.92)');
    foreach ([[1, '>= 0.92 (0.95)'], [3, '>= 0.93 (0.96)'], [5, '']] as [$n, $aim]) {
        $after = static fn (array $row): float => $row['clicks'][$n - 1];
        $print("cut-out: IoU after {$n} click".($n > 1 ? 's' : '').', median and mean', $median($after, $rows).'; '.$mean($after, $rows), $aim);
    }
    $print('cut-out: the first shot, median and worst', sprintf('%.0f; %.0f ms', BenchScenes::median(array_column($rows, 'ms')), max(array_column($rows, 'ms'))), '<= 250 ms (120)');
    $print('cut-out: a click, median and worst', sprintf('%.0f; %.0f ms', BenchScenes::median($later), max($later)), '<= 50 ms');
    $print('cut-out: the dial, median and worst', sprintf('%.0f; %.0f ms', BenchScenes::median($dials), max($dials)), '<= 150 ms (60)');
    $anchor = BenchScenes::anchor('cutout.py', [$folder ?? "{$temporary}/scenes"]);
    if (is_array($anchor)) {
        $theirs = array_values($anchor);
        $print('  GrabCut of OpenCV, 5 rounds: IoU, median and mean', $median($first, $theirs).'; '.$mean($first, $theirs), 'ours mean >= + 0.05');
        $print('  after 1, 3, 5 clicks, medians', implode('; ', array_map(static fn (int $i): string => $median(static fn (array $row): float => $row['clicks'][$i], $theirs), [0, 1, 2])), '');
        $print('  its first shot and a click, medians', sprintf('%.0f; %.0f ms', BenchScenes::median(array_column($theirs, 'ms')), BenchScenes::median(array_column($theirs, 'ms_click'))), '');
    } else {
        $print('  GrabCut of OpenCV', 'python3-opencv is not there', '');
    }
};
