<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use RuntimeException;
use Skeno\Core\Archive\ZipTarget;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;

/** Writes a dataset in one format: labels, pictures where asked, datasheet; reads it back and compares; moves it into place whole. */
final class Edition
{
    /**
     * @param  string  $target  a folder that does not exist or is empty, or a file ending in .zip
     * @param  array<string, mixed>  $about
     * @return array{compared: array{marks: int, items: int, differences: list<string>}, mapping: list<array{what: string, count: int}>}
     *
     * @throws RuntimeException when the disk is full or what was written does not read back the same; then nothing is left behind
     */
    public static function write(Dataset $dataset, Recipe $recipe, Codebook $codebook, Format $format, bool $pictures, string $target, array $about, YoloLayout $layout = YoloLayout::Folders): array
    {
        $codebook = $recipe->classes === [] ? $codebook : $codebook->only($recipe->classes);
        $unseen = 0;
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
            $writer = $format->writer($codebook, $layout);
            $readBack = new ReadBack($dataset, $format, $writer);
            $report = $writer->write($readBack->watched(), $folder, $pictures);
            if ($unseen > 0) {
                $report->count('marks of no size, or wholly outside their picture, were left out', $unseen);
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
        }

        return ['compared' => $compared, 'mapping' => $mapping];
    }

    /** The dataset without what nobody could see. @param  int  $unseen  counts what was left out while items are gone through */
    private static function visible(Dataset $dataset, Codebook $codebook, int &$unseen): Dataset
    {
        return new Dataset($dataset->name, $codebook, static function () use ($dataset, &$unseen): iterable {
            $unseen = 0;
            foreach ($dataset->items() as $item) {
                $marks = array_values(array_filter($item->marks, static fn (Mark $mark): bool => MarkCheck::unseen($mark->flat(), $item->width, $item->height) === null));
                $unseen += count($item->marks) - count($marks);
                yield count($marks) === count($item->marks) ? $item : $item->withMarks($marks);
            }
        }, $dataset->pictureFile(...));
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
