<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use Closure;
use Illuminate\Support\Facades\Storage;
use RuntimeException;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\RefusedPicture;
use Skeno\Core\Imaging\TilePyramid;

/** Picture files by the hash of their bytes, and the copies for the screen that can always be made again. */
final class AssetStore
{
    /** Longest side of the copies, in px; "full" has the picture's own size. */
    public const SIDES = ['thumb' => 320, 'screen' => 2048, 'full' => 16_000];

    public function file(Asset $asset): string
    {
        // (a document drawn at a resolution of its own is another one of the same bytes)
        return $this->fileOf(is_string($asset->facts['file'] ?? null) ? $asset->facts['file'] : $asset->sha256);
    }

    public function fileOf(string $hash): string
    {
        return Storage::disk('assets')->path(self::path($hash));
    }

    /** Stores the bytes under their hash; bytes already there are left as they are. Before the transaction that writes of it, which would make everybody else wait for the disk. */
    public function keep(string $file, string $hash): void
    {
        $target = $this->fileOf($hash);
        if (! is_file($target)) {
            if (! is_dir(dirname($target))) {
                @mkdir(dirname($target), 0o770, true);
            }
            $temporary = $target.'.'.bin2hex(random_bytes(4));
            if (! @copy($file, $temporary) || ! @rename($temporary, $target)) {
                @unlink($temporary);
                throw new RuntimeException('the file could not be stored: is the disk full?');
            }
        }
    }

    /** The file to send for a size; made now when the worker has not come to it yet. */
    public function derived(Asset $asset, string $size): string
    {
        $format = PictureFormat::from($asset->format);
        if ($size !== 'thumb' && $this->isPlain($asset, $format) && max($asset->width, $asset->height) <= self::SIDES[$size]) {
            return $this->file($asset);
        }
        $target = Storage::disk('derived')->path(self::derivedPath($asset->sha256, $size));
        if (! is_file($target)) {
            if (! is_dir(dirname($target))) {
                @mkdir(dirname($target), 0o770, true);
            }
            $temporary = dirname($target).'/'.bin2hex(random_bytes(6)).'.jpg';
            Picture::derive($this->file($asset), $format, $temporary, self::SIDES[$size], $size === 'thumb' ? 80 : 92);
            rename($temporary, $target);
        }

        return $target;
    }

    /** Whether a picture has all copies that are made of it. */
    public function isComplete(Asset $asset): bool
    {
        return $asset->derived_at !== null && (TilePyramid::of($asset->width, $asset->height) === null || is_dir($this->tilesOf($asset)));
    }

    /** Cuts a large picture into tiles; all of them are there or none. @throws RefusedPicture */
    public function tile(Asset $asset): void
    {
        $tiles = TilePyramid::of($asset->width, $asset->height);
        $target = $this->tilesOf($asset);
        if ($tiles === null || is_dir($target)) {
            return;
        }
        // a killed worker leaves it where the sweep finds it
        $temporary = storage_path('tmp/tiles-'.bin2hex(random_bytes(6)));
        if (! @mkdir($temporary, 0o770, true) || (! is_dir(dirname($target)) && ! @mkdir(dirname($target), 0o770, true) && ! is_dir(dirname($target)))) {
            throw new RuntimeException('the tiles could not be stored: is the disk full?');
        }
        try {
            Picture::tiles($this->file($asset), PictureFormat::from($asset->format), $tiles, $temporary);
            // somebody else may have been first
            @rename($temporary, $target);
        } finally {
            if (is_dir($temporary)) {
                array_map(unlink(...), (array) glob("{$temporary}/*"));
                rmdir($temporary);
            }
        }
    }

    /** The folder of a picture's tiles. */
    public function tilesOf(Asset $asset): string
    {
        return Storage::disk('derived')->path(self::tilesPath($asset->sha256));
    }

    /** Where the tiles of a picture are, below the folder of derived files. */
    public static function tilesPath(string $hash): string
    {
        return self::path($hash).'-tiles';
    }

    /** A file of something made from a picture, kept until it is made anew. @param  Closure(): string  $make */
    public function made(string $path, Closure $make): string
    {
        $target = Storage::disk('derived')->path($path);
        if (! is_file($target)) {
            if (! is_dir(dirname($target))) {
                @mkdir(dirname($target), 0o770, true);
            }
            $temporary = dirname($target).'/'.bin2hex(random_bytes(6));
            file_put_contents($temporary, $make());
            rename($temporary, $target);
        }

        return $target;
    }

    /** Whether every browser shows the original as it is meant. */
    private function isPlain(Asset $asset, PictureFormat $format): bool
    {
        return in_array($format, [PictureFormat::Jpeg, PictureFormat::Png, PictureFormat::Webp], true) && $asset->orientation === 1 && $asset->depth <= 8 && in_array($asset->color_space, ['rgb', 'gray'], true);
    }

    /** Where a copy is, below the folder of derived files. */
    public static function derivedPath(string $hash, string $size): string
    {
        return self::path($hash)."-{$size}.jpg";
    }

    /** Where the bytes of a hash are, below their folder. */
    public static function path(string $hash): string
    {
        return substr($hash, 0, 2).'/'.substr($hash, 2, 2).'/'.$hash;
    }
}
