<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use App\Support\Refusal;
use Closure;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Storage;
use RuntimeException;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Volume\Making;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\Planes;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\Source;
use Skeno\Core\Volume\Standing;
use Skeno\Core\Volume\VolumeLimits;

/** What is made of volumes: their planes for the bench, all of them or none, and single slices as pictures. It can always be made again from the original. */
final class VolumeStore
{
    /** The files a bench asks for, with what they are. */
    public const FILES = ['index.json' => 'application/json', 'xy.bin' => 'application/octet-stream', 'xz.bin' => 'application/octet-stream', 'yz.bin' => 'application/octet-stream'];

    /** Bytes there must be room for, for each of a volume of 16 bits: its planes in three directions, and two copies of it on the way. */
    private const ROOM = 5;

    public function __construct(private readonly AssetStore $assets)
    {
    }

    public static function limits(): VolumeLimits
    {
        return new VolumeLimits(config()->integer('skeno.volume.max_voxels'), config()->integer('skeno.volume.max_side'), config()->integer('skeno.volume.max_bytes'));
    }

    public static function scan(Asset $asset): Scan
    {
        return Scan::fromArray($asset->facts['scan'] ?? null, 'facts.scan');
    }

    public function isMade(string $hash): bool
    {
        return is_file($this->folder($hash).'/index.json');
    }

    /** @param  ?Closure(int, int): void  $progress  told how many steps are done, of how many; may throw to stop */
    public function make(Source $source, string $hash, ?Closure $progress = null): void
    {
        $target = $this->folder($hash);
        if ($this->isMade($hash)) {
            return;
        }
        File::ensureDirectoryExists(dirname($target), 0o770);
        $free = @disk_free_space(dirname($target));
        if ($free !== false && $free < 100_000_000 + self::ROOM * 2 * $source->grid()->voxels()) {
            throw Refusal::because('disk_full', 'there is no room on the server for what the bench needs of this volume');
        }
        // a killed worker leaves it where the sweep finds it
        $temporary = storage_path('tmp/volume-'.bin2hex(random_bytes(6)));
        File::ensureDirectoryExists($temporary, 0o770);
        try {
            (new Making)->make($source, $temporary, $progress);
            // somebody else may have been first
            @rename($temporary, $target);
            if (! is_file("{$target}/index.json")) {
                throw new RuntimeException('what the bench needs of this volume could not be stored: is the disk full?');
            }
        } finally {
            File::deleteDirectory($temporary);
        }
    }

    /** Makes what is missing of a volume that is in a project already. */
    public function makeAgain(Asset $asset): void
    {
        $this->make(Nifti::open($this->assets->file($asset), self::limits()), $asset->sha256);
    }

    /** A file for the bench. @throws Refusal when it has to be made again first */
    public function file(Asset $asset, string $name): string
    {
        if (! $this->isMade($asset->sha256)) {
            throw Refusal::because('volume_not_made', 'what the bench needs of this volume is being made again; try in a while');
        }

        return $this->folder($asset->sha256)."/{$name}";
    }

    public function planes(Asset $asset): Planes
    {
        return Planes::open(dirname($this->file($asset, 'index.json')));
    }

    /** A slice as a picture of a size, as one looks at it first; kept. */
    public function slice(Asset $asset, int $place, string $size): string
    {
        $path = $size === 'thumb' && $place === self::face($asset) ? AssetStore::derivedPath($asset->sha256, $size) : AssetStore::path($asset->sha256)."-slices/{$place}-{$size}.jpg";

        return $this->assets->made($path, fn (): string => self::jpeg($this->planes($asset)->bitmap($place), $size));
    }

    /** How a plane that stands on the slices lies on the bench. @param  string  $plane  as `xz-12` */
    public function standing(Asset $asset, string $plane): Standing
    {
        return Standing::named($plane, $this->planes($asset));
    }

    /** Such a plane as a picture, as one looks at it first; kept. */
    public function plane(Asset $asset, Standing $plane): string
    {
        return $this->assets->made(AssetStore::path($asset->sha256)."-slices/{$plane->direction}-{$plane->at}-full.jpg", fn (): string => self::jpeg($plane->bitmap($this->planes($asset)), 'full'));
    }

    private static function jpeg(string $bitmap, string $size): string
    {
        $drawn = storage_path('tmp/slice-'.bin2hex(random_bytes(6)).'.bmp');
        $scaled = "{$drawn}.jpg";
        try {
            file_put_contents($drawn, $bitmap);
            Picture::derive($drawn, PictureFormat::Bmp, $scaled, AssetStore::SIDES[$size], $size === 'thumb' ? 80 : 95);

            return (string) file_get_contents($scaled);
        } finally {
            @unlink($drawn);
            @unlink($scaled);
        }
    }

    /** A slice as a PNG, for a release. */
    public function png(string $hash, int $place): string
    {
        $asset = Asset::query()->where('sha256', $hash)->first() ?? throw new RuntimeException('a volume of the release is not there any more');
        $picture = imagecreatefromstring($this->planes($asset)->bitmap($place));
        if ($picture === false) {
            throw new RuntimeException('a slice could not be drawn');
        }
        ob_start();
        imagepng($picture, null, 6);

        return (string) ob_get_clean();
    }

    /** The slice a volume is shown by in lists: the one in its middle. */
    public static function face(Asset $asset): int
    {
        return intdiv(self::scan($asset)->places(), 2);
    }

    private function folder(string $hash): string
    {
        return Storage::disk('derived')->path(AssetStore::path($hash).'-volume');
    }
}
