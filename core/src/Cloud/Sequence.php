<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use RuntimeException;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use ZipArchive;

/**
 * A sequence of scans as one file: a zip of the files as they came, in the order of the frames (`0000.pcd`, `0001.pcd` …), not compressed once
 * more. The same files in the same order make the same bytes.
 */
final class Sequence
{
    /** The ending of its name, by which one that was made before is known again. */
    public const ENDING = 'frames';

    public const MOST = 2_000;

    /** 1980-01-01, the first day a zip can say. */
    private const BEGAN = 315_532_800;

    /**
     * @param  non-empty-list<array{string, string}>  $files  a file and its name, in the order of the frames
     * @param  string  $target  that is not there yet
     */
    public static function make(array $files, string $target): void
    {
        $zip = new ZipArchive;
        if ($zip->open($target, ZipArchive::CREATE | ZipArchive::EXCL) !== true) {
            throw new RuntimeException('the sequence could not be put together: is the disk full?');
        }
        foreach ($files as $frame => [$file, $name]) {
            $own = sprintf('%04d.%s', $frame, strtolower(pathinfo($name, PATHINFO_EXTENSION)));
            $zip->addFile($file, $own);
            $zip->setCompressionName($own, ZipArchive::CM_STORE);
            $zip->setMtimeName($own, self::BEGAN);
        }
        if (! @$zip->close()) {
            throw new RuntimeException('the sequence could not be put together: is the disk full?');
        }
    }

    /**
     * Its frames, unpacked.
     *
     * @param  string  $scratch  a folder for them, empty; they stay there as long as they are read
     * @return non-empty-list<Source>
     *
     * @throws RefusedCloud
     */
    public static function open(string $file, string $scratch, CloudLimits $limits): array
    {
        try {
            $zip = ZipSource::open($file, self::MOST * $limits->maxBytes, $limits->maxBytes, self::MOST);
            $names = array_map(strval(...), array_keys($zip->entries));
            sort($names);
            $frames = [];
            foreach ($names as $frame => $name) {
                $zip->extract($name, $own = "{$scratch}/{$name}");
                try {
                    $frames[] = CloudFile::open($own, $name, $limits);
                } catch (RefusedCloud $e) {
                    throw RefusedCloud::because('frame '.($frame + 1).': '.$e->getMessage());
                }
            }
        } catch (UnsafeArchive $e) {
            throw RefusedCloud::because($e->getMessage());
        }

        return $frames === [] ? throw RefusedCloud::because('it has no frames') : $frames;
    }
}
