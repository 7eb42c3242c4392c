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
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Part;

/** Reads COCO panoptic files: `annotations/<part>.json` beside `panoptic_<part>/`, as PanopticWriter makes them. */
final class PanopticReader implements LabelReader
{
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
        $data = json_decode($folder->read($file, 512 << 20), true);
        if (! is_array($data) || ! isset($data['images'], $data['annotations'], $data['categories'])) {
            throw UnreadableLabels::because("{$file} is no COCO panoptic file");
        }
        $fields = Fields::of($data, $file);
        $classes = $images = $had = [];
        foreach ($fields->objects('categories') as $category) {
            $word = $category->string('name', 1000);
            $classes[$category->int('id')] = $this->codebook->classNamed($word) ?? "the codebook has no class \"{$word}\"";
        }
        foreach ($fields->objects('images') as $image) {
            $images[$image->int('id')] = [$pictures->find($image->string('file_name', 2000)), $image->raw('labelled')];
        }
        foreach ($fields->objects('annotations') as $i => $annotation) {
            $place = "annotations[{$i}]";
            try {
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
