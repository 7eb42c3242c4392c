<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Voc;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Marks\Mark;
use XMLWriter;

/**
 * Pascal VOC: `Annotations/<path>.xml`, `JPEGImages/<path>`, `ImageSets/Main/<part>.txt`. Corners are 1-based and inclusive:
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
            $folder->write("Annotations/{$name}.xml", $this->xml($item, $report));
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        foreach ($lists as $part => $stream) {
            fclose($stream);
            unset($lists[$part]);
        }

        return $report;
    }

    public function hold(Mark $mark, DatasetItem $item): ?Box
    {
        $box = $mark->geometry->clippedTo($item->width, $item->height);
        if ($box === null) {
            return null;
        }
        [$xmin, $ymin, $xmax, $ymax] = self::corners($box);

        return Box::of($xmin - 1, $ymin - 1, $xmax - $xmin + 1, $ymax - $ymin + 1);
    }

    public function tolerance(DatasetItem $item): float
    {
        // half a pixel by rounding; a box thinner than a pixel is widened to one
        return 1.0;
    }

    /** @return array{int, int, int, int} xmin, ymin, xmax, ymax: 1-based, inclusive */
    private static function corners(Box $box): array
    {
        $xmin = (int) round($box->x) + 1;
        $ymin = (int) round($box->y) + 1;

        return [$xmin, $ymin, max((int) round($box->right()), $xmin), max((int) round($box->bottom()), $ymin)];
    }

    private function xml(DatasetItem $item, MappingReport $report): string
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
        $xml->writeElement('segmented', '0');
        foreach ($item->marks as $mark) {
            $box = $mark->geometry->clippedTo($item->width, $item->height);
            if ($box === null) {
                $report->count('boxes outside their picture can\'t be said in VOC and were left out');

                continue;
            }
            if ($box !== $mark->geometry) {
                $report->count('boxes that reach past the edge were cut at it');
            }
            if (round($box->right()) < round($box->x) + 1 || round($box->bottom()) < round($box->y) + 1) {
                $report->count('boxes thinner than a pixel after rounding were written one pixel wide');
            }
            if ($mark->answers !== []) {
                $report->count('answers can\'t be said in VOC and were left out', count($mark->answers));
            }
            $class = $this->codebook->classes[$mark->class];
            [$xmin, $ymin, $xmax, $ymax] = self::corners($box);
            $xml->startElement('object');
            $xml->writeElement('name', $this->codebook->exportName($class));
            $xml->writeElement('pose', 'Unspecified');
            $xml->writeElement('truncated', '0');
            $xml->writeElement('difficult', $class->ignore ? '1' : '0');
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
