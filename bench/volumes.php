<?php

declare(strict_types=1);

// A scan of 512 × 512 × 300 voxels: made into planes, grown in, written as a label map; what lies between two slices.

use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tracks\BetweenMasks;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Volume\Grid;
use Skeno\Core\Volume\Growing;
use Skeno\Core\Volume\Making;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Planes;
use Skeno\Core\Volume\Scalar;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\ScanFile;
use Skeno\Core\Volume\Solid;
use Skeno\Core\Volume\Source;
use Skeno\Core\Volume\VolumeLimits;

return static function (callable $print, string $folder, array $options): void {
    [$width, $height, $depth] = [512, 512, (int) ($options['slices'] ?? 300)];
    $disc = static function (int $cx, int $cy, float $r) use ($width, $height): Mask {
        $columns = [];
        for ($x = (int) ($cx - $r); $x <= $cx + $r; $x++) {
            $reach = (int) sqrt(max(0, $r * $r - ($x - $cx) ** 2));
            if ($reach > 0) {
                $columns[$x] = [$cy - $reach, $cy + $reach];
            }
        }

        return Mask::ofColumns($width, $height, $columns);
    };

    // between two slices, ten of them
    [$a, $b] = [$disc(220, 240, 90), $disc(280, 260, 130)];
    $times = [];
    for ($i = 0; $i < 5; $i++) {
        $began = microtime(true);
        $between = BetweenMasks::of($a, $b);
        for ($k = 1; $k <= 10; $k++) {
            $between->at($k / 11);
        }
        $times[] = 1000 * (microtime(true) - $began);
    }
    sort($times);
    $print('ten slices between two masks at 512 × 512', sprintf('median %.0f, most %.0f ms', $times[2], $times[4]), '≤ 300 ms');

    // a scan with a soft ball in it
    $source = new class($width, $height, $depth) implements Source
    {
        public function __construct(private readonly int $width, private readonly int $height, private readonly int $depth)
        {
        }

        public function grid(): Grid
        {
            return Grid::of([$this->width, $this->height, $this->depth], [-0.7, 0.0, 0.0, 0.0, 0.0, -0.7, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0], true);
        }

        public function scalar(): Scalar
        {
            return Scalar::Int16;
        }

        public function scaling(): array
        {
            return [1.0, 0.0];
        }

        public function windows(): array
        {
            return [];
        }

        public function slices(): iterable
        {
            mt_srand(1);
            $noise = [];
            for ($i = 0; $i < 4096; $i++) {
                $noise[] = mt_rand(-30, 30);
            }
            for ($k = 0; $k < $this->depth; $k++) {
                $values = [];
                for ($y = 0; $y < $this->height; $y++) {
                    $far = 1.4 * ($k - 150) ** 2 + ($y - 256) ** 2;
                    for ($x = 0; $x < $this->width; $x++) {
                        $values[] = ($far + ($x - 256) ** 2 < 19000 ? 400 : -800) + $noise[($x * 31 + $y * 17 + $k * 7) & 4095];
                    }
                }
                yield $k => $values;
            }
        }
    };
    $file = "{$folder}/scan.nii.gz";
    ScanFile::write($file, $source);
    mkdir("{$folder}/planes");
    memory_reset_peak_usage();
    $began = microtime(true);
    $nifti = Nifti::open($file, new VolumeLimits);
    (new Making)->make($nifti, "{$folder}/planes");
    $print("planes of 512 × 512 × {$depth} made", sprintf('%.1f s, %d MB', microtime(true) - $began, memory_get_peak_usage() >> 20), '≤ 512 MB');
    $print('they take', sprintf('%d MB (the scan packed: %d)', array_sum(array_map(filesize(...), glob("{$folder}/planes/*") ?: [])) >> 20, filesize($file) >> 20), '');

    $planes = Planes::open("{$folder}/planes");
    $times = [];
    $grown = null;
    for ($i = 0; $i < 3; $i++) {
        $began = microtime(true);
        $grown = Growing::from($planes, [256, 256, min(150, $depth - 1)], 300, 500, 90.0, 1_000_000);
        $times[] = microtime(true) - $began;
    }
    sort($times);
    $print(sprintf('a region of %s voxels grown', number_format($grown->voxels)), sprintf('median %.2f s', $times[1]), '≤ 2 s');
    $began = microtime(true);
    $solid = Solid::of($grown->slices);
    $largest = microtime(true);
    $solid->largest();
    $smooth = microtime(true);
    $solid->smoothed();
    $print('its largest part; smoothed', sprintf('%.2f; %.2f s', $smooth - $began, microtime(true) - $smooth + $largest - $began), '≤ 2 s');

    // a label map of six objects with a key on every fourth slice
    $marks = [];
    for ($n = 0; $n < 6; $n++) {
        $keys = [];
        for ($k = 20; $k < $depth - 20; $k += 4) {
            $keys[] = Key::of($k, $disc(120 + 50 * $n, 150 + 30 * $n, 20 + 60 * sin(M_PI * $k / $depth)));
        }
        $marks[] = Mark::along(sprintf('%026d', $n + 1), 'part', $keys, Places::stretch($keys[0]->place, $keys[count($keys) - 1]->place));
    }
    $codebook = Skeno\Core\Codebook\Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'part', 'name' => 'Part', 'shapes' => ['mask']]]]);
    $item = new DatasetItem('scan.nii.gz', $width, $height, str_repeat('0', 64), Labelled::Objects, $marks, scan: Scan::of($nifti->grid(), $nifti->header));
    memory_reset_peak_usage();
    $began = microtime(true);
    mkdir("{$folder}/out");
    Format::Nifti->writer($codebook)->write(new Dataset('bench', $codebook, static fn (): array => [$item], static fn (): string => $file), new Folder("{$folder}/out"), false);
    $print('label maps of it written, six objects: all of them, and each', sprintf('%.1f s, %d MB', microtime(true) - $began, memory_get_peak_usage() >> 20), '≤ 20 s; ≤ 256 MB');
    $code = 'import sys,nibabel,numpy as np; print(int(np.asarray(nibabel.load(sys.argv[1]).dataobj).astype(np.int64).sum()))';
    exec('/usr/bin/python3 -c '.escapeshellarg($code).' '.escapeshellarg("{$folder}/out/scan.nii.gz").' 2>/dev/null', $said, $ended);
    $own = 0;
    foreach (Nifti::open("{$folder}/out/scan.nii.gz", new VolumeLimits)->slices() as $values) {
        $own += array_sum($values);
    }
    $print('voxels of it by our reader; by another program\'s', number_format($own).'; '.($ended === 0 ? number_format((int) ($said[0] ?? -1)) : 'not installed'), 'equal');
};
