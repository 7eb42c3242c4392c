<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Closure;
use RuntimeException;
use Skeno\Core\Archive\ZipTarget;
use Skeno\Core\Clip\ClipFormat;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Clip\Frames;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;

/** Writes a dataset in one format: labels, pictures where asked, datasheet; reads it back and compares; moves it into place whole. */
final class Edition
{
    /**
     * @param  string  $target  a folder that does not exist or is empty, or a file ending in .zip
     * @param  array<string, mixed>  $about
     * @param  ?ChosenFrames  $frames  of clips, in a format of pictures; null: those with keys
     * @param  ?Closure(DatasetItem, int): string  $page  of a document and a place: a file with that page as a JPEG
     * @param  ?Closure(DatasetItem, int, non-empty-list<Cuboid>): list<int>  $points  of a cloud, a frame and cuboids: how many points lie in each
     * @param  ?Closure(DatasetItem, int): string  $slice  of a volume and a place: that slice as a PNG, itself
     * @return array{compared: array{marks: int, items: int, differences: list<string>}, mapping: list<array{what: string, count: int}>}
     *
     * @throws RuntimeException when the disk is full or what was written does not read back the same; then nothing is left behind
     */
    public static function write(Dataset $dataset, Recipe $recipe, Codebook $codebook, Format $format, bool $pictures, string $target, array $about, YoloLayout $layout = YoloLayout::Folders, ?ChosenFrames $frames = null, ?ClipLimits $limits = null, ?Closure $page = null, ?Closure $slice = null, ?Closure $points = null): array
    {
        $codebook = $recipe->classes === [] ? $codebook : $codebook->only($recipe->classes);
        $unseen = $other = $words = 0;
        $decoded = rtrim($target, '/').'.frames-'.bin2hex(random_bytes(4));
        if (! $format->holdsTexts()) {
            $dataset = self::only($dataset, static fn (DatasetItem $item): bool => $item->text === null, $words);
        }
        $dataset = self::only($dataset, $format->isFor(...), $other);
        if (! $format->holdsTracks() && ! $format->holdsOnlyTexts()) {
            $dataset = ($frames ?? ChosenFrames::keys())->pictures($dataset, self::decoder($dataset, $decoded, $limits ?? new ClipLimits, $slice));
        }
        if (! $format->holdsDocuments()) {
            $dataset = PagePictures::of($dataset, $page ?? static fn (DatasetItem $item, int $place): string => throw new RuntimeException("{$item->path}: its page {$place} can't be drawn here"));
        }
        $dataset = self::visible($dataset, $codebook, $unseen);
        $zip = str_ends_with(strtolower($target), '.zip');
        if (! $zip && is_dir($target) && (new \FilesystemIterator($target))->valid()) {
            throw new RuntimeException("the folder \"{$target}\" is not empty");
        }
        $part = rtrim($target, '/').'.part-'.bin2hex(random_bytes(4));
        $folder = new Folder($part, passing: $zip);
        if (! @mkdir($part, 0o770, true)) {
            throw new RuntimeException("\"{$part}\" can't be made: is the disk full or the folder not writable?");
        }
        try {
            $writer = $format->writer($codebook, $layout, $points);
            $readBack = new ReadBack($dataset, $format, $writer);
            $report = $writer->write($readBack->watched(), $folder, $pictures);
            if ($unseen > 0) {
                $report->count('marks of no size, or wholly outside their picture, were left out', $unseen);
            }
            if ($other > 0) {
                $report->count(match ($format) {
                    Format::Conll => 'items that are no texts were left out',
                    Format::Jsonl => 'items that are neither texts nor documents were left out',
                    Format::Nifti => 'items that are no volumes were left out',
                    Format::Cuboids, Format::Points => 'items that are no clouds were left out',
                    Format::Kitti => 'items that are no clouds, or clouds of which nobody knows where a camera is (calibration: calib/, calib.txt or cameras.json), or whose camera leans against what is up by more than 10°, were left out',
                    Format::Mot => 'items without frames are no sequences and were left out',
                    default => 'clouds can not be said in this format and were left out',
                }, $other);
            }
            if ($words > 0) {
                $report->count('texts can not be said in this format and were left out', $words);
            }
            $mapping = $report->toArray();
            $compared = $readBack->compare($folder);
            if ($compared['differences'] !== []) {
                throw new RuntimeException('what was written does not read back the same: '.implode('; ', array_slice($compared['differences'], 0, 3)));
            }
            $folder->write('datasheet.json', Datasheet::json($about, $recipe, $codebook, $readBack->census(), $format, $pictures, $mapping));
            if ($zip) {
                ZipTarget::pack($part, "{$part}.zip");
                self::move("{$part}.zip", $target);
                self::remove($part);
            } else {
                if (is_dir($target)) {
                    rmdir($target);
                }
                self::move($part, $target);
            }
        } catch (\Throwable $e) {
            self::remove($part);
            @unlink("{$part}.zip");
            throw $e;
        } finally {
            self::remove($decoded);
        }

        return ['compared' => $compared, 'mapping' => $mapping];
    }

