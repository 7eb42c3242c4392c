<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Panoptic;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Coco\CocoPart;
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
use Skeno\Core\Marks\Flag;

/**
 * COCO panoptic: `annotations/<part>.json` with `segments_info`, and `panoptic_<part>/<path>.png` whose pixels are the id of their segment, R + 256·G + 65536·B
 * (0: nothing). Segment ids count from 1 in each picture.
 */
final readonly class PanopticWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $parts = [];
        $open = static fn (string $part): CocoPart => CocoPart::open($folder, $part, '{"info":'.Lines::encode(['description' => $dataset->name, 'version' => '1.0', 'contributor' => 'Skeno']).',');
        foreach ($dataset->items() as $item) {
            if ($pictures) {
                $folder->take("images/{$item->path}", $dataset->pictureFile($item));
            }
            $part = $item->part->value ?? 'all';
            $file = $parts[$part] ??= $open($part);
            $id = ++$file->images;
            $file->put($file->main, ($id === 1 ? "\n" : ",\n").Lines::encode(['id' => $id, 'file_name' => $item->path, 'width' => $item->width, 'height' => $item->height, 'labelled' => $item->labelled !== Labelled::Unlabelled]));
            if ($item->labelled === Labelled::Unlabelled) {
                continue;
            }
            $painting = Painting::of($item);
            if ($painting->decided > 0) {
                $report->count('pixels under more than one mark were given to the one highest in the stack', $painting->decided);
            }
            if (count($painting->layers) < count($item->marks)) {
                $report->count('marks that are no regions can\'t be said in panoptic pictures and were left out', count($item->marks) - count($painting->layers));
            }
            $image = IndexImage::trueColor($item->width, $item->height);
            $segments = [];
            foreach ($painting->layers as [$mark, $pixels]) {
                if ($pixels->isEmpty()) {
                    $report->count('regions wholly covered by others were left out');

                    continue;
                }
                $segment = count($segments) + 1;
                $image->paint($pixels, $segment);
                $box = $pixels->bounds();
                $segments[] = [
                    'id' => $segment, 'category_id' => $this->codebook->classes[$mark->class]->index + 1, 'area' => (int) $pixels->area(),
                    'bbox' => [(int) $box->x, (int) $box->y, (int) $box->width, (int) $box->height], 'iscrowd' => $mark->has(Flag::Crowd) ? 1 : 0,
                ];
            }
            $name = IndexImage::name($item->path);
            $image->write($folder->file("panoptic_{$part}/{$name}"));
            $file->put($file->waiting, (++$file->annotations === 1 ? "\n" : ",\n").Lines::encode(['image_id' => $id, 'file_name' => $name, 'segments_info' => $segments]));
        }
        $categories = [];
        foreach ($this->codebook->classes as $class) {
            [$r, $g, $b] = array_map(hexdec(...), str_split(substr($class->color, 1), 2));
            $categories[] = Lines::encode(['id' => $class->index + 1, 'name' => $this->codebook->exportName($class), 'supercategory' => '', 'isthing' => 1, 'color' => [(int) $r, (int) $g, (int) $b]]);
        }
        foreach (isset($parts['all']) || $parts === [] ? ['all'] : ['train', 'val', 'test'] as $part) {
            ($parts[$part] ?? $open($part))->close($categories);
        }

        return $report;
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        foreach (Painting::of($item)->layers as [$mark, $pixels]) {
            if (! $pixels->isEmpty()) {
                $held[] = new Held($mark, Fit::into($this->codebook->classes[$mark->class], $pixels, $item->width, $item->height)[0], true);
            }
        }

        return $held;
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }
}
