<?php

declare(strict_types=1);

namespace Skeno\Core\Archive;

use RuntimeException;
use ZipArchive;

/** Packs a folder into a zip whose bytes depend on its contents only: sorted names, one fixed date, plain permissions. */
final class ZipTarget
{
    /** 1 January 2000 00:00 UTC: a zip can't say "no date". */
    private const DATE = 946_684_800;

    public static function pack(string $folder, string $file): void
    {
        $zone = date_default_timezone_get();
        date_default_timezone_set('UTC');   // zip dates are local time
        try {
            $zip = new ZipArchive;
            if ($zip->open($file, ZipArchive::CREATE | ZipArchive::EXCL) !== true) {
                throw new RuntimeException("\"{$file}\" can't be written");
            }
            foreach (self::files($folder) as $path) {
                $zip->addFile("{$folder}/{$path}", $path);
                // pictures are compressed already
                $packed = preg_match('/\.(jpe?g|png|webp|gif|zip)$/i', $path) === 1;
                $zip->setCompressionName($path, $packed ? ZipArchive::CM_STORE : ZipArchive::CM_DEFLATE, 6);
                $zip->setMtimeName($path, self::DATE);
                $zip->setExternalAttributesName($path, ZipArchive::OPSYS_UNIX, 0o100644 << 16);
            }
            if (! @$zip->close()) {
                throw new RuntimeException("\"{$file}\" can't be written: is the disk full?");
            }
        } finally {
            date_default_timezone_set($zone);
        }
    }

    /** @return list<string> relative paths in byte order */
    public static function files(string $folder): array
    {
        $paths = [];
        $length = strlen(rtrim($folder, '/')) + 1;
        $walk = new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($folder, \FilesystemIterator::SKIP_DOTS));
        foreach ($walk as $file) {
            if ($file instanceof \SplFileInfo && $file->isFile()) {
                $paths[] = substr($file->getPathname(), $length);
            }
        }
        sort($paths, SORT_STRING);

        return $paths;
    }
}
