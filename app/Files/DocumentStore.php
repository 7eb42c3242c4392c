<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use RuntimeException;
use Skeno\Core\Document\Bundle;
use Skeno\Core\Document\DocumentLimits;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Document\TiffPages;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Items\Sheets;

/** The pages of documents as pictures: drawn when they are asked for, kept, and always to be drawn again from the original. */
final class DocumentStore
{
    public function __construct(private readonly AssetStore $assets)
    {
    }

    public static function limits(): DocumentLimits
    {
        return new DocumentLimits(config()->integer('skeno.document.max_bytes'), config()->integer('skeno.document.max_pages'), config()->integer('skeno.document.max_pixels'), config()->integer('skeno.document.program_bytes'), config()->integer('skeno.document.program_seconds'));
    }

    public static function pictures(): PictureLimits
    {
        return new PictureLimits(config()->integer('skeno.picture.max_bytes'), config()->integer('skeno.picture.max_pixels'));
    }

    /** A folder for what is in hand; what a killed worker leaves there the sweep finds. */
    public static function scratch(): string
    {
        return storage_path('tmp');
    }

    public static function sheets(Asset $asset): Sheets
    {
        return Sheets::fromArray($asset->facts['sheets'] ?? null, 'facts.sheets');
    }

    /** px an inch its pages are drawn at; 0: as its pictures are. */
    public static function resolution(Asset $asset): int
    {
        return is_int($asset->facts['resolution'] ?? null) ? $asset->facts['resolution'] : 0;
    }

    /** A page as a picture of a size; of the same px as its marks are in, where it is not made smaller. */
    public function page(Asset $asset, int $place, string $size): string
    {
        [$width, $height] = self::sheets($asset)->size($place);
        $side = AssetStore::SIDES[$size];
        if ($size !== 'full' && max($width, $height) <= $side) {
            $size = 'full';
        }
        $path = $size === 'thumb' && $place === 0 ? AssetStore::derivedPath($asset->sha256, $size) : self::path($asset->sha256, $place, $size);

        return $this->assets->made($path, function () use ($asset, $place, $size, $side): string {
            $file = self::scratch().'/sheet-'.bin2hex(random_bytes(6)).'.jpg';
            try {
                $size === 'full' ? $this->draw($asset, $place, $file) : Picture::derive($this->page($asset, $place, 'full'), PictureFormat::Jpeg, $file, $side, $size === 'thumb' ? 80 : 92);

                return (string) file_get_contents($file);
            } finally {
                @unlink($file);
            }
        });
    }

    /** The page of a document whose row is not at hand, such as one of a release. */
    public function pageOf(string $hash, int $place): string
    {
        return $this->page(self::of($hash), $place, 'full');
    }

    /** The file a document came as. */
    public function original(Asset|string $document): string
    {
        return $this->assets->file($document instanceof Asset ? $document : self::of($document));
    }

    private static function of(string $hash): Asset
    {
        return Asset::query()->where('sha256', $hash)->first() ?? throw new RuntimeException('a document of the release is not there any more');
    }

    private function draw(Asset $asset, int $place, string $target): void
    {
        $original = $this->assets->file($asset);
        match ($asset->format) {
            'pdf' => Pdf::draw($original, $place, self::resolution($asset), $target, self::limits()),
            'tiff' => Picture::derive($original, PictureFormat::Tiff, $target, AssetStore::SIDES['full'], 92, TiffPages::of($original, self::limits())->frames[$place] ?? 0),
            default => Bundle::draw($original, $place, $target, self::limits(), self::pictures(), self::scratch()),
        };
    }

    /** Where a page is, below the folder of derived files. */
    private static function path(string $hash, int $place, string $size): string
    {
        return AssetStore::path($hash)."-pages/{$place}-{$size}.jpg";
    }
}
