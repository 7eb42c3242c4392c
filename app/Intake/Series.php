<?php

declare(strict_types=1);

namespace App\Intake;

use App\Files\VolumeStore;
use Closure;
use Illuminate\Support\Facades\File;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Document\DocumentLimits;
use Skeno\Core\Document\PageGroups;
use Skeno\Core\Document\TiffPages;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Items\RefusedFile;
use Skeno\Core\Programs\Bounded;
use Skeno\Core\Programs\TookTooLong;
use Skeno\Core\Volume\DicomSeries;
use Skeno\Core\Volume\DicomSlice;
use Skeno\Core\Volume\PictureStack;
use Skeno\Core\Volume\RefusedVolume;
use Skeno\Core\Volume\ScanFile;
use Skeno\Core\Volume\SliceGroups;
use Skeno\Core\Volume\Source;

/**
 * Puts slices together as volumes: DICOM files by their series, pictures of a folder by the order of their names. What is kept is a scan of our
 * own; of a DICOM file nothing is but its voxels, where they lie and what they measure.
 */
final class Series
{
    /** Bytes a program that unpacks pixels may have, and seconds it may run for a slice. */
    private const MEMORY = 4_000_000_000;

    private const PATIENCE = 60;

    /**
     * @param  list<string>  $paths  of all files that came together
     * @param  Closure(string, string): mixed  $fetch  puts one of them where it is told
     * @return iterable<Bundled>
     */
    public function ofDicom(array $paths, Closure $fetch): iterable
    {
        foreach (SliceGroups::byFolder($paths) as $folder => $files) {
            $room = $this->room();
            try {
                $slices = $of = [];
                foreach ($files as $n => $path) {
                    $file = "{$room}/{$n}";
                    try {
                        $fetch($path, $file);
                        if (! DicomSlice::isOne((string) @file_get_contents($file, false, null, 0, 1024))) {
                            @unlink($file);

                            continue;
                        }
                        $slices[] = $slice = DicomSlice::open($this->plain($file));
                        $of[$slice->file] = $path;
                    } catch (RefusedVolume $e) {
                        yield new Bundled($path, [$path], '', $e->getMessage());
                    } catch (UnsafeArchive $e) {
                        yield new Bundled($path, [$path], '', $e->getMessage());
                    }
                }
                $parts = DicomSeries::parted($slices);
                foreach ($parts as $n => $part) {
                    $name = ($folder === '.' ? 'series' : $folder).(count($parts) > 1 ? '-'.($n + 1) : '').'.nii.gz';
                    $own = array_map(static fn (DicomSlice $slice): string => $of[$slice->file], $part);
                    yield $this->scan($name, $own, static fn (): Source => DicomSeries::of($part, VolumeStore::limits()));
                }
            } finally {
                File::deleteDirectory($room);
            }
        }
    }

    /**
     * @param  list<string>  $paths
     * @param  Closure(string, string): mixed  $fetch
     * @param  array{float, float, float}  $spacing  mm
     * @return iterable<Bundled>
     */
    public function ofPictures(array $paths, Closure $fetch, array $spacing): iterable
    {
        $groups = PageGroups::byFolder($paths);
        foreach ($paths as $path) {
            // a picture of many pages is a stack by itself
            if (PictureFormat::ofName($path) === PictureFormat::Tiff && dirname($path) === '.') {
                $groups[(string) preg_replace('/\.[^.]+$/', '', $path)] = [$path];
            }
        }
        foreach ($groups as $folder => $files) {
            $room = $this->room();
            try {
                $slices = [];
                $reason = '';
                foreach ($files as $n => $path) {
                    try {
                        $fetch($path, $file = "{$room}/{$n}");
                    } catch (UnsafeArchive $e) {
                        $reason = $e->getMessage();
                        break;
                    }
                    $pages = PictureFormat::ofName($path) === PictureFormat::Tiff && TiffPages::isMany($file) ? TiffPages::of($file, new DocumentLimits(maxPages: VolumeStore::limits()->maxSide))->frames : [0];
                    foreach ($pages as $page) {
                        $slices[] = [$file, $page];
                    }
                }
                yield $reason === '' && $slices !== [] ? $this->scan("{$folder}.nii.gz", $files, static fn (): Source => PictureStack::of($slices, $spacing, VolumeStore::limits())) : new Bundled("{$folder}.nii.gz", $files, '', $reason);
            } catch (RefusedFile $e) {
                yield new Bundled("{$folder}.nii.gz", $files, '', $e->getMessage());
            } finally {
                File::deleteDirectory($room);
            }
        }
    }

    /**
     * @param  list<string>  $paths
     * @param  Closure(): Source  $source
     */
    private function scan(string $name, array $paths, Closure $source): Bundled
    {
        $file = storage_path('tmp/scan-'.bin2hex(random_bytes(6)).'.nii.gz');
        try {
            ScanFile::write($file, $source());

            return new Bundled($name, $paths, $file, '', 'scan.nii.gz');
        } catch (RefusedVolume $e) {
            @unlink($file);

            return new Bundled($name, $paths, '', $e->getMessage());
        } catch (\Throwable $e) {
            @unlink($file);
            throw $e;
        }
    }

    /** The file with its pixels unpacked, where they were packed. @throws RefusedVolume */
    private function plain(string $file): string
    {
        if (! DicomSlice::isPacked($file)) {
            return $file;
        }
        $plain = "{$file}.plain";
        try {
            $ended = (new Bounded(self::MEMORY, self::PATIENCE))->run(['gdcmconv', '--raw', $file, $plain]);
        } catch (TookTooLong $e) {
            throw RefusedVolume::because("its pixels could not be unpacked: {$e->getMessage()}");
        }
        if ($ended->code !== 0 || ! is_file($plain) || DicomSlice::isPacked($plain)) {
            throw RefusedVolume::because('its pixels are packed in a way that can not be unpacked here ('.(DicomSlice::syntax($file) ?? 'not said').')');
        }

        return $plain;
    }

    private function room(): string
    {
        $room = storage_path('tmp/series-'.bin2hex(random_bytes(6)));
        File::ensureDirectoryExists($room, 0o770);

        return $room;
    }
}
