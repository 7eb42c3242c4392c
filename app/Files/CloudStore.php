<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use App\Support\Refusal;
use Closure;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Storage;
use RuntimeException;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Made;
use Skeno\Core\Cloud\Making;
use Skeno\Core\Cloud\Portrait;
use Skeno\Core\Cloud\RefusedCloud;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Cloud\TopView;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Marks\Mark;

/** What is made of clouds: the points of their frames for the bench, all of them or none, and pictures from above. It can always be made again from the original. */
final class CloudStore
{
    /** px of a picture from above, at most. */
    private const SIDE = [1_280, 960];

    public function __construct(private readonly AssetStore $assets)
    {
    }

    public static function limits(): CloudLimits
    {
        return new CloudLimits(config()->integer('skeno.cloud.max_points'), config()->integer('skeno.cloud.max_bytes'));
    }

    public function isMade(string $hash): bool
    {
        return is_file($this->folder($hash).'/index.json');
    }

    /**
     * @param  string  $file  of one scan, or of a sequence, by its `$name`
     * @param  ?Closure(int, int): void  $progress  told how many steps are done, of how many; may throw to stop
     *
     * @throws RefusedCloud
     */
    public function make(string $file, string $name, string $hash, ?Closure $progress = null): ?Made
    {
        $target = $this->folder($hash);
        if ($this->isMade($hash)) {
            return null;
        }
        File::ensureDirectoryExists(dirname($target), 0o770);
        // a killed worker leaves them where the sweep finds them
        $room = storage_path('tmp/cloud-'.bin2hex(random_bytes(6)));
        $scans = "{$room}-scans";
        File::ensureDirectoryExists($room, 0o770);
        File::ensureDirectoryExists($scans, 0o770);
        try {
            $frames = str_ends_with($name, '.'.Sequence::ENDING) ? Sequence::open($file, $scans, self::limits()) : [CloudFile::open($file, $name, self::limits())];
            $made = (new Making)->make($frames, $room, $progress);
            if (str_ends_with($name, '.'.Sequence::ENDING)) {
                Sequence::rig($file, $room, self::limits());
            }
            // somebody else may have been first
            @rename($room, $target);
            if (! is_file("{$target}/index.json")) {
                throw new RuntimeException('what the bench needs of this cloud could not be stored: is the disk full?');
            }

            return $made;
        } finally {
            File::deleteDirectory($room);
            File::deleteDirectory($scans);
        }
    }

    /** Makes what is missing of a cloud that is in a project already. @throws RefusedCloud */
    public function makeAgain(Asset $asset): void
    {
        $this->make($this->assets->file($asset), "cloud.{$asset->format}", $asset->sha256);
    }

    /** What is known of one that has been made. */
    public function made(string $hash): Made
    {
        return Made::read($this->folder($hash));
    }

    /** What came beside the scans of one that has been made; null: nothing did. */
    public function rig(string $hash): ?Rig
    {
        $said = @file_get_contents($this->folder($hash).'/rig.json');

        return $said === false ? null : Rig::fromArray(json_decode($said, true));
    }

    /** Whether a name is one of the files a bench asks for. */
    public static function isFile(string $name): bool
    {
        return preg_match('/^(index\.json|\d{1,6}\.bin|\d{1,6}-\d{1,2}\.(jpg|png))$/D', $name) === 1;
    }

    /** A file for the bench. @throws Refusal when it has to be made again first */
    public function file(Asset $asset, string $name): string
    {
        if (! $this->isMade($asset->sha256)) {
            throw Refusal::because('cloud_not_made', 'what the bench needs of this cloud is being made again; try in a while');
        }

        return $this->folder($asset->sha256)."/{$name}";
    }

    public function frame(Asset $asset, int $frame): Frame
    {
        return Frame::open(dirname($this->file($asset, 'index.json')), $frame);
    }

    /**
     * How many points of a frame lie in cuboids, for a release; none are known of a cloud that has to be made again.
     *
     * @return list<int>
     */
    public function inside(string $hash, int $frame, Inside $cuboids): array
    {
        return $this->isMade($hash) ? $cuboids->count(Frame::open($this->folder($hash), $frame)) : [];
    }

    /** A frame from above as a picture of a size; kept. */
    public function picture(Asset $asset, int $place, string $size): string
    {
        $path = $size === 'thumb' && $place === 0 ? AssetStore::derivedPath($asset->sha256, $size) : AssetStore::path($asset->sha256)."-frames/{$place}-{$size}.jpg";

        return $this->assets->made($path, function () use ($asset, $place, $size): string {
            // a list shows it small: points drawn large and then made small would be gone
            [$width, $height] = $size === 'thumb' ? [AssetStore::SIDES[$size], intdiv(AssetStore::SIDES[$size] * 3, 4)] : self::SIDE;

            return self::jpeg(TopView::bitmap($this->frame($asset, $place), $width, $height), AssetStore::SIDES[$size]);
        });
    }

    /** An object of a frame by itself, as a square JPEG of so many px. */
    public function portrait(Asset $asset, int $frame, Mark $mark, int $side): string
    {
        return self::jpeg(Portrait::ofMark($this->frame($asset, $frame), $mark, $side), $side);
    }

    private static function jpeg(string $bitmap, int $side): string
    {
        $drawn = storage_path('tmp/cloud-'.bin2hex(random_bytes(6)).'.bmp');
        $scaled = "{$drawn}.jpg";
        try {
            file_put_contents($drawn, $bitmap);
            Picture::derive($drawn, PictureFormat::Bmp, $scaled, $side, 90);

            return (string) file_get_contents($scaled);
        } finally {
            @unlink($drawn);
            @unlink($scaled);
        }
    }

    private function folder(string $hash): string
    {
        return Storage::disk('derived')->path(AssetStore::path($hash).'-cloud');
    }
}
