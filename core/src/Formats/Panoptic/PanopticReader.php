<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Panoptic;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Json\ElementStream;
use Skeno\Core\Json\MalformedJson;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/** Reads COCO panoptic files: `annotations/<part>.json` beside `panoptic_<part>/`, as PanopticWriter makes them. */
final class PanopticReader implements LabelReader
{
    /** The pictures of a file are kept while it is read; all else goes by. */
    private const MOST_IMAGES = 1_000_000;

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path, 2));
        $any = false;
        foreach ($folder->files() as $file) {
            if (preg_match('/^annotations\/([a-z0-9_-]+)\.json$/i', $file, $m) === 1) {
                $any = true;
                yield from $this->file($folder, $file, $m[1], $pictures);
            }
        }
        if (! $any) {
            throw UnreadableLabels::because('there is no annotations/….json in the folder');
        }
    }

    /** @return iterable<ReadLabels|Skipped|Notice> */
    private function file(Folder $folder, string $file, string $name, KnownPictures $pictures): iterable
    {
        try {
            $classes = $images = $had = [];
            $sawImages = $sawSegments = false;
            // pictures and classes first, since annotations may stand before them
            foreach (ElementStream::ofFile($folder->file($file), ['images', 'categories']) as [$list, $i, $data]) {
                $sawImages = $sawImages || $list === 'images';
                if ($i === null) {
                    continue;
                }
                try {
                    $fields = Fields::of($data, "{$file}.{$list}[{$i}]");
                    if ($list === 'categories') {
                        $word = $fields->string('name', 1000);
                        $classes[$fields->int('id')] = $this->codebook->classNamed($word) ?? "the codebook has no class \"{$word}\"";

                        continue;
                    }
                    $images[$fields->int('id')] = [$pictures->find($fields->string('file_name', 2000)), $fields->raw('labelled')];
                } catch (InvalidValue $e) {
                    yield new Skipped($file, "{$list}[{$i}]", $e->getMessage());
                }
                if (count($images) > self::MOST_IMAGES) {
                    throw UnreadableLabels::because("{$file} has more than ".self::MOST_IMAGES.' images; bring it in by parts');
                }
            }
            foreach (ElementStream::ofFile($folder->file($file), ['annotations']) as [, $i, $data]) {
                if ($i === null) {
                    continue;
                }
                $sawSegments = true;
                $place = "annotations[{$i}]";
                try {
                    $annotation = Fields::of($data, "{$file}.{$place}");
                    $id = $annotation->int('image_id');
                    $picture = $images[$id][0] ?? "no image in the file has id {$id}";
                    $had[$id] = true;
                    $png = $annotation->string('file_name', 2000);
                    if (is_string($picture) || str_contains($png, '..')) {
                        yield new Skipped($file, $place, is_string($picture) ? $picture : 'its picture lies outside the folder');

                        continue;
                    }
                    $marks = [];
                    yield from $this->segments($annotation, IndexImage::read($folder->file("panoptic_{$name}/{$png}"), $picture->width, $picture->height)->masks(), $classes, $picture, $file, $place, $marks);
                    yield new ReadLabels($picture, $marks, $marks === [] ? Labelled::Nothing : null, Part::tryFrom($name));
                } catch (InvalidValue $e) {
                    yield new Skipped($file, $place, $e->getMessage());
                }
            }
            if (! $sawImages || (! $sawSegments && $classes === [])) {
                throw UnreadableLabels::because("{$file} is no COCO panoptic file");
            }
        } catch (MalformedJson $e) {
            throw UnreadableLabels::because("{$file}: {$e->getMessage()}");
        }
        foreach ($images as $id => [$picture, $labelled]) {
            if (! isset($had[$id]) && ! is_string($picture)) {
                yield new ReadLabels($picture, [], $labelled === false ? Labelled::Unlabelled : null, Part::tryFrom($name));
            }
        }
    }

    /**
     * @param  array<int, \Skeno\Core\Raster\Mask>  $masks
     * @param  array<int, LabelClass|string>  $classes
     * @param  list<Mark>  $marks
     * @return iterable<Skipped|Notice>
     */
    private function segments(Fields $annotation, array $masks, array $classes, KnownPicture $picture, string $file, string $place, array &$marks): iterable
    {
        foreach ($annotation->objects('segments_info') as $j => $segment) {
            $class = $classes[$segment->int('category_id')] ?? 'no category in the file has this id';
            $mask = $masks[$segment->int('id')] ?? null;
            if (is_string($class) || $mask === null) {
                yield new Skipped($file, "{$place}.segments_info[{$j}]", is_string($class) ? $class : 'the picture has no pixel of this segment');

                continue;
            }
            [$geometry, $notice] = Fit::into($class, $mask, $picture->width, $picture->height);
            if ($notice !== null) {
                yield new Notice($notice);
            }
            $marks[] = Mark::of(($this->newId)(), $class->key, $geometry, flags: $segment->raw('iscrowd') === 1 ? [Flag::Crowd] : []);
        }
    }
}
