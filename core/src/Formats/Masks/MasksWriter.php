<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Masks;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Csv\Csv;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Formats\Painting;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Json\Lines;
use Skeno\Core\Raster\Mask;

/**
 * Masks as PNG: `classes/<path>.png`, 8-bit palette, pixel = class index (0 background, then the codebook's order from 1, ignore regions
 * 255); `objects/<path>/<n>.png`, 8-bit grey, 0 or 255, one for each object whole, however others lie over it; `objects.csv` says what each
 * is; `classes.csv` and `colormap.json` the indexes. Boxes count as regions only for classes that have no other shape.
 */
final readonly class MasksWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $table = $folder->create('objects.csv');
        fwrite($table, Csv::line(['picture', 'file', 'class', 'index', 'pixels']));
        $colors = $this->colors();
        foreach ($dataset->items() as $item) {
            if ($pictures) {
                $folder->take("images/{$item->path}", $dataset->pictureFile($item));
            }
            if ($item->labelled === Labelled::Unlabelled) {
                continue;
            }
            $painting = Painting::of($item, boxes: true);
            if ($painting->decided > 0) {
                $report->count('pixels under more than one mark were given to the one highest in the stack (class images)', $painting->decided);
            }
            if (count($painting->layers) < count($item->marks)) {
                $report->count('marks that cover no area can\'t be said by masks and were left out', count($item->marks) - count($painting->layers));
            }
            $image = IndexImage::palette($item->width, $item->height, $colors);
            foreach ($painting->layers as [$mark, $pixels]) {
                $class = $this->codebook->classes[$mark->class];
                if (! $class->ignore && $class->index >= 254) {
                    $report->count('classes beyond the 254th have no index in the class image');
                } else {
                    $image->paint($pixels, $class->ignore ? 255 : $class->index + 1);
                }
            }
            $image->write($folder->file('classes/'.IndexImage::name($item->path)));
            $n = 0;
            foreach ($item->marks as $mark) {
                $mask = Painting::mask($mark->geometry, $item->width, $item->height);
                if ($mask === null) {
                    continue;
                }
                if ($mask->isEmpty()) {
                    $report->count('marks so small that they cover the middle of no pixel were left out');

                    continue;
                }
                $n++;
                $file = sprintf('objects/%s/%04d.png', $item->path, $n);
                $object = IndexImage::palette($item->width, $item->height, []);
                $object->paint($mask, 255);
                $object->write($folder->file($file));
                $class = $this->codebook->classes[$mark->class];
                fwrite($table, Csv::line([$item->path, $file, $this->codebook->exportName($class), $class->ignore ? 255 : $class->index + 1, (int) $mask->area()]));
                if ($mark->answers !== []) {
                    $report->count('answers can\'t be said by masks and were left out', count($mark->answers));
                }
            }
        }
        fclose($table);
        $this->tables($folder, $colors);

        return $report;
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        foreach ($item->marks as $mark) {
            $mask = Painting::mask($mark->geometry, $item->width, $item->height);
            if ($mask !== null && ! $mask->isEmpty()) {
                $held[] = new Held($mark, Fit::into($this->codebook->classes[$mark->class], $mask, $item->width, $item->height)[0], ! $mark->geometry instanceof Mask);
            }
        }

        return $held;
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    /** @return list<array{int, int, int}> */
    private function colors(): array
    {
        $colors = array_fill(0, 256, [0, 0, 0]);
        foreach ($this->codebook->classes as $class) {
            [$r, $g, $b] = array_map(hexdec(...), str_split(substr($class->color, 1), 2));
            $colors[$class->ignore ? 255 : min(254, $class->index + 1)] = [(int) $r, (int) $g, (int) $b];
        }

        return array_values($colors);
    }

    /** @param  list<array{int, int, int}>  $colors */
    private function tables(Folder $folder, array $colors): void
    {
        $map = [['index' => 0, 'class' => 'background', 'color' => [0, 0, 0]]];
        $text = Csv::line(['index', 'class', 'red', 'green', 'blue']).Csv::line([0, 'background', 0, 0, 0]);
        foreach ($this->codebook->classes as $class) {
            $index = $class->ignore ? 255 : $class->index + 1;
            $color = $colors[min(255, $index)];
            $map[] = ['index' => $index, 'class' => $this->codebook->exportName($class), 'color' => $color];
            $text .= Csv::line([$index, $this->codebook->exportName($class), ...$color]);
        }
        $folder->write('colormap.json', Lines::pretty(['classes' => $map]));
        $folder->write('classes.csv', $text);
    }
}
