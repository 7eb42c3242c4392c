<?php

declare(strict_types=1);

namespace App\Intake;

use Closure;
use Illuminate\Support\Facades\File;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Cloud\FrameGroups;
use Skeno\Core\Cloud\Sequence;

/** Puts the scans of a folder together as the frames of one cloud. */
final class Sequences
{
    /**
     * @param  list<string>  $paths  of all files that came together
     * @param  Closure(string, string): mixed  $fetch  puts one of them where it is told
     * @return iterable<Bundled>
     */
    public function of(array $paths, Closure $fetch): iterable
    {
        foreach (FrameGroups::byFolder($paths) as $folder => $frames) {
            if (count($frames) > Sequence::MOST) {
                yield new Bundled($folder, $frames, '', 'it has '.number_format(count($frames)).' frames; at most '.number_format(Sequence::MOST).' are taken');

                continue;
            }
            $room = storage_path('tmp/sequence-'.bin2hex(random_bytes(6)));
            File::ensureDirectoryExists($room, 0o770);
            try {
                $files = [];
                foreach ($frames as $n => $path) {
                    $fetch($path, $file = "{$room}/{$n}");
                    $files[] = [$file, $path];
                }
                Sequence::make($files, "{$room}.zip");
                yield new Bundled($folder, $frames, "{$room}.zip", '', 'cloud.'.Sequence::ENDING);
            } catch (UnsafeArchive $e) {
                yield new Bundled($folder, $frames, '', $e->getMessage());
            } finally {
                File::deleteDirectory($room);
            }
        }
    }
}
