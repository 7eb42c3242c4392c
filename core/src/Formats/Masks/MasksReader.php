<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Masks;

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
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;

/**
 * Reads mask PNGs as MasksWriter makes them. Where there are only class images, each class is one mark a picture: they do not say which
 * pixels belong to which object.
 */
final class MasksReader implements LabelReader
{
    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path));
        $classes = $this->classes($folder);
        $objects = $this->objects($folder);
        $files = array_values(array_filter($folder->files(), static fn (string $file): bool => preg_match('/^classes\/.*\.png$/i', $file) === 1));
        if ($files === []) {
            throw UnreadableLabels::because('there is no class image (classes/….png) in the folder');
        }
        foreach ($files as $file) {
            // of a picture that is a PNG the image has its name, of others that and .png
            $name = substr($file, 8);
            $picture = $pictures->find($name);
            if (is_string($picture)) {
                $name = substr($name, 0, -4);
                $picture = $pictures->find($name);
                $picture = is_string($picture) ? $pictures->find($name, true) : $picture;
            }
            if (is_string($picture)) {
                yield new Skipped($file, 'file', $picture);

                continue;
            }
            $marks = [];
            if (isset($objects[$name])) {
                foreach ($objects[$name] as [$object, $word]) {
                    $class = $this->codebook->classNamed($word);
                    if ($class === null) {
                        yield new Skipped($object, 'file', "the codebook has no class \"{$word}\"");

                        continue;
                    }
                    try {
                        $mask = $this->image($folder, $object, $picture)[255] ?? null;
                        if ($mask !== null) {
                            yield from $this->fit($class, $mask, $picture, $marks);
                        }
                    } catch (InvalidValue $e) {
                        yield new Skipped($object, 'file', $e->getMessage());
                    }
                }
            } else {
                try {
                    foreach ($this->image($folder, $file, $picture) as $index => $mask) {
                        if ($index === 0) {
                            continue;
                        }
                        $class = $classes[$index] ?? null;
                        if (! $class instanceof LabelClass) {
                            yield new Skipped($file, "index {$index}", $class === null ? 'the table of classes has no such index' : "the codebook has no class \"{$class}\"");

                            continue;
                        }
                        yield new Notice('class images do not tell objects apart: each class came in as one mark a picture');
                        yield from $this->fit($class, $mask, $picture, $marks);
                    }
                } catch (InvalidValue $e) {
                    yield new Skipped($file, 'file', $e->getMessage());

                    continue;
                }
            }
            yield new ReadLabels($picture, $marks, $marks === [] ? Labelled::Nothing : null);
        }
    }

    /**
     * @param  list<Mark>  $marks
     * @return iterable<Notice>
     */
    private function fit(LabelClass $class, Mask $mask, KnownPicture $picture, array &$marks): iterable
    {
        [$geometry, $notice] = Fit::into($class, $mask, $picture->width, $picture->height);
        if ($notice !== null) {
            yield new Notice($geometry instanceof Box ? 'masks of a class that has only boxes came in as their boxes' : $notice);
        }
        $marks[] = Mark::of(($this->newId)(), $class->key, $geometry);
    }

    /** @return array<int, Mask> */
    private function image(Folder $folder, string $file, KnownPicture $picture): array
    {
        return IndexImage::read($folder->file($file), $picture->width, $picture->height)->masks();
    }

    /** @return array<int, LabelClass|string> class, or its unknown name, by index */
    private function classes(Folder $folder): array
    {
        if (! $folder->has('colormap.json')) {
            throw UnreadableLabels::because('there is no colormap.json that says what the indexes mean');
        }
        $classes = [];
        try {
            foreach (Fields::of(json_decode($folder->read('colormap.json', 1 << 20), true), 'colormap.json')->objects('classes') as $entry) {
                $name = $entry->string('class', 1000);
                $classes[$entry->int('index', 0, 255)] = $this->codebook->classNamed($name) ?? $name;
            }
        } catch (InvalidValue $e) {
            throw UnreadableLabels::because($e->getMessage());
        }

        return $classes;
    }

    /** @return array<string, list<array{string, string}>> file and class of each object, by picture */
    private function objects(Folder $folder): array
    {
        if (! $folder->has('objects.csv')) {
            return [];
        }
        $objects = [];
        $stream = fopen($folder->file('objects.csv'), 'rb');
        if ($stream === false) {
            throw UnreadableLabels::because('objects.csv can\'t be read');
        }
        fgetcsv($stream, null, ',', '"', '');
        while (($row = fgetcsv($stream, null, ',', '"', '')) !== false) {
            // only what lies where object masks lie; a table can't name a file elsewhere
            if (isset($row[0], $row[1], $row[2]) && preg_match('/^objects\/(?!.*\.\.\/)[^\0]+\.png$/', $row[1]) === 1) {
                $objects[\Skeno\Core\Formats\Csv\Csv::text($row[0])][] = [$row[1], \Skeno\Core\Formats\Csv\Csv::text($row[2])];
            }
        }
        fclose($stream);

        return $objects;
    }
}
