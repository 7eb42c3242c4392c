<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Symfony\Component\Yaml\Yaml;

/**
 * YOLO boxes, turned boxes, segments or poses: `labels/<part>/<path>.txt` beside `images/<part>/<path>`, `data.yaml`. A line is the class and its numbers (YoloKind) over the
 * picture's size, 6 decimals, classes from 0 in the codebook's order. An empty file: nothing there. No file: not labelled. In the older layout
 * `data/<path>.txt` lies beside `data/<path>`, with `classes.names` and a list of pictures for each part.
 */
final readonly class YoloWriter implements DatasetWriter
{
    private YoloLine $line;

    public function __construct(private Codebook $codebook, private YoloKind $kind = YoloKind::Boxes, private YoloLayout $layout = YoloLayout::Folders)
    {
        $this->line = new YoloLine($codebook, $kind);
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $split = false;
        $lists = $parts = [];
        foreach ($dataset->items() as $item) {
            $part = $item->part->value ?? 'all';
            $parts[$part] = true;
            $split = $split || $item->part !== null;
            [$picture, $text] = $this->places($item->path, $part);
            $lists[$part] = ($lists[$part] ?? '')."{$picture}\n";
            if ($pictures) {
                $folder->take($picture, $dataset->pictureFile($item));
            }
            if ($item->labelled === Labelled::Unlabelled) {
                continue;
            }
            $lines = '';
            foreach ($item->marks as $mark) {
                if ($mark->confidence !== null) {
                    $report->count('confidences can\'t be said in YOLO labels and were left out');
                }
                $line = $this->line->write($this->codebook->classes[$mark->class], $mark->geometry, $item->width, $item->height);
                if ($line === null) {
                    $report->count($mark->geometry instanceof Box && $this->kind === YoloKind::Boxes ? 'boxes outside their picture can\'t be said in YOLO and were left out' : "marks drawn as {$mark->kind->words()} can't be said in this kind of YOLO and were left out");

                    continue;
                }
                $lines .= "{$this->codebook->classes[$mark->class]->index} {$line}\n";
                $this->report($mark, $item, $report);
            }
            if ($lines === '' && $item->marks !== []) {
                $report->count('pictures have only marks this kind of YOLO can\'t say; their files are empty, as if nothing were there');
            }
            if ($folder->has($text)) {
                $report->count('pictures share their name with another but for the ending; their labels were left out');

                continue;
            }
            $folder->write($text, $lines);
            if ($item->orientation !== 1) {
                $report->count('pictures are turned upright by their EXIF orientation; a loader must honour it');
            }
        }
        $this->layout === YoloLayout::Folders ? $folder->write('data.yaml', $this->yaml($split, array_keys($parts), $pictures)) : $this->lists($folder, $lists, $report);

        return $report;
    }

    /** @return array{string, string} where a picture and its text go */
    private function places(string $path, string $part): array
    {
        $stem = preg_replace('/\.[^.\/]*$/', '', $path) ?? $path;

        return $this->layout === YoloLayout::Folders ? ["images/{$part}/{$path}", "labels/{$part}/{$stem}.txt"] : ["data/{$path}", "data/{$stem}.txt"];
    }

    /** @param  array<string, string>  $lists  pictures by part, one a line */
    private function lists(Folder $folder, array $lists, MappingReport $report): void
    {
        $all = $lists['all'] ?? '';
        foreach (['train' => 'train', 'val' => 'valid', 'test' => 'test'] as $part => $name) {
            // without a split, train and valid are the same pictures
            $list = ($lists[$part] ?? '').($part === 'test' ? '' : $all);
            if ($list !== '' || $part !== 'test') {
                $folder->write("{$name}.txt", $list);
            }
        }
        $folder->write('classes.names', implode('', array_map(fn (LabelClass $class): string => $this->codebook->exportName($class)."\n", $this->codebook->classes)));
        $folder->write('pictures.data', 'classes = '.count($this->codebook->classes)."\ntrain = train.txt\nvalid = valid.txt\nnames = classes.names\n");
        if ($this->kind === YoloKind::Pose) {
            $report->count('nodes and their twins can\'t be named in the older layout; their order is that of the codebook', $this->line->nodes());
        }
    }

    /** @param  list<string>  $parts  that have pictures */
    private function yaml(bool $split, array $parts, bool $pictures): string
    {
        $lines = $pictures ? [] : ['# this release has no pictures: they go into images/ as their texts lie in labels/'];
        if ($split) {
            array_push($lines, 'path: .', ...array_map(static fn (string $part): string => "{$part}: images/{$part}", array_values(array_intersect(['train', 'val', 'test'], $parts))));
            if (! in_array('val', $parts, true) && in_array('train', $parts, true)) {
                array_push($lines, '# no picture fell to val: it is train', 'val: images/train');
            }
        } else {
            array_push($lines, '# no split was asked for: train and val are the same pictures', 'path: .', 'train: images/all', 'val: images/all');
        }
        $lines[] = $this->codebook->classes === [] ? 'names: {}' : 'names:';
        foreach ($this->codebook->classes as $class) {
            $lines[] = "  {$class->index}: ".Yaml::dump($this->codebook->exportName($class));
        }

        if ($this->kind === YoloKind::Pose) {
            $lines[] = "kpt_shape: [{$this->line->nodes()}, 3]";
            $skeletons = array_values(array_unique(array_filter(array_map(static fn (LabelClass $class): string => $class->skeleton ?? '', $this->codebook->classes), static fn (string $key): bool => $key !== '')));
            if ($skeletons !== []) {
                // one list for all: of the first skeleton, the rest in place
                $flip = $this->codebook->skeletons[$skeletons[0]]->flip();
                for ($i = count($flip); $i < $this->line->nodes(); $i++) {
                    $flip[] = $i;
                }
                $lines[] = 'flip_idx: ['.implode(', ', $flip).']';
            }
        }

        return implode("\n", $lines)."\n";
    }

    private function report(Mark $mark, DatasetItem $item, MappingReport $report): void
    {
        if ($mark->flat()->bounds()->overhang($item->width, $item->height) > 0) {
            $report->count('boxes that reach past the edge were cut at it');
        }
        if ($this->kind === YoloKind::Boxes && ! $mark->geometry instanceof Box) {
            $report->count("marks drawn as {$mark->kind->words()} went out as their boxes");
        }
        if ($this->kind === YoloKind::Turned && $mark->geometry instanceof Box) {
            $report->count('upright boxes went out by their four corners');
        }
        if ($this->kind === YoloKind::Segments && $mark->geometry instanceof Mask) {
            $report->count('masks went out as their outlines');
        } elseif ($this->kind === YoloKind::Segments && ! $mark->geometry instanceof Polygon) {
            $report->count("marks drawn as {$mark->kind->words()} went out as their outlines");
        }
        if ($mark->answers !== []) {
            $report->count('answers can\'t be said in YOLO and were left out', count($mark->answers));
        }
        if ($this->codebook->classes[$mark->class]->ignore) {
            $report->count('marks of an ignore class are plain objects in YOLO');
        }
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        foreach ($item->marks as $mark) {
            $geometry = $this->line->hold($this->codebook->classes[$mark->class], $mark->geometry, $item->width, $item->height);
            if ($geometry !== null) {
                $exact = match ($this->kind) {
                    YoloKind::Boxes => $mark->geometry instanceof Box,
                    YoloKind::Turned => $mark->geometry instanceof TurnedBox,
                    // a closing point that is the first again, and seams that are drawn, are not there any more when it is read
                    YoloKind::Segments => $mark->geometry instanceof Polygon && Seam::part($mark->geometry->rings()[0]) === $mark->geometry->rings(),
                    YoloKind::Pose => true,
                };
                $held[] = new Held($mark, $geometry, ! $exact || $geometry::class !== $mark->geometry::class);
            }
        }

        return $held;
    }

    public function tolerance(DatasetItem $item): float
    {
        return 1.5e-6 * max($item->width, $item->height);
    }
}
