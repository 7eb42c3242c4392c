<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Voc;

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
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\Imaging\VocColors;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use XMLWriter;

/**
 * Pascal VOC: `Annotations/<path>.xml`, `JPEGImages/<path>`, `ImageSets/Main/<part>.txt`, and for regions that are more than boxes
 * `SegmentationClass/<path>.png`, `SegmentationObject/<path>.png` and `classes.csv`; the n-th object of the XML has index n there. Corners are 1-based and inclusive:
 * xmin = round(x)+1, xmax = max(round(x+w), xmin). A picture nobody labelled gets no XML, one with nothing there an XML without
 * objects.
 */
final readonly class VocWriter implements DatasetWriter
{
    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $lists = [];
        $any = false;
        foreach ($dataset->items() as $item) {
            $stem = preg_replace('/\.[^.\/]*$/', '', $item->path) ?? $item->path;
            $part = $item->part->value ?? 'all';
            if ($pictures) {
                $folder->take("JPEGImages/{$item->path}", $dataset->pictureFile($item));
            }
            if ($item->labelled === Labelled::Unlabelled) {
                continue;
            }
            // two pictures that differ only by ending would share an XML; the second keeps its ending
            $name = $folder->has("Annotations/{$stem}.xml") ? $item->path : $stem;
            $lists[$part] ??= $folder->create("ImageSets/Main/{$part}.txt");
            fwrite($lists[$part], "{$name}\n");
            $segmented = $this->segment($item, $name, $folder, $report);
            $any = $any || $segmented;
            $folder->write("Annotations/{$name}.xml", $this->xml($item, $segmented, $report));
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        foreach ($lists as $part => $stream) {
            fclose($stream);
            unset($lists[$part]);
        }
        if ($any) {
            $folder->write('classes.csv', $this->classTable());
        }

        return $report;
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        $painting = Painting::of($item);
        foreach ($this->objects($item) as $i => [$mark, $box]) {
            $class = $this->codebook->classes[$mark->class];
            $pixels = $painting->left($mark);
            // beyond 254 objects the index image has no number left
            if ($pixels !== null && $i < 254) {
                $held[] = new Held($mark, Fit::into($class, $pixels, $item->width, $item->height)[0], true);
            } else {
                [$xmin, $ymin, $xmax, $ymax] = self::corners($box);
                $held[] = new Held($mark, Fit::into($class, Box::of($xmin - 1, $ymin - 1, $xmax - $xmin + 1, $ymax - $ymin + 1), $item->width, $item->height)[0], ! $mark->geometry instanceof Box);
            }
        }

        return $held;
    }

    /**
     * Marks VOC has an object for, with their boxes cut at the edge.
     *
     * @return list<array{Mark, Box}>
     */
    private function objects(DatasetItem $item): array
    {
        $objects = [];
        foreach ($item->marks as $mark) {
            $box = $mark->geometry instanceof Region || $mark->geometry instanceof Mask ? $mark->flat()->bounds()->clippedTo($item->width, $item->height) : null;
            if ($box !== null) {
                $objects[] = [$mark, $box];
            }
        }

        return $objects;
    }

    /** Class and object index images of the regions that are more than boxes; true when there are any. */
    private function segment(DatasetItem $item, string $name, Folder $folder, MappingReport $report): bool
    {
        $painting = Painting::of($item);
        if ($painting->layers === []) {
            return false;
        }
        if ($painting->decided > 0) {
            $report->count('pixels under more than one mark were given to the one highest in the stack', $painting->decided);
        }
        $classes = IndexImage::palette($item->width, $item->height, VocColors::map());
        $objects = IndexImage::palette($item->width, $item->height, VocColors::map());
        foreach ($this->objects($item) as $i => [$mark]) {
            $pixels = $painting->left($mark);
            if ($pixels === null) {
                continue;
            }
            $class = $this->codebook->classes[$mark->class];
            if ($i >= 254) {
                $report->count('regions beyond the 254th object of a picture have no index left and went out as boxes');

                continue;
            }
            $objects->paint($pixels, $i + 1);
            if ($class->ignore || $class->index < 254) {
                $classes->paint($pixels, $class->ignore ? 255 : $class->index + 1);
            } else {
                $report->count('classes beyond the 254th have no index in the class image');
            }
        }
        $classes->write($folder->file("SegmentationClass/{$name}.png"));
        $objects->write($folder->file("SegmentationObject/{$name}.png"));

        return true;
    }

    private function classTable(): string
    {
        $lines = "index,class,red,green,blue\r\n0,background,0,0,0\r\n";
        $colors = VocColors::map();
        foreach ($this->codebook->classes as $class) {
            $lines .= Csv::line([$class->ignore ? 255 : $class->index + 1, $this->codebook->exportName($class), ...$colors[min(255, $class->ignore ? 255 : $class->index + 1)]]);
        }

        return $lines;
    }

    public function tolerance(DatasetItem $item): float
    {
        // half a pixel by rounding; a box thinner than a pixel is widened to one after it
        return 1.5;
    }

    /** @return array{int, int, int, int} xmin, ymin, xmax, ymax: 1-based, inclusive */
    private static function corners(Box $box): array
    {
        $xmin = (int) round($box->x) + 1;
        $ymin = (int) round($box->y) + 1;

        return [$xmin, $ymin, max((int) round($box->right()), $xmin), max((int) round($box->bottom()), $ymin)];
    }

    private function xml(DatasetItem $item, bool $segmented, MappingReport $report): string
    {
        $xml = new XMLWriter;
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->setIndentString('  ');
        $xml->startElement('annotation');
        $folder = dirname($item->path);
        $xml->writeElement('folder', $folder === '.' ? 'JPEGImages' : "JPEGImages/{$folder}");
        $xml->writeElement('filename', basename($item->path));
        $xml->startElement('size');
        $xml->writeElement('width', (string) $item->width);
        $xml->writeElement('height', (string) $item->height);
        $xml->writeElement('depth', '3');
        $xml->endElement();
        $xml->writeElement('segmented', $segmented ? '1' : '0');
        $objects = $this->objects($item);
        $said = array_map(static fn (array $object): string => $object[0]->id, $objects);
        foreach ($item->marks as $mark) {
            if (! in_array($mark->id, $said, true)) {
                $report->count($mark->geometry instanceof Region || $mark->geometry instanceof Mask ? 'boxes outside their picture can\'t be said in VOC and were left out' : "marks drawn as {$mark->kind->words()} can't be said in VOC and were left out");
            }
        }
        if ($item->said->answers !== [] || $item->said->tags !== []) {
            $report->count('answers and tags of pictures can\'t be said in VOC and were left out');
        }
        foreach ($objects as [$mark, $box]) {
            if ($box !== $mark->geometry && $mark->flat()->bounds()->overhang($item->width, $item->height) > 0) {
                $report->count('boxes that reach past the edge were cut at it');
            }
            if (round($box->right()) < round($box->x) + 1 || round($box->bottom()) < round($box->y) + 1) {
                $report->count('boxes thinner than a pixel after rounding were written one pixel wide');
            }
            if ($mark->confidence !== null) {
                $report->count('confidences can\'t be said in VOC and were left out');
            }
            if ($mark->answers !== []) {
                $report->count('answers can\'t be said in VOC and were left out', count($mark->answers));
            }
            $class = $this->codebook->classes[$mark->class];
            [$xmin, $ymin, $xmax, $ymax] = self::corners($box);
            $xml->startElement('object');
            $xml->writeElement('name', $this->codebook->exportName($class));
            $xml->writeElement('pose', 'Unspecified');
            $xml->writeElement('truncated', $mark->has(Flag::CutOff) ? '1' : '0');
            $xml->writeElement('occluded', $mark->has(Flag::Hidden) ? '1' : '0');
            $xml->writeElement('difficult', $class->ignore || $mark->has(Flag::Hard) || $mark->has(Flag::Crowd) ? '1' : '0');
            $xml->startElement('bndbox');
            foreach (['xmin' => $xmin, 'ymin' => $ymin, 'xmax' => $xmax, 'ymax' => $ymax] as $name => $value) {
                $xml->writeElement($name, (string) $value);
            }
            $xml->endElement();
            $xml->endElement();
        }
        $xml->endElement();

        return $xml->outputMemory();
    }
}
