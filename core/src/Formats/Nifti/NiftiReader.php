<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Nifti;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Formats\Csv\Csv;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\RefusedVolume;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\VolumeLimits;

/**
 * Reads NIfTI label maps named as their scans, see NiftiWriter. Values are classes in the order of a `labels.txt`, whose lines are a name, or a
 * value and a name; without one of the codebook. Each class of a map is one mark of that volume, unless `objects.csv` tells its objects apart.
 */
final readonly class NiftiReader implements LabelReader
{
    /** How far a corner of the map may lie from that of its scan, in parts of a voxel: what rounding by other programs leaves. */
    private const OFF = 0.05;

    /** Marks one map may hold. */
    private const MOST_VALUES = 1000;

    /** @param  Closure(): string  $newId */
    public function __construct(private Codebook $codebook, private Closure $newId, private VolumeLimits $limits = new VolumeLimits)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path));
        $classes = $this->classes($folder->has('labels.txt') ? $folder->read('labels.txt', 1 << 20) : null);
        $objects = $this->objects($folder);
        $files = is_dir($path) ? $folder->files() : [basename($path)];
        $single = array_fill_keys(array_merge(...array_map(static fn (array $of): array => array_column($of, 0), array_values($objects))), true);
        $maps = array_values(array_filter($files, fn (string $file): bool => preg_match('/\.nii(\.gz)?$/i', $file) === 1 && ! isset($single[$file]) && (! str_starts_with($file, 'images/') || $this->isMap($folder->file($file)))));
        if ($maps === []) {
            throw UnreadableLabels::because('there is no label map (.nii or .nii.gz) in the folder');
        }
        foreach ($maps as $file) {
            $volume = self::volume($file, $pictures);
            if (is_string($volume)) {
                yield new Skipped($file, 'the whole file', $volume);

                continue;
            }
            $scan = $volume->scan;
            if ($scan === null) {
                yield new Skipped($file, 'the whole file', "\"{$volume->path}\" is no volume");

                continue;
            }
            try {
                $marks = [];
                if (isset($objects[$volume->path])) {
                    foreach ($objects[$volume->path] as [$object, $word]) {
                        $class = $this->codebook->classNamed($word);
                        if ($class === null) {
                            yield new Skipped($object, 'the whole file', "the codebook has no class \"{$word}\"");

                            continue;
                        }
                        foreach (self::values($folder->file($object), $scan, $this->limits) as $value => $slices) {
                            yield from $this->mark($class, $slices, $volume, $marks);
                        }
                    }
                } else {
                    foreach (self::values($folder->file($file), $scan, $this->limits) as $value => $slices) {
                        $class = $classes[$value] ?? null;
                        if (! $class instanceof LabelClass) {
                            yield new Skipped($file, "value {$value}", $class === null ? 'the list of classes has no such value' : "the codebook has no class \"{$class}\"");

                            continue;
                        }
                        yield new Notice('label maps do not tell objects apart: each class came in as one mark a volume');
                        yield from $this->mark($class, $slices, $volume, $marks);
                    }
                }
            } catch (RefusedVolume|InvalidValue $e) {
                yield new Skipped($file, 'the whole file', $e->getMessage());

                continue;
            }
            yield new ReadLabels($volume, $marks, $marks === [] ? Labelled::Nothing : Labelled::Objects);
        }
    }

    /** Whether a file among the scans is a map after all: of a set that is itself called so. */
    private function isMap(string $file): bool
    {
        try {
            return Nifti::open($file, $this->limits)->isLabels;
        } catch (RefusedVolume) {
            return false;
        }
    }

    private static function volume(string $file, KnownPictures $pictures): KnownPicture|string
    {
        // where two scans differ in their ending alone, the map of one is named with it
        $found = $pictures->find((string) preg_replace('/\.nii(\.gz)?$/i', '', $file));
        $found = is_string($found) ? $pictures->find($file) : $found;
        // scan.nii for scan.nii.gz, and the other way round; a zip of pictures of that name
        $found = is_string($found) ? $pictures->find($file, true) : $found;

        return is_string($found) ? "volume \"{$file}\" is not in the project" : $found;
    }

    /**
     * @param  array<int, Mask>  $slices
     * @param  list<Mark>  $marks  gets one more
     * @return iterable<Notice>
     */
    private function mark(LabelClass $class, array $slices, KnownPicture $volume, array &$marks): iterable
    {
        $keys = [];
        $notices = [];
        $shape = null;
        foreach ($slices as $z => $mask) {
            [$geometry, $notice] = Fit::into($class, $mask, $volume->width, $volume->height);
            // a track keeps its shape: where one slice can't be what its class asks, none is
            $shape ??= $geometry::class;
            $keys[] = Key::of($z, $geometry::class === $shape ? $geometry : $mask);
            $notices[$notice ?? ''] = true;
        }
        foreach (array_keys($notices) as $notice) {
            if ($notice !== '') {
                yield new Notice($notice);
            }
        }
        if (array_filter($keys, static fn (Key $key): bool => ($key->geometry === null ? null : $key->geometry::class) !== $shape) !== []) {
            $keys = array_map(static fn (int $z, Mask $mask): Key => Key::of($z, $mask), array_keys($slices), $slices);
        }
        if ($keys !== []) {
            $marks[] = Mark::along(($this->newId)(), $class->key, $keys, Places::fromArray(array_map(static fn (Key $key): array => [$key->place, $key->place], $keys)));
        }
    }

    /**
     * The voxels of each value of a map, on the slices of the sheet.
     *
     * @return array<int, array<int, Mask>> by value, then slice, both in order
     *
     * @throws RefusedVolume
     */
    private static function values(string $file, Scan $scan, VolumeLimits $limits): array
    {
        $map = Nifti::open($file, $limits);
        $grid = $map->grid();
        if ($grid->sizes !== $scan->grid->sizes) {
            throw RefusedVolume::because('it has '.implode(' × ', $grid->sizes).' voxels, its scan '.implode(' × ', $scan->grid->sizes));
        }
        if ($grid->isOriented && $scan->grid->isOriented) {
            foreach ($grid->affine as $n => $number) {
                $by = $n % 4 === 3 ? 1 : $scan->grid->sizes[$n % 4];
                if (abs($number - $scan->grid->affine[$n]) * $by > self::OFF * min($scan->grid->spacing())) {
                    throw RefusedVolume::because('it lies elsewhere than its scan: their affine maps differ');
                }
            }
        }
        [$slope, $intercept] = $map->scaling();
        $laid = $scan->laid;
        [$width, $height] = $laid->sizes;
        $found = [];
        foreach ($map->slices() as $k => $values) {
            // most slices of most maps hold nothing
            if ($slope === 1.0 && $intercept === 0.0 && array_filter($values, boolval(...)) === []) {
                continue;
            }
            $shown = $laid->isPlain() ? $values : $laid->shown($values);
            $columns = [];
            for ($x = 0; $x < $width; $x++) {
                $now = 0;
                for ($y = 0, $at = $x; $y < $height; $y++, $at += $width) {
                    $value = $shown[$at] * $slope + $intercept;
                    if ($value === (float) $now) {
                        continue;
                    }
                    if (! is_finite($value) || $value < 0 || floor($value) !== $value || $value > 1e9) {
                        throw RefusedVolume::because('slice '.($k + 1).' holds '.InvalidValue::show($value).'; labels are whole numbers from 0');
                    }
                    if ($now !== 0) {
                        $columns[$now][$x][] = $y;
                    }
                    $now = (int) $value;
                    if ($now !== 0) {
                        $columns[$now][$x][] = $y;
                    }
                }
                if ($now !== 0) {
                    $columns[$now][$x][] = $height;
                }
            }
            foreach ($columns as $value => $runs) {
                $found[$value][$laid->slice($k)] = Mask::ofColumns($width, $height, $runs);
            }
            if (count($found) > self::MOST_VALUES) {
                throw RefusedVolume::because('it has more than '.self::MOST_VALUES.' values; is it a scan rather than a label map?');
            }
        }
        ksort($found);
        foreach ($found as &$slices) {
            ksort($slices);
        }

        return $found;
    }

    /** @return array<int, LabelClass|string> by value: the class, or a name the codebook does not have */
    private function classes(?string $labels): array
    {
        $classes = [];
        if ($labels === null) {
            foreach (array_values($this->codebook->classes) as $i => $class) {
                $classes[$i + 1] = $class;
            }

            return $classes;
        }
        $next = 1;
        foreach (preg_split('/\R/', $labels) ?: [] as $line) {
            $line = trim($line);
            if ($line === '' || str_starts_with($line, '#')) {
                continue;
            }
            // "3 core" or "3: core" names its value; a class may itself begin with a number
            $named = $this->codebook->classNamed($line);
            if ($named === null && preg_match('/^(\d{1,9})[\s,:;]+"?(.+?)"?$/', $line, $parts) === 1) {
                [$next, $line] = [(int) $parts[1], $parts[2]];
                $named = $this->codebook->classNamed($line);
            }
            $classes[$next++] = $named ?? $line;
        }

        return $classes;
    }

    /** @return array<string, list<array{string, string}>> file and class of each object, by volume */
    private function objects(Folder $folder): array
    {
        $stream = $folder->has('objects.csv') ? fopen($folder->file('objects.csv'), 'rb') : false;
        if ($stream === false) {
            return [];
        }
        $objects = [];
        fgetcsv($stream, null, ',', '"', '');
        while (($row = fgetcsv($stream, null, ',', '"', '')) !== false) {
            // only what lies where the maps of objects lie; a table can't name a file elsewhere
            if (isset($row[0], $row[1], $row[2]) && preg_match('#^objects/(?!.*\.\.(/|$))[^\0]+\.nii(\.gz)?$#', $row[1]) === 1) {
                $objects[Csv::text($row[0])][] = [$row[1], Csv::text($row[2])];
            }
        }
        fclose($stream);

        return $objects;
    }
}
