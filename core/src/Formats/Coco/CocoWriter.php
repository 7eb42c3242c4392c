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
        foreach ($dataset->items() as $item) {
            $parts[$item->part->value ?? 'all'] ??= $item->part->value ?? 'all';
            if ($pictures) {
                $folder->take('images/'.$item->path, $dataset->pictureFile($item));
            }
        }
        // the three files of a split exist even when one part is empty, so that no loader stumbles
        $parts = isset($parts['all']) || $parts === [] ? ['all'] : ['train', 'val', 'test'];
        foreach ($parts as $part) {
            $this->writePart($dataset, $folder, $part, $report);
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

    private function writePart(Dataset $dataset, Folder $folder, string $part, MappingReport $report): void
    {
        $out = $folder->create("annotations/{$part}.json");
        fwrite($out, '{"info":'.Lines::encode(['description' => $dataset->name, 'version' => '1.0', 'contributor' => 'Skeno']).",\n\"licenses\":[],\n\"images\":[");
        $imageId = 0;
        foreach ($this->itemsOf($dataset, $part) as $item) {
            $imageId++;
            fwrite($out, ($imageId === 1 ? "\n" : ",\n").Lines::encode([
                'id' => $imageId,
                'file_name' => $item->path,
                'width' => $item->width,
                'height' => $item->height,
                'labelled' => $item->labelled !== Labelled::Unlabelled,
            ]));
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        fwrite($out, "],\n\"annotations\":[");
        $imageId = $id = 0;
        $buffer = '';
        foreach ($this->itemsOf($dataset, $part) as $item) {
            $imageId++;
            foreach ($item->marks as $mark) {
                $id++;
                $buffer .= ($id === 1 ? "\n" : ",\n").$this->annotation($mark, $id, $imageId);
            }
            if (strlen($buffer) > 1 << 16) {
                $this->put($out, $buffer, $part);
                $buffer = '';
            }
        }
        $categories = [];
        foreach ($this->codebook->classes as $class) {
            $categories[] = Lines::encode(['id' => $class->index + 1, 'name' => $this->codebook->exportName($class), 'supercategory' => '']);
        }
        $this->put($out, $buffer."],\n\"categories\":[".($categories === [] ? '' : "\n".implode(",\n", $categories))."]}\n", $part);
        fclose($out);
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

    /** @return iterable<DatasetItem> */
    private function itemsOf(Dataset $dataset, string $part): iterable
    {
        foreach ($dataset->items() as $item) {
            if (($item->part->value ?? 'all') === $part) {
                yield $item;
            }
        }
    }

    /** @param  resource  $out */
    private function put($out, string $text, string $part): void
    {
        if (@fwrite($out, $text) !== strlen($text)) {
            throw new \RuntimeException("annotations/{$part}.json could not be written: is the disk full?");
        }
    }
}
