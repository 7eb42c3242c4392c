<?php

declare(strict_types=1);

namespace App\Intake;

use Closure;
use Illuminate\Support\Facades\File;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Formats\UnreadableLabels;

/** Label files in a zip, unpacked into a folder that is gone afterwards. Pictures in it are left packed. */
final class UnpackLabels
{
    private const KINDS = ['nii', 'gz', 'json', 'xml', 'txt', 'yaml', 'yml', 'names', 'csv'];

    /**
     * @template T
     *
     * @param  Closure(string): T  $take  what to do with the folder
     * @return T
     *
     * @throws UnreadableLabels
     */
    public function __invoke(string $zip, Closure $take): mixed
    {
        $folder = storage_path('tmp/labels-'.bin2hex(random_bytes(8)));
        mkdir($folder, 0o770);
        try {
            $source = ZipSource::open($zip, config()->integer('skeno.zip.max_total_bytes'), 4_000_000_000);
            foreach (array_keys($source->entries) as $path) {
                $path = (string) $path;
                if (in_array(strtolower(pathinfo($path, PATHINFO_EXTENSION)), self::KINDS, true)) {
                    File::ensureDirectoryExists(dirname("{$folder}/{$path}"), 0o770);
                    $source->extract($path, "{$folder}/{$path}");
                }
            }

            return $take($folder);
        } catch (UnsafeArchive $e) {
            throw UnreadableLabels::because($e->getMessage());
        } finally {
            File::deleteDirectory($folder);
        }
    }
}
