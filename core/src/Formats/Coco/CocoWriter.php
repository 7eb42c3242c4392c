<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Json\Lines;
use Skeno\Core\Marks\Mark;

/**
 * COCO object detection: one JSON per part of the split (`annotations/train.json` …, or `annotations/all.json`), pictures under
 * `images/`. Category ids count from 1 in the codebook's order. Beyond the standard: `images[].labelled` tells an empty picture
 * from one nobody looked at, and `annotations[].attributes` holds answers, ways of having none, own stack place and author.
 */
final readonly class CocoWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $parts = [];
        // one pass over the dataset: annotations wait in a file of their own until all images of their part are written
        foreach ($dataset->items() as $item) {
            $part = $item->part->value ?? 'all';
            $parts[$part] ??= $this->open($dataset, $folder, $part);
            $this->item($parts[$part], $item);
            if ($pictures) {
                $folder->take('images/'.$item->path, $dataset->pictureFile($item));
            }
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        // the three files of a split exist even when one part is empty, so that no loader stumbles
        foreach (isset($parts['all']) || $parts === [] ? ['all'] : ['train', 'val', 'test'] as $part) {
            $parts[$part] ??= $this->open($dataset, $folder, $part);
        }
        foreach ($parts as $part) {
            $this->close($part);
        }

        return $report;
    }

    public function hold(Mark $mark, DatasetItem $item): Box
    {
        return $mark->geometry;
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    private function open(Dataset $dataset, Folder $folder, string $part): CocoPart
    {
        $opened = new CocoPart($folder->create("annotations/{$part}.json"), $folder->create("annotations/{$part}.part"), $folder->file("annotations/{$part}.part"));
        $opened->put($opened->main, '{"info":'.Lines::encode(['description' => $dataset->name, 'version' => '1.0', 'contributor' => 'Skeno']).",\n\"licenses\":[],\n\"images\":[");

        return $opened;
    }

    private function item(CocoPart $part, DatasetItem $item): void
    {
        $part->images++;
        $part->put($part->main, ($part->images === 1 ? "\n" : ",\n").Lines::encode([
            'id' => $part->images,
            'file_name' => $item->path,
            'width' => $item->width,
            'height' => $item->height,
            'labelled' => $item->labelled !== Labelled::Unlabelled,
        ]));
        $lines = '';
        foreach ($item->marks as $mark) {
            $part->annotations++;
            $lines .= ($part->annotations === 1 ? "\n" : ",\n").$this->annotation($mark, $part->annotations, $part->images);
        }
        $part->put($part->waiting, $lines);
    }

    private function close(CocoPart $part): void
    {
        $part->put($part->main, "],\n\"annotations\":[");
        $part->appendWaiting();
        $categories = [];
        foreach ($this->codebook->classes as $class) {
            $categories[] = Lines::encode(['id' => $class->index + 1, 'name' => $this->codebook->exportName($class), 'supercategory' => '']);
        }
        $part->put($part->main, "],\n\"categories\":[".($categories === [] ? '' : "\n".implode(",\n", $categories))."]}\n");
        fclose($part->main);
    }

    private function annotation(Mark $mark, int $id, int $imageId): string
    {
        $box = $mark->geometry;
        $class = $this->codebook->classes[$mark->class];
        $data = [
            'id' => $id,
            'image_id' => $imageId,
            'category_id' => $class->index + 1,
            'bbox' => [$box->x, $box->y, $box->width, $box->height],
            'area' => $box->area(),
            'segmentation' => [],
            'iscrowd' => 0,
        ];
        $attributes = $noValue = [];
        foreach ($mark->answers as $key => $answer) {
            if ($answer->noValue !== null) {
                $noValue[$key] = $answer->noValue->value;
            } else {
                $attributes[$key] = $answer->value;
            }
        }
        if ($noValue !== []) {
            $attributes['no_value'] = $noValue;
        }
        if ($mark->stack !== null) {
            $attributes['stack'] = $mark->stack;
        }
        if ($mark->author !== null) {
            $attributes['author'] = $mark->author;
        }
        if ($class->ignore) {
            $attributes['ignore'] = true;
        }
        if ($attributes !== []) {
            $data['attributes'] = $attributes;
        }

        return Lines::encode($data);
    }
}