    /**
     * The dataset with some of its items alone.
     *
     * @param  Closure(DatasetItem): bool  $takes
     * @param  int  $other  counts the others while items are gone through
     */
    private static function only(Dataset $dataset, Closure $takes, int &$other): Dataset
    {
        return new Dataset($dataset->name, $dataset->codebook, static function () use ($dataset, $takes, &$other): iterable {
            $other = 0;
            foreach ($dataset->items() as $item) {
                if (! $takes($item)) {
                    $other++;
                } else {
                    yield $item;
                }
            }
        }, $dataset->pictureFile(...), $dataset->clips(...));
    }

    /**
     * Decodes frames of one clip, or slices of one volume, after the other into a folder, which holds those of one at a time.
     *
     * @param  ?Closure(DatasetItem, int): string  $slice
     * @return Closure(DatasetItem, list<int>): (Closure(int): string)
     */
    private static function decoder(Dataset $dataset, string $folder, ClipLimits $limits, ?Closure $slice): Closure
    {
        return static function (DatasetItem $clip, array $frames) use ($dataset, $folder, $limits, $slice): Closure {
            self::remove($folder);
            if (! @mkdir($folder, 0o770, true)) {
                throw new RuntimeException("\"{$folder}\" can't be made: is the disk full or the folder not writable?");
            }
            if ($clip->scan !== null) {
                return static function (int $place) use ($clip, $folder, $slice): string {
                    $picture = $slice === null ? throw new RuntimeException("{$clip->path}: its slices can't be drawn here") : $slice($clip, $place);
                    if (@file_put_contents("{$folder}/slice.png", $picture) !== strlen($picture)) {
                        throw new RuntimeException('a slice could not be written: is the disk full?');
                    }

                    return "{$folder}/slice.png";
                };
            }
            $file = $dataset->pictureFile($clip);
            $format = ClipFormat::sniff((string) file_get_contents($file, false, null, 0, 64)) ?? throw new RuntimeException("{$clip->path}: its file is no clip any more");
            $written = (new Frames($limits))->write($file, $format, self::numbers($frames), $clip->axis->places ?? 0, $clip->width, $clip->height, $folder);

            return static fn (int $frame): string => $written[$frame];
        };
    }

    /**
     * @param  array<array-key, mixed>  $frames
     * @return list<int>
     */
    private static function numbers(array $frames): array
    {
        return array_values(array_filter($frames, is_int(...)));
    }

    /** The dataset without what nobody could see. @param  int  $unseen  counts what was left out while items are gone through */
    private static function visible(Dataset $dataset, Codebook $codebook, int &$unseen): Dataset
    {
        return new Dataset($dataset->name, $codebook, static function () use ($dataset, &$unseen): iterable {
            $unseen = 0;
            foreach ($dataset->items() as $item) {
                $marks = array_values(array_filter($item->marks, static fn (Mark $mark): bool => MarkCheck::unseen($mark, $item->extent()) === null));
                $unseen += count($item->marks) - count($marks);
                yield count($marks) === count($item->marks) ? $item : $item->withMarks($marks);
            }
        }, $dataset->pictureFile(...), $dataset->clips(...));
    }

    private static function move(string $from, string $to): void
    {
        if (! @rename($from, $to)) {
            throw new RuntimeException("\"{$to}\" can't be written");
        }
    }

    private static function remove(string $folder): void
    {
        if (! is_dir($folder)) {
            return;
        }
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($folder, \FilesystemIterator::SKIP_DOTS), \RecursiveIteratorIterator::CHILD_FIRST) as $file) {
            if ($file instanceof \SplFileInfo) {
                $file->isDir() && ! $file->isLink() ? @rmdir($file->getPathname()) : @unlink($file->getPathname());
            }
        }
        @rmdir($folder);
    }
}
