<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use RuntimeException;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\InvalidValue;
use Skeno\Core\Json\Lines;
use ZipArchive;

/**
 * A sequence of scans as one file: a zip of the files as they came, in the order of the frames (`0000.pcd`, `0001.pcd` …), the pictures of cameras
 * (`pictures/0000-0.jpg`: frame, camera) and `rig.json`, not compressed once more. The same files in the same order make the same bytes.
 */
final class Sequence
{
    /** The ending of its name, by which one that was made before is known again. */
    public const ENDING = 'frames';

    public const MOST = 2_000;

    private const RIG = 'rig.json';

    /** 1980-01-01, the first day a zip can say. */
    private const BEGAN = 315_532_800;

    /**
     * @param  non-empty-list<array{string, string}>  $files  a file and its name, in the order of the frames
     * @param  string  $target  that is not there yet
     * @param  list<array<int, array{string, string}>>  $pictures  of each camera by frame, a file and how it ends
     */
    public static function make(array $files, string $target, ?Rig $rig = null, array $pictures = []): void
    {
        $zip = new ZipArchive;
        if ($zip->open($target, ZipArchive::CREATE | ZipArchive::EXCL) !== true) {
            throw new RuntimeException('the sequence could not be put together: is the disk full?');
        }
        foreach ($files as $frame => [$file, $name]) {
            self::put($zip, $file, sprintf('%04d.%s', $frame, strtolower(pathinfo($name, PATHINFO_EXTENSION))));
        }
        foreach ($pictures as $camera => $of) {
            foreach ($of as $frame => [$file, $ending]) {
                self::put($zip, $file, sprintf('pictures/%04d-%d.%s', $frame, $camera, $ending));
            }
        }
        if ($rig !== null) {
            $zip->addFromString(self::RIG, Lines::encode($rig->toArray()));
            $zip->setCompressionName(self::RIG, ZipArchive::CM_STORE);
            $zip->setMtimeName(self::RIG, self::BEGAN);
        }
        if (! @$zip->close()) {
            throw new RuntimeException('the sequence could not be put together: is the disk full?');
        }
    }

    private static function put(ZipArchive $zip, string $file, string $name): void
    {
        $zip->addFile($file, $name);
        $zip->setCompressionName($name, ZipArchive::CM_STORE);
        $zip->setMtimeName($name, self::BEGAN);
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
        $frames = [];
        foreach (self::each($file, $scratch, $limits, true) as $frame) {
            $frames[] = $frame;
        }

        return $frames === [] ? throw RefusedCloud::because('it has no frames') : $frames;
    }

    /**
     * Its frames, unpacked one after the other.
     *
     * @param  bool  $keep  whether they stay when the next is asked for
     * @return iterable<int, Source>
     *
     * @throws RefusedCloud
     */
    public static function each(string $file, string $scratch, CloudLimits $limits, bool $keep = false): iterable
    {
        try {
            $zip = self::zip($file, $limits);
            $names = array_values(array_filter(array_map(strval(...), array_keys($zip->entries)), static fn (string $name): bool => $name !== self::RIG && ! str_contains($name, '/')));
            sort($names);
            foreach ($names as $frame => $name) {
                $zip->extract($name, $own = "{$scratch}/{$name}");
                try {
                    yield $frame => CloudFile::open($own, $name, $limits);
                } catch (RefusedCloud $e) {
                    throw RefusedCloud::because('frame '.($frame + 1).': '.$e->getMessage());
                } finally {
                    $keep || @unlink($own);
                }
            }
        } catch (UnsafeArchive $e) {
            throw RefusedCloud::because($e->getMessage());
        }
    }

    /** Whether a file is one, by how it begins: no scan begins so. */
    public static function isOne(string $file): bool
    {
        return @file_get_contents($file, false, null, 0, 4) === "PK\x03\x04";
    }

    /**
     * What came beside its scans; the pictures of its cameras are put into a folder, `0-0.jpg`: frame, camera.
     *
     * @throws RefusedCloud
     */
    public static function rig(string $file, string $folder, CloudLimits $limits): ?Rig
    {
        try {
            $zip = self::zip($file, $limits);
            if (! isset($zip->entries[self::RIG])) {
                return null;
            }
            $zip->extract(self::RIG, $own = "{$folder}/rig.json");
            $rig = Rig::fromArray(json_decode((string) file_get_contents($own), true));
            foreach (array_keys($zip->entries) as $name) {
                if (preg_match('#^pictures/(\d+)-(\d+)\.(jpg|png)$#D', (string) $name, $m) === 1) {
                    $zip->extract((string) $name, sprintf('%s/%d-%d.%s', $folder, (int) $m[1], (int) $m[2], $m[3]));
                }
            }

            return $rig;
        } catch (UnsafeArchive|InvalidValue $e) {
            throw RefusedCloud::because($e->getMessage());
        }
    }

    private static function zip(string $file, CloudLimits $limits): ZipSource
    {
        return ZipSource::open($file, self::MOST * $limits->maxBytes, $limits->maxBytes, self::MOST * (1 + Rig::MOST_CAMERAS) + 1);
    }
}
