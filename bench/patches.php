<?php

declare(strict_types=1);

use Skeno\Core\Imaging\Colours;
use Skeno\Core\Patches\Patches;
use Skeno\Core\Raster\Mask;

require_once __DIR__.'/scenes.php';

/** Patches on scenes whose truth is known, and on a picture of a megapixel: --scenes=DIR (else twenty of our own), --side=PX, --json. */
return static function (callable $print, string $temporary, array $options = []): void {
    $folder = $options['scenes'] ?? null;
    $side = (int) ($options['side'] ?? 34);
    $measure = static function (Colours $picture, Mask $truth) use ($side): array {
        $begin = hrtime(true);
        $patches = Patches::of($picture, $side);
        $ms = (hrtime(true) - $begin) / 1e6;
        [$width, $height, $labels] = [$patches->width, $patches->height, $patches->labels];
        $is = array_fill(0, $width * $height, 0);
        foreach ($truth->columns() as $x => $runs) {
            for ($i = 0; $i < count($runs); $i += 2) {
                for ($y = $runs[$i]; $y < $runs[$i + 1]; $y++) {
                    $is[$y * $width + $x] = 1;
                }
            }
        }
        $near = [];
        $border = [];
        for ($y = 0, $at = 0; $y < $height; $y++) {
            for ($x = 0; $x < $width; $x++, $at++) {
                if (($x + 1 < $width && $labels[$at] !== $labels[$at + 1]) || ($y + 1 < $height && $labels[$at] !== $labels[$at + $width])) {
                    for ($v = max(0, $y - 2); $v <= min($height - 1, $y + 2); $v++) {
                        for ($u = max(0, $x - 2); $u <= min($width - 1, $x + 2); $u++) {
                            $near[$v * $width + $u] = true;
                        }
                    }
                }
                if (($x + 1 < $width && $is[$at] !== $is[$at + 1]) || ($y + 1 < $height && $is[$at] !== $is[$at + $width])) {
                    $border[] = $at;
                }
            }
        }
        $in = $all = array_fill(0, $patches->count, 0);
        foreach ($labels as $at => $label) {
            $all[$label]++;
            $in[$label] += $is[$at];
        }

        return [
            'recall' => round(count(array_filter($border, static fn (int $at): bool => isset($near[$at]))) / max(1, count($border)), 4),
            'under' => round(array_sum(array_map(static fn (int $in, int $all): int => min($in, $all - $in), $in, $all)) / ($width * $height), 4),
            'ms' => round($ms, 1),
        ];
    };
    $rows = [];
    foreach (BenchScenes::in($folder, $temporary) as ['scene' => $name, 'picture' => $picture, 'truth' => $truth]) {
        $rows === [] && $measure($picture, $truth);
        $rows[] = ['scene' => $name] + $measure($picture, $truth);
    }
    if (isset($options['json'])) {
        echo json_encode($rows, JSON_PRETTY_PRINT), "\n";

        return;
    }
    $mean = static fn (array $rows, string $what): float => array_sum(array_column($rows, $what)) / count($rows);
    $print("patches of {$side} px: boundary recall within 2 px", sprintf('%.3f', $mean($rows, 'recall')), '>= 0.95 (0.97)');
    $print("patches of {$side} px: under-segmentation", sprintf('%.3f', $mean($rows, 'under')), '<= 0.025 (0.018)');
    $anchor = BenchScenes::anchor('patches.py', [$folder ?? "{$temporary}/scenes", (string) $side]);
    if (is_array($anchor)) {
        $theirs = array_values($anchor);
        $print('  SLIC of scikit-image: recall; under-segmentation', sprintf('%.3f; %.3f', $mean($theirs, 'recall'), $mean($theirs, 'under')), '');
        $print('  its time to ours on a scene', sprintf('%.1f', $mean($theirs, 'ms') / $mean($rows, 'ms')), '');
    }
    // a megapixel of scenes side by side
    $whole = new Imagick;
    foreach (array_slice(glob(($folder ?? "{$temporary}/scenes").'/*/scene.png') ?: [], 0, 7) as $file) {
        $whole->addImage(new Imagick($file));
    }
    $whole->resetIterator();
    $large = $whole->appendImages(false);
    $large->resizeImage(1155, 866, Imagick::FILTER_TRIANGLE, 1);
    $picture = Colours::ofImage($large);
    $times = [];
    for ($i = 0; $i < 6; $i++) {
        $begin = hrtime(true);
        Patches::of($picture, $side);
        $times[] = (hrtime(true) - $begin) / 1e6;
    }
    $print('patches of a picture of 1 megapixel', sprintf('%.0f ms', BenchScenes::median($times)), '<= 500 ms (200)');
};
