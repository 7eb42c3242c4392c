<?php

declare(strict_types=1);

namespace App\Intake;

use Closure;
use Illuminate\Support\Facades\File;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Document\Bundle;
use Skeno\Core\Document\PageGroups;
use Skeno\Core\Document\RefusedDocument;
use Skeno\Core\Document\TiffPages;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Wish;

/** Puts files together as items: slices as volumes, scans as sequences, pictures of a folder, or those a list names, as documents; one item at a time lies unpacked. */
final class Bundles
{
    public function __construct(private readonly Series $series, private readonly Sequences $sequences)
    {
    }

    /**
     * @param  list<string>  $paths  of all files that came together
     * @param  Closure(string, string): mixed  $fetch  puts one of them where it is told
     * @param  list<string>  $gone  of those that came with them: taken before a break. A list may still name them, and its documents of them are there
     * @return iterable<Bundled>
     */
    public function of(array $paths, Closure $fetch, Wish $wish, array $gone = []): iterable
    {
        yield from $this->series->ofDicom($paths, $fetch);
        if ($wish->frames) {
            yield from $this->sequences->of($paths, $fetch);
        }
        if ($wish->slices !== null) {
            yield from $this->series->ofPictures($paths, $fetch, $wish->slices);
        }
        if ($wish->bundles) {
            yield from $this->documents($paths, $fetch, $gone);
        }
    }

    /**
     * @param  list<string>  $paths
     * @param  Closure(string, string): mixed  $fetch
     * @param  list<string>  $gone
     * @return iterable<Bundled>
     */
    private function documents(array $paths, Closure $fetch, array $gone): iterable
    {
        $lists = array_values(array_filter($paths, static fn (string $path): bool => basename($path) === PageGroups::LIST));
        $listed = [];
        foreach ($lists as $list) {
            $file = storage_path('tmp/list-'.bin2hex(random_bytes(6)));
            try {
                $fetch($list, $file);
                foreach (PageGroups::byList($file, dirname($list), [...$paths, ...$gone]) as $name => $pages) {
                    if (array_intersect($pages, $gone) !== []) {
                        continue;
                    }
                    $listed += array_fill_keys($pages, true);
                    yield $this->one((string) $name, [$list, ...$pages], $pages, $fetch);
                }
                $left = array_values(array_filter(self::under($list, $paths), static fn (string $path): bool => ! isset($listed[$path]) && PictureFormat::ofName($path) !== null));
                if ($left !== []) {
                    $listed += array_fill_keys($left, true);
                    yield new Bundled($list, $left, '', (count($left) === 1 ? "\"{$left[0]}\" is not named in it and was" : count($left)." pictures are not named in it, such as \"{$left[0]}\", and were").' left out');
                }
            } catch (InvalidValue $e) {
                // what it lists is not taken for something else
                $meant = self::under($list, $paths);
                $listed += array_fill_keys($meant, true);
                yield new Bundled($list, $meant, '', $e->getMessage());
            } finally {
                @unlink($file);
            }
        }
        foreach (PageGroups::byFolder(array_values(array_filter($paths, fn (string $path): bool => ! isset($listed[$path]) && ! $this->isDocument($path, $fetch)))) as $name => $pages) {
            yield $this->one((string) $name, $pages, $pages, $fetch);
        }
    }

    /**
     * Whether a picture is a document by itself: a TIFF of several pages.
     *
     * @param  Closure(string, string): mixed  $fetch
     */
    private function isDocument(string $path, Closure $fetch): bool
    {
        if (PictureFormat::ofName($path) !== PictureFormat::Tiff) {
            return false;
        }
        $file = storage_path('tmp/tiff-'.bin2hex(random_bytes(6)));
        try {
            $fetch($path, $file);

            return TiffPages::isMany($file);
        } catch (UnsafeArchive) {
            // what is wrong with it is said when it is taken
            return false;
        } finally {
            @unlink($file);
        }
    }

    /**
     * @param  list<string>  $paths
     * @return list<string> those where a list lies, or below
     */
    private static function under(string $list, array $paths): array
    {
        $folder = dirname($list) === '.' ? '' : dirname($list).'/';

        return array_values(array_filter($paths, static fn (string $path): bool => str_starts_with($path, $folder)));
    }

    /**
     * @param  list<string>  $all
     * @param  non-empty-list<string>  $pages
     * @param  Closure(string, string): mixed  $fetch
     */
    private function one(string $name, array $all, array $pages, Closure $fetch): Bundled
    {
        $folder = storage_path('tmp/bundle-'.bin2hex(random_bytes(6)));
        $file = "{$folder}.zip";
        if (count($pages) > config()->integer('skeno.document.max_pages')) {
            return new Bundled($name, $all, '', 'it has '.number_format(count($pages)).' pages; at most '.number_format(config()->integer('skeno.document.max_pages')).' are taken');
        }
        File::ensureDirectoryExists($folder, 0o770);
        try {
            $files = [];
            foreach ($pages as $place => $page) {
                $fetch($page, $files[] = "{$folder}/{$place}");
            }
            Bundle::make($files, $file);

            return new Bundled($name, $all, $file);
        } catch (RefusedDocument|UnsafeArchive $e) {
            @unlink($file);

            return new Bundled($name, $all, '', $e->getMessage());
        } finally {
            File::deleteDirectory($folder);
        }
    }
}
