<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use RuntimeException;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Imaging\RefusedPicture;
use Skeno\Core\Items\Sheets;
use ZipArchive;

/**
 * A document of page pictures as one file: a zip of the pictures as they came, in the order of the pages (`0000.jpg`, `0001.png` …), not
 * compressed once more. The same pages in the same order make the same bytes.
 */
final readonly class Bundle
{
    /** The ending of its name, by which one that was made before is known again. */
    public const ENDING = 'pages';

    /** 1980-01-01, the first day a zip can say. */
    private const BEGAN = 315_532_800;

    private function __construct(public Sheets $sheets)
    {
    }

    /**
     * @param  non-empty-list<string>  $files  pictures, in the order of the pages
     * @param  string  $target  that is not there yet
     *
     * @throws RefusedDocument when one of them is no picture
     */
    public static function make(array $files, string $target): void
    {
        $zip = new ZipArchive;
        if ($zip->open($target, ZipArchive::CREATE | ZipArchive::EXCL) !== true) {
            throw new RuntimeException('the document could not be put together: is the disk full?');
        }
        foreach ($files as $place => $file) {
            $format = PictureFormat::sniff((string) @file_get_contents($file, false, null, 0, 16)) ?? throw RefusedDocument::because('page '.($place + 1).' is no picture of a kind we take');
            $name = sprintf('%04d.%s', $place, $format->value);
            $zip->addFile($file, $name);
            $zip->setCompressionName($name, ZipArchive::CM_STORE);
            $zip->setMtimeName($name, self::BEGAN);
        }
        if (! @$zip->close()) {
            throw new RuntimeException('the document could not be put together: is the disk full?');
        }
    }

    /**
     * @param  string  $scratch  a folder for one page at a time
     *
     * @throws RefusedDocument when a page can't be read, by its number
     */
    public static function open(string $file, DocumentLimits $limits, PictureLimits $pictures, string $scratch): self
    {
        $zip = self::zip($file, $limits, $pictures);
        $limits->mustCount(count($zip->entries));
        $sizes = [];
        foreach (array_keys($zip->entries) as $place => $name) {
            $sizes[] = self::unpacked($zip, (string) $name, $scratch, static function (string $page) use ($name, $place, $pictures, $limits): array {
                try {
                    $picture = Picture::open($page, (string) $name, $pictures);
                } catch (RefusedPicture $e) {
                    throw RefusedDocument::because('page '.($place + 1).': '.$e->getMessage());
                }
                $limits->mustHold($place + 1, $picture->width, $picture->height);

                return [$picture->width, $picture->height];
            });
        }

        return $sizes === [] ? throw RefusedDocument::because('it has no pages') : new self(Sheets::of($sizes));
    }

    /**
     * Writes a page as a JPEG, upright.
     *
     * @throws RefusedDocument
     */
    public static function draw(string $file, int $place, string $target, DocumentLimits $limits, PictureLimits $pictures, string $scratch): void
    {
        $zip = self::zip($file, $limits, $pictures);
        $name = array_keys($zip->entries)[$place] ?? throw RefusedDocument::because('there is no page '.($place + 1));
        self::unpacked($zip, (string) $name, $scratch, static function (string $page) use ($target): array {
            Picture::derive($page, PictureFormat::sniff((string) file_get_contents($page, false, null, 0, 16)) ?? throw RefusedDocument::because('it is no picture'), $target, 16_000, 92);

            return [0, 0];
        });
    }

    private static function zip(string $file, DocumentLimits $limits, PictureLimits $pictures): ZipSource
    {
        try {
            return ZipSource::open($file, $limits->maxBytes, $pictures->maxBytes, $limits->maxPages);
        } catch (UnsafeArchive $e) {
            throw RefusedDocument::because($e->getMessage());
        }
    }

    /**
     * @param  \Closure(string): array{int, int}  $with  gets the file of a page
     * @return array{int, int}
     */
    private static function unpacked(ZipSource $zip, string $name, string $scratch, \Closure $with): array
    {
        $page = "{$scratch}/page-".bin2hex(random_bytes(6));
        try {
            $zip->extract($name, $page);

            return $with($page);
        } catch (UnsafeArchive $e) {
            throw RefusedDocument::because($e->getMessage());
        } finally {
            @unlink($page);
        }
    }
}
