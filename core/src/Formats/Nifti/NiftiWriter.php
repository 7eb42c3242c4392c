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
            $decided = LabelMap::write($folder->file("{$stem}.nii.gz"), $scan, $this->slices($item, $item->marks), $most);
            if ($decided > 0) {
                $report->count('voxels under more than one mark were given to the one highest in the stack (label maps)', $decided);
            }
            $n = 0;
            foreach ($item->marks as $mark) {
                $this->count($mark, $report);
                if (! self::hasArea($mark)) {
                    continue;
                }
                $n++;
                $file = sprintf('objects/%s/%04d.nii.gz', $item->path, $n);
                $folder->write($file, '');
                $voxels = 0;
                LabelMap::write($folder->file($file), $scan, self::one($this->masks($mark, $item), $voxels), 1);
                fwrite($table, Csv::line([$item->path, $file, $this->codebook->exportName($this->codebook->classes[$mark->class]), $this->value($mark), $voxels, round($voxels * $scan->grid->voxel() / 1000, 6)]));
            }
        }
        fclose($table);

        return $report;
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
     * @param  list<Mark>  $marks
     * @return Generator<int, list<array{int, Mask}>>
     */
    private function slices(DatasetItem $item, array $marks): Generator
    {
        $open = [];
        foreach ($marks as $mark) {
            if (self::hasArea($mark)) {
                $masks = $this->masks($mark, $item);
                if ($masks->valid()) {
                    $open[] = [$this->value($mark), $masks];
                }
            }
        }
        while ($open !== []) {
            $z = min(array_map(static fn (array $one): int => (int) $one[1]->key(), $open));
            $here = [];
            foreach ($open as $i => [$value, $masks]) {
                if ($masks->key() === $z) {
                    $here[] = [$value, $masks->current()[0]];
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

    /**
     * @param  iterable<int, array{Mask, Geometry}>  $masks
     * @return iterable<int, list<array{int, Mask}>>
     */
    private static function one(iterable $masks, int &$voxels): iterable
    {
        foreach ($masks as $z => [$mask]) {
            $voxels += (int) $mask->area();
            yield $z => [[1, $mask]];
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
