<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Mark;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/**
 * Reads YOLO boxes, turned boxes, segments and poses in both layouts: `data.yaml` with labels/ beside images/, and the older one, a `.names` list with the label
 * text beside its picture. The path may be the folder, its data.yaml or its .names file.
 */
final class YoloReader implements LabelReader
{
    private readonly YoloLine $line;

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId, YoloKind $kind = YoloKind::Boxes)
    {
        $this->line = new YoloLine($codebook, $kind);
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path));
        $files = $folder->files();
        $names = $this->names($folder, is_dir($path) ? null : basename($path), $files);
        $parts = $this->parts($folder, $files);
        $any = false;
        foreach ($files as $file) {
            // lists of pictures (train.txt …), class lists and read-me files stand at the top and are no labels
            if (! str_ends_with(strtolower($file), '.txt') || (! str_contains($file, '/') && preg_match('/^(train|val|valid|test|classes|readme.*|license.*)\.txt$/i', $file) === 1)) {
                continue;
            }
            $any = true;
            $picture = $pictures->find((string) preg_replace('/^(.*\/)?labels\//', '', $file), true);
            if (is_string($picture)) {
                $shorter = $pictures->find((string) preg_replace('/^(.*\/)?labels\/(train|val|valid|test|all)\//', '', $file), true);
                $picture = is_string($shorter) ? $picture : $shorter;
            }
            yield from $this->file($folder, $file, $picture, $names, $parts[preg_replace('/\.txt$/i', '', $file) ?? ''] ?? null);
        }
        if (! $any) {
            throw UnreadableLabels::because('there is no YOLO label file (.txt) in the folder');
        }
    }

    /**
     * The parts of the older layout: lists of pictures at the top, each beside its text.
     *
     * @param  list<string>  $files
     * @return array<string, Part> by path of the text without its ending; none where a picture is in several lists
     */
    private function parts(Folder $folder, array $files): array
    {
        $found = [];
        foreach (['train' => Part::Train, 'valid' => Part::Val, 'val' => Part::Val, 'test' => Part::Test] as $name => $part) {
            if (in_array("{$name}.txt", $files, true)) {
                foreach (preg_split('/\R/', $folder->read("{$name}.txt")) ?: [] as $line) {
                    $stem = (string) preg_replace(['/^\.\//', '/\.[^.\/]*$/'], '', str_replace('\\', '/', trim($line)));
                    $found[$stem][$part->value] = $part;
                }
            }
        }

        return array_map(static fn (array $parts): Part => reset($parts), array_filter($found, static fn (array $parts): bool => count($parts) === 1));
    }

    /**
     * @param  list<string>  $files
     * @return array<array-key, mixed> class names by index
     */
    private function names(Folder $folder, ?string $given, array $files): array
    {
        $top = array_values(array_filter($files, static fn (string $file): bool => ! str_contains($file, '/')));
        $top = $given !== null ? [$given] : $top;
        $matching = static fn (string $pattern): array => array_values(array_filter($top, static fn (string $file): bool => preg_match($pattern, $file) === 1));
        foreach ($matching('/\.ya?ml$/i') as $file) {
            try {
                $data = Yaml::parse((string) preg_replace('/^\xEF\xBB\xBF/', '', $folder->read($file, 1 << 20)));
            } catch (ParseException $e) {
                throw UnreadableLabels::because("{$file} is not YAML: {$e->getMessage()}");
            }
            if (is_array($data) && isset($data['names']) && is_array($data['names'])) {
                return $data['names'];
            }
        }
        foreach ($matching('/(\.names|^classes\.txt)$/i') as $file) {
            return preg_split('/\R/', rtrim((string) preg_replace('/^\xEF\xBB\xBF/', '', $folder->read($file, 1 << 20)))) ?: [];
        }
        throw UnreadableLabels::because('there is no list of class names: neither a data.yaml with "names" nor a .names file');
    }

    /**
     * @param  array<array-key, mixed>  $names
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function file(Folder $folder, string $file, KnownPicture|string $picture, array $names, ?Part $listed): iterable
    {
        try {
            $text = $folder->read($file, 16 << 20);
        } catch (\RuntimeException $e) {
            yield new Skipped($file, 'file', $e->getMessage());

            return;
        }
        $marks = [];
        $objects = 0;
        foreach (preg_split('/\R/', (string) preg_replace('/^\xEF\xBB\xBF/', '', $text)) ?: [] as $i => $line) {
            if (trim($line) === '') {
                continue;
            }
            $objects++;
            $place = 'line '.($i + 1);
            if (is_string($picture)) {
                yield new Skipped($file, $place, $picture);

                continue;
            }
            try {
                $notices = [];
                $marks[] = $this->mark($line, $picture, $names, $notices);
                foreach ($notices as $notice) {
                    yield new Notice($notice);
                }
            } catch (InvalidValue $e) {
                yield new Skipped($file, $place, $e->getMessage());
            }
        }
        if (is_string($picture)) {
            if ($objects === 0) {
                yield new Skipped($file, 'file', $picture);
            }

            return;
        }
        if ($marks !== [] || $objects === 0) {
            $part = preg_match('/(^|\/)(train|val|valid|test)\//', $file, $m) === 1 ? Part::from($m[2] === 'valid' ? 'val' : $m[2]) : $listed;
            yield new ReadLabels($picture, $marks, null, $part);
        }
    }

    /**
     * @param  array<array-key, mixed>  $names
     * @param  list<string>  $notices
     */
    private function mark(string $line, KnownPicture $picture, array $names, array &$notices): Mark
    {
        $fields = preg_split('/[\s,]+/', trim($line), 2 * Coordinates::MOST + 4) ?: [];
        foreach ($fields as $i => $field) {
            if (! is_numeric($field) || ! is_finite((float) $field)) {
                throw InvalidValue::at(['class', 'cx', 'cy', 'w', 'h'][$i] ?? 'number '.($i + 1), $field, 'a number');
            }
        }
        $numbers = array_map(floatval(...), $fields);
        $class = $this->class((float) array_shift($numbers), $names);

        return Mark::of(($this->newId)(), $class->key, $this->line->read($class, $numbers, $picture->width, $picture->height, $notices));
    }

    /** @param  array<array-key, mixed>  $names */
    private function class(float $index, array $names): LabelClass
    {
        $name = floor($index) === $index ? ($names[(int) $index] ?? null) : null;
        if (! is_scalar($name)) {
            throw InvalidValue::at('class', $index, 'an index in the list of class names');
        }

        return $this->codebook->classNamed((string) $name) ?? throw InvalidValue::at('class', (string) $name, 'a class of the codebook');
    }
}
