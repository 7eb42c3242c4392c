<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Marks\Mark;
use Symfony\Component\Yaml\Yaml;

/**
 * YOLO boxes: `labels/<part>/<path>.txt` beside `images/<part>/<path>`, `data.yaml`. A line is `class cx cy w h` over the picture's
 * size, 6 decimals, classes from 0 in the codebook's order. An empty file: nothing there. No file: not labelled.
 */
final readonly class YoloWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $split = false;
        foreach ($dataset->items() as $item) {
            $part = $item->part->value ?? 'all';
            $split = $split || $item->part !== null;
            if ($pictures) {
                $folder->take("images/{$part}/{$item->path}", $dataset->pictureFile($item));
            }
            if ($item->labelled === Labelled::Unlabelled) {
                continue;
            }
            $lines = '';
            foreach ($item->marks as $mark) {
                $line = $this->line($mark, $item);
                if ($line === null) {
                    $report->count('boxes outside their picture can\'t be said in YOLO and were left out');

                    continue;
                }
                $lines .= "{$line}\n";
                if ($mark->geometry->overhang($item->width, $item->height) > 0) {
                    $report->count('boxes that reach past the edge were cut at it');
                }
                if ($mark->answers !== []) {
                    $report->count('answers can\'t be said in YOLO and were left out', count($mark->answers));
                }
                if ($this->codebook->classes[$mark->class]->ignore) {
                    $report->count('marks of an ignore class are plain boxes in YOLO');
                }
            }
            $stem = preg_replace('/\.[^.\/]*$/', '', $item->path) ?? $item->path;
            if ($folder->has("labels/{$part}/{$stem}.txt")) {
                $report->count('pictures share their name with another but for the ending; their labels were left out');

                continue;
            }
            $folder->write("labels/{$part}/{$stem}.txt", $lines);
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        $folder->write('data.yaml', $this->yaml($split));

        return $report;
    }

    private function yaml(bool $split): string
    {
        $lines = $split
            ? ['path: .', 'train: images/train', 'val: images/val', 'test: images/test']
            : ['# no split was asked for: train and val are the same pictures', 'path: .', 'train: images/all', 'val: images/all'];
        $lines[] = $this->codebook->classes === [] ? 'names: {}' : 'names:';
        foreach ($this->codebook->classes as $class) {
            $lines[] = "  {$class->index}: ".Yaml::dump($this->codebook->exportName($class));
        }

        return implode("\n", $lines)."\n";
    }

    public function hold(Mark $mark, DatasetItem $item): ?Box
    {
        $line = $this->line($mark, $item);
        if ($line === null) {
            return null;
        }
        [, $cx, $cy, $w, $h] = explode(' ', $line);

        return self::box((float) $cx, (float) $cy, (float) $w, (float) $h, $item->width, $item->height);
    }

    public function tolerance(DatasetItem $item): float
    {
        return 1.5e-6 * max($item->width, $item->height);
    }

    /** Centre and size in shares of the picture, to a box in px. */
    public static function box(float $cx, float $cy, float $w, float $h, int $width, int $height): Box
    {
        return Box::of(($cx - $w / 2) * $width, ($cy - $h / 2) * $height, $w * $width, $h * $height);
    }

    private function line(Mark $mark, DatasetItem $item): ?string
    {
        $box = $mark->geometry->clippedTo($item->width, $item->height);
        if ($box === null) {
            return null;
        }

        return sprintf(
            '%d %.6F %.6F %.6F %.6F',
            $this->codebook->classes[$mark->class]->index,
            ($box->x + $box->width / 2) / $item->width,
            ($box->y + $box->height / 2) / $item->height,
            $box->width / $item->width,
            $box->height / $item->height,
        );
    }
}
