<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Json\Lines;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/**
 * COCO: boxes, outlines, masks and keypoints. One JSON per part of the split (`annotations/train.json` …, or `annotations/all.json`), pictures under
 * `images/`. Category ids count from 1 in the codebook's order. Beyond the standard: `images[].labelled` tells an empty picture
 * from one nobody looked at, and `annotations[].attributes` holds answers, ways of having none, flags, part-of links, own stack place and author; `images[].attributes` and `images[].tags` what is said
 * of the picture as a whole; of frames of clips `images[].frame_index` (from 0) and `annotations[].track_id`; of pages of documents `images[].document` and `images[].page_index` (from 0).
 */
final readonly class CocoWriter implements DatasetWriter
{
    private CocoShape $shape;

    public function __construct(private Codebook $codebook)
    {
        $this->shape = new CocoShape($codebook);
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $parts = [];
        // one pass over the dataset: annotations wait in a file of their own until all images of their part are written
        foreach ($dataset->items() as $item) {
            $part = $item->part->value ?? 'all';
            $parts[$part] ??= $this->open($dataset, $folder, $part);
            $this->item($parts[$part], $item, $report);
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

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        foreach ($item->marks as $mark) {
            $geometry = $mark->geometry instanceof Box && $this->codebook->classes[$mark->class]->allows(Shape::Box)
                ? CocoShape::rounded($mark->geometry)
                : $this->shape->hold($this->codebook->classes[$mark->class], $mark->geometry, $item->width, $item->height);
            if ($geometry !== null) {
                // a polygon with holes goes out as a mask, and of a class without masks comes back as the outline of its pixels
                $held[] = new Held($mark, $geometry, $geometry::class !== $mark->geometry::class || ($mark->geometry instanceof Polygon && $mark->geometry->hasHoles()));
            }
        }

        return $held;
    }

    public function tolerance(DatasetItem $item): float
    {
        // what working out the corners of a turned box and back leaves
        return 1e-6;
    }

    private function open(Dataset $dataset, Folder $folder, string $part): CocoPart
    {
        return CocoPart::open($folder, $part, '{"info":'.Lines::encode(['description' => $dataset->name, 'version' => '1.0', 'contributor' => 'Skeno']).",\n\"licenses\":[],");
    }

    private function item(CocoPart $part, DatasetItem $item, MappingReport $report): void
    {
        $part->images++;
        $image = [
            'id' => $part->images,
            'file_name' => $item->path,
            'width' => $item->width,
            'height' => $item->height,
            'labelled' => $item->labelled !== Labelled::Unlabelled,
        ];
        if ($item->frame !== null) {
            $image['frame_index'] = $item->frame;
        }
        if ($item->page !== null) {
            $image += ['document' => dirname($item->path), 'page_index' => $item->page];
        }
        if ($item->said->answers !== []) {
            $image['attributes'] = self::answers($item->said->answers);
        }
        if ($item->said->tags !== []) {
            $image['tags'] = $item->said->tags;
        }
        $part->put($part->main, ($part->images === 1 ? "\n" : ",\n").Lines::encode($image));
        $lines = '';
        $ids = [];
        $next = $part->annotations;
        foreach ($item->marks as $mark) {
            $class = $this->codebook->classes[$mark->class];
            if ($this->shape->holds($class, $mark->geometry)) {
                $ids[$mark->id] = ++$next;
                $this->report($mark, $report);
            } else {
                $report->count("marks drawn as {$mark->kind->words()} can't be said in COCO and were left out");
            }
        }
        foreach ($item->marks as $mark) {
            if (! isset($ids[$mark->id])) {
                continue;
            }
            if ($mark->geometry instanceof PointSet) {
                $part->points[$mark->class] = max($part->points[$mark->class] ?? 0, $mark->geometry->count());
            }
            $part->annotations++;
            $lines .= ($part->annotations === 1 ? "\n" : ",\n").$this->annotation($part, $mark, $item, $ids);
        }
        $part->put($part->waiting, $lines);
    }

    private function report(Mark $mark, MappingReport $report): void
    {
        $geometry = $mark->geometry;
        if ($geometry instanceof Ellipse || $geometry instanceof TurnedBox) {
            $report->count("marks drawn as {$mark->kind->words()} went out as their outline polygon");
        } elseif ($geometry instanceof Polygon && $geometry->hasHoles()) {
            $report->count('polygons with holes went out as masks');
        }
    }

    /**
     * @param  array<string, Answer>  $answers
     * @return array<string, mixed>
     */
    private static function answers(array $answers): array
    {
        $attributes = $noValue = [];
        foreach ($answers as $key => $answer) {
            if ($answer->noValue !== null) {
                $noValue[$key] = $answer->noValue->value;
            } else {
                $attributes[$key] = $answer->value;
            }
        }

        return $noValue === [] ? $attributes : $attributes + ['no_value' => $noValue];
    }

    private function close(CocoPart $part): void
    {
        $categories = [];
        foreach ($this->codebook->classes as $class) {
            $category = ['id' => $class->index + 1, 'name' => $this->codebook->exportName($class), 'supercategory' => ''];
            $skeleton = $this->codebook->skeletonOf($class);
            if ($skeleton !== null) {
                $category['keypoints'] = array_keys($skeleton->nodes);
                $category['skeleton'] = array_map(static fn (array $bone): array => [$bone[0] + 1, $bone[1] + 1], $skeleton->bones());
            } elseif (($part->points[$class->key] ?? 0) > 0) {
                $category['keypoints'] = array_map(static fn (int $i): string => $class->pointNames[$i - 1] ?? "point_{$i}", range(1, max($class->points ?? 0, $part->points[$class->key])));
                $category['skeleton'] = [];
            }
            $categories[] = Lines::encode($category);
        }
        $part->close($categories);
    }

    /** @param  array<string, int>  $ids  annotation ids of the item's marks */
    private function annotation(CocoPart $part, Mark $mark, DatasetItem $item, array $ids): string
    {
        $class = $this->codebook->classes[$mark->class];
        $data = ['id' => $ids[$mark->id], 'image_id' => $part->images, 'category_id' => $class->index + 1]
            + $this->shape->write($class, $mark->flat(), $item->width, $item->height)
            + ($item->frame === null ? [] : ['track_id' => $part->track(dirname($item->path), $mark->id)])
            + ['iscrowd' => $mark->has(Flag::Crowd) ? 1 : 0]
            + ($mark->confidence === null ? [] : ['score' => $mark->confidence]);
        $attributes = self::answers($mark->answers);
        $flags = array_values(array_filter($mark->flags, static fn (Flag $flag): bool => $flag !== Flag::Crowd));
        if ($flags !== []) {
            $attributes['flags'] = array_map(static fn (Flag $flag): string => $flag->value, $flags);
        }
        if ($mark->partOf !== null && isset($ids[$mark->partOf])) {
            $attributes['part_of'] = $ids[$mark->partOf];
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
