<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Nifti;

use Generator;
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
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Volume\LabelMap;
use Skeno\Core\Volume\Scan;

/**
 * Label maps of volumes as NIfTI: `<path without its ending>.nii.gz`, of the same voxels as the scan and lying where it does. A voxel is the number
 * of its class, from 1 in the order of the codebook, 0 where nothing is; `labels.txt` has the classes line by line. Of every object
 * `objects/<path>/<n>.nii.gz`, 0 or 1, whole, however others lie over it; `objects.csv` says what each is, with its voxels and millilitres.
 * The scans themselves, where asked for, lie under `images/`.
 */
final readonly class NiftiWriter implements DatasetWriter
{
    /** Maps of objects that are written beside each other; each is a file that is open. */
    private const AT_ONCE = 64;

    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $folder->write('labels.txt', implode('', array_map(fn ($class): string => $this->codebook->exportName($class)."\n", array_values($this->codebook->classes))));
        $table = $folder->create('objects.csv');
        fwrite($table, Csv::line(['volume', 'file', 'class', 'value', 'voxels', 'ml']));
        $most = count($this->codebook->classes);
        foreach ($dataset->items() as $item) {
            if ($pictures) {
                $folder->take("images/{$item->path}", $dataset->pictureFile($item));
            }
            $scan = $item->scan;
            if ($item->labelled === Labelled::Unlabelled || $scan === null) {
                continue;
            }
            $stem = self::stem($item->path);
            // two scans that differ in their ending alone
            $stem = $folder->has("{$stem}.nii.gz") ? $item->path : $stem;
            $folder->write("{$stem}.nii.gz", '');
            $map = new LabelMap($folder->file("{$stem}.nii.gz"), $scan, $most);
            $solid = [];
            foreach ($item->marks as $mark) {
                $this->count($mark, $report);
                if (self::hasArea($mark)) {
                    $solid[] = $mark;
                }
            }
            // what lies between keys is worked out once for the map of all and for those of the objects
            foreach (array_chunk($solid, self::AT_ONCE) ?: [[]] as $n => $some) {
                $this->objects($item, $scan, $some, $n * self::AT_ONCE, $folder, $table, count($solid) <= self::AT_ONCE ? $map : null);
            }
            if (count($solid) > self::AT_ONCE) {
                foreach ($this->slices($item, $solid) as $z => $here) {
                    $map->slice($z, array_map(fn (array $one): array => [$this->value($solid[$one[0]]), $one[1]], $here));
                }
            }
            $map->close();
            if ($map->decided > 0) {
                $report->count('voxels under more than one mark were given to the one highest in the stack (label maps)', $map->decided);
            }
        }
        fclose($table);

        return $report;
    }

    /**
     * Writes the maps of some objects beside each other, and what they cover into the map of all.
     *
     * @param  list<Mark>  $marks  lowest in the stack first
     * @param  int  $from  how many of the item came before them
     * @param  resource  $table
     */
    private function objects(DatasetItem $item, Scan $scan, array $marks, int $from, Folder $folder, $table, ?LabelMap $all): void
    {
        $maps = $files = [];
        foreach (array_keys($marks) as $i) {
            $files[] = $file = sprintf('objects/%s/%04d.nii.gz', $item->path, $from + $i + 1);
            $folder->write($file, '');
            $maps[] = new LabelMap($folder->file($file), $scan, 1);
        }
        $voxels = array_fill(0, count($marks), 0);
        foreach ($this->slices($item, $marks) as $z => $here) {
            foreach ($here as [$i, $mask]) {
                $maps[$i]->slice($z, [[1, $mask]]);
                $voxels[$i] += (int) $mask->area();
            }
            $all?->slice($z, array_map(fn (array $one): array => [$this->value($marks[$one[0]]), $one[1]], $here));
        }
        foreach ($marks as $i => $mark) {
            $maps[$i]->close();
            fwrite($table, Csv::line([$item->path, $files[$i], $this->codebook->exportName($this->codebook->classes[$mark->class]), $this->value($mark), $voxels[$i], round($voxels[$i] * $scan->grid->voxel() / 1000, 6)]));
        }
    }

    public function hold(DatasetItem $item): iterable
    {
        foreach ($item->scan === null ? [] : $item->marks as $mark) {
            foreach (self::hasArea($mark) ? $this->masks($mark, $item) : [] as $z => [$mask, $true]) {
                $held = Fit::into($this->codebook->classes[$mark->class], $mask, $item->width, $item->height)[0];
                yield new Held($mark, $held, ! $true instanceof Mask, $z, $true);
            }
        }
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }

    /** `scan.nii.gz` and `scan.nii` are known by `scan`. */
    public static function stem(string $path): string
    {
        return (string) preg_replace('/(\.nii\.gz|\.[^.\/]+)$/i', '', $path);
    }

    private function value(Mark $mark): int
    {
        return $this->codebook->classes[$mark->class]->index + 1;
    }

    /** Whether there are voxels in it at all: points and lines have none. */
    private static function hasArea(Mark $mark): bool
    {
        return Painting::mask($mark->geometry, 1, 1) !== null;
    }

    /**
     * The marks as they are on each slice, lowest in the stack first.
     *
     * @param  list<Mark>  $marks  that cover voxels
     * @return Generator<int, list<array{int, Mask}>> which of the marks, and the voxels of it
     */
    private function slices(DatasetItem $item, array $marks): Generator
    {
        $open = [];
        foreach ($marks as $i => $mark) {
            $masks = $this->masks($mark, $item);
            if ($masks->valid()) {
                $open[$i] = $masks;
            }
        }
        while ($open !== []) {
            $z = min(array_map(static fn (Generator $masks): int => (int) $masks->key(), $open));
            $here = [];
            foreach ($open as $i => $masks) {
                if ($masks->key() === $z) {
                    $here[] = [$i, $masks->current()[0]];
                    $masks->next();
                    if (! $masks->valid()) {
                        unset($open[$i]);
                    }
                }
            }
            yield $z => $here;
        }
    }

    /** @return Generator<int, array{Mask, Geometry}> by slice: the voxels of a mark that covers some, and its true shape */
    private function masks(Mark $mark, DatasetItem $item): Generator
    {
        foreach ($mark->track()->shapes(0, $item->scan === null ? 0 : $item->scan->places() - 1) as $z => $shape) {
            $mask = Painting::mask($shape, $item->width, $item->height);
            if ($mask !== null && ! $mask->isEmpty()) {
                yield $z => [$mask, $shape];
            }
        }
    }

    private function count(Mark $mark, MappingReport $report): void
    {
        if (! self::hasArea($mark)) {
            $report->count('marks that cover no voxels can\'t be said by label maps and were left out');
        } elseif (! $mark->geometry instanceof Mask) {
            $report->count("of a {$mark->kind->words()} the voxels in it are held");
        }
        if ($mark->answers !== [] || array_filter($mark->keys, static fn ($key): bool => $key->answers !== []) !== []) {
            $report->count('answers can\'t be said by label maps and were left out');
        }
        if ($mark->flags !== []) {
            $report->count('flags can\'t be said by label maps and were left out');
        }
        if ($mark->partOf !== null) {
            $report->count('what a mark is a part of can\'t be said by label maps and was left out');
        }
    }
}
