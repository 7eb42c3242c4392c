<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use App\Support\Refusal;
use Closure;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Storage;
use RuntimeException;
use Skeno\Core\Clip\Clip;
use Skeno\Core\Clip\ClipFormat;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Clip\Frames;
use Skeno\Core\Clip\FrameTable;
use Skeno\Core\Clip\Making;
use Skeno\Core\Clip\MostDifferent;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\Plane;

/** What is made of clips: their files for the bench, all of them or none, and single frames as pictures. It can always be made again from the original. */
final class ClipStore
{
    /** The files a bench asks for, with what they are. */
    public const FILES = ['index.json' => 'application/json', 'full.mp4' => 'video/mp4', 'small.mp4' => 'video/mp4', 'sound.m4a' => 'audio/mp4', 'wave.bin' => 'application/octet-stream'];

    public function __construct(private readonly AssetStore $assets)
    {
    }

    public static function limits(): ClipLimits
    {
        return new ClipLimits(config()->integer('skeno.clip.max_bytes'), config()->integer('skeno.clip.max_pixels'), config()->integer('skeno.clip.max_frames'), config()->integer('skeno.clip.max_seconds'), config()->integer('skeno.clip.decoder_bytes'), config()->integer('skeno.clip.decoder_seconds'));
    }

    public function isMade(string $hash): bool
    {
        return is_file($this->folder($hash).'/index.json');
    }

    /**
     * @param  ?Closure(int): void  $progress  gets how many frames are done; may throw to stop
     * @return string what is said of it to whoever brought it; empty: nothing
     */
    public function make(Clip $clip, string $hash, ?Closure $progress = null): string
    {
        $target = $this->folder($hash);
        if ($this->isMade($hash)) {
            return '';
        }
        $least = 200_000_000 + $clip->bytes;
        $free = @disk_free_space(dirname($target, 3));
        if ($free !== false && $free < $least) {
            throw Refusal::because('disk_full', 'there is no room on the server for what the bench needs of this clip');
        }
        // a killed worker leaves it where the sweep finds it
        $temporary = storage_path('tmp/clip-'.bin2hex(random_bytes(6)));
        File::ensureDirectoryExists($temporary, 0o770);
        File::ensureDirectoryExists(dirname($target), 0o770);
        try {
            $made = (new Making(self::limits()))->make($clip, $temporary, $progress);
            // somebody else may have been first
            @rename($temporary, $target);
            if (! is_file("{$target}/index.json")) {
                throw new RuntimeException('what the bench needs of this clip could not be stored: is the disk full?');
            }

            return $made->note;
        } finally {
            File::deleteDirectory($temporary);
        }
    }

    /** Makes what is missing of a clip that is in a project already. */
    public function makeAgain(Asset $asset): void
    {
        $limits = self::limits();
        $this->make(Clip::open($this->assets->file($asset), "clip.{$asset->format}", $limits), $asset->sha256);
        if ($this->table($asset)->fingerprint !== ($asset->facts['fingerprint'] ?? '')) {
            throw new RuntimeException("the clip {$asset->sha256} decodes to other frames than when it came in: is this another version of ffmpeg, or is the file damaged?");
        }
    }

    /** A file for the bench. @throws Refusal when it has to be made again first */
    public function file(Asset $asset, string $name): string
    {
        $file = $this->folder($asset->sha256)."/{$name}";
        if (! $this->isMade($asset->sha256)) {
            throw Refusal::because('clip_not_made', 'what the bench needs of this clip is being made again; try in a while');
        }

        return $file;
    }

    public function table(Asset $asset): FrameTable
    {
        $this->file($asset, 'frames.json');

        return $this->read($asset->sha256)[0];
    }

    /** @return array{FrameTable, bool} the frames of what is made, and whether there is sound */
    public function read(string $hash): array
    {
        $folder = $this->folder($hash);

        return [FrameTable::fromArray(json_decode((string) file_get_contents("{$folder}/frames.json"), true)), is_file("{$folder}/sound.m4a")];
    }

    /** A frame as a picture of a size, decoded from what was made for the bench; kept. */
    public function frame(Asset $asset, int $frame, string $size): string
    {
        $path = $size === 'thumb' && $frame === self::face($asset) ? AssetStore::derivedPath($asset->sha256, $size) : AssetStore::path($asset->sha256)."-frames/{$frame}-{$size}.jpg";

        return $this->assets->made($path, function () use ($asset, $frame, $size): string {
            $decoded = storage_path('tmp/frame-'.bin2hex(random_bytes(6)).'.jpg');
            $scaled = $decoded.'.scaled.jpg';
            try {
                (new Frames(self::limits()))->quick($this->file($asset, 'full.mp4'), $this->table($asset), $frame, $decoded);
                Picture::derive($decoded, PictureFormat::Jpeg, $scaled, AssetStore::SIDES[$size], $size === 'thumb' ? 80 : 92);

                return (string) file_get_contents($scaled);
            } finally {
                @unlink($decoded);
                @unlink($scaled);
            }
        });
    }

    public static function count(Asset $asset): int
    {
        return is_int($asset->facts['frames'] ?? null) ? $asset->facts['frames'] : 0;
    }

    /**
     * The brightness of frames, from the small copy where there is one.
     *
     * @param  Closure(Plane, float, int): mixed  $each  gets a frame, px of it for one of the clip, its number; false ends it
     */
    public function planes(Asset $asset, int $first, int $count, Closure $each): void
    {
        $index = json_decode((string) file_get_contents($this->file($asset, 'index.json')), true);
        $rendition = is_array($index) && is_array($index['small'] ?? null) ? $index['small'] : (is_array($index) && is_array($index['full'] ?? null) ? $index['full'] : throw new RuntimeException('the index of a clip is broken'));
        [$width, $height] = [(int) $rendition['width'], (int) $rendition['height']];
        // a copy of an odd clip has a row or column more
        $scale = $rendition === ($index['small'] ?? null) ? $width / $asset->width : 1.0;
        (new Frames(self::limits()))->planes($this->file($asset, (string) $rendition['file']), $this->table($asset), $first, $count, $width, $height, static fn (Plane $plane, int $frame): bool => $each($plane, $scale, $frame) !== false);
    }

    /**
     * The frames that differ most from each other, seen on the smallest copy there is.
     *
     * @param  Closure(int): void  $looked  told the frame that was looked at; may throw to stop
     * @return list<int> in order
     */
    public function mostDifferent(Asset $asset, int $wanted, Closure $looked): array
    {
        $small = $this->file($asset, 'small.mp4');

        return (new MostDifferent(new Frames(self::limits())))->of(is_file($small) ? $small : $this->file($asset, 'full.mp4'), self::count($asset), $wanted, $looked);
    }

    /** The frame a clip is shown by in lists: the one in its middle, as the first is often black. */
    public static function face(Asset $asset): int
    {
        return intdiv(self::count($asset), 2);
    }

    /**
     * Exact frames, decoded from the original.
     *
     * @param  list<int>  $frames
     * @return array<int, string> files by frame
     */
    public function exact(Asset $asset, array $frames, string $folder): array
    {
        return (new Frames(self::limits()))->write($this->assets->file($asset), ClipFormat::from($asset->format), $frames, self::count($asset), $asset->width, $asset->height, $folder);
    }

    private function folder(string $hash): string
    {
        return Storage::disk('derived')->path(AssetStore::path($hash).'-clip');
    }
}
