<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Imaging\OpenPicture;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\Imaging\TilePyramid;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\RefusedFile;
use Skeno\Core\Volume\Standing;

/** An item as a picture, whatever kind it is of: itself, or one place of it (a frame of a clip, a page of a document, a slice of a volume, a frame of a cloud as seen from above). */
final class Views
{
    public function __construct(private readonly AssetStore $assets, private readonly ClipStore $clips, private readonly TextStore $texts, private readonly DocumentStore $documents, private readonly VolumeStore $volumes, private readonly CloudStore $clouds)
    {
    }

    /**
     * The file to send.
     *
     * @param  string  $size  one of AssetStore::SIDES
     * @param  ?int  $place  on the item's axis; null: where it shows itself in lists
     */
    public function file(Asset $asset, string $size, ?int $place = null): string
    {
        if ($asset->kind === 'text') {
            return $this->texts->thumb($asset);
        }

        return match ($asset->kind) {
            'clip' => $this->clips->frame($asset, $place ?? ClipStore::face($asset), $size),
            'volume' => $this->volumes->slice($asset, $place ?? VolumeStore::face($asset), $size),
            'cloud' => $this->clouds->picture($asset, $place ?? 0, $size),
            'document' => $this->documents->page($asset, $place ?? 0, $size),
            default => $this->assets->derived($asset, $size),
        };
    }

    /** How bright a part of it is, in every pixel. @throws RefusedFile */
    public function brightness(Asset $asset, ?int $place, int $x, int $y, int $width, int $height): Plane
    {
        $isPlace = self::isOfPlaces($asset);
        $file = $isPlace ? $this->file($asset, 'full', $place) : $this->assets->file($asset);

        return Picture::brightness($file, $isPlace ? PictureFormat::Jpeg : PictureFormat::from($asset->format), $x, $y, $width, $height);
    }

    /**
     * A part of it in colour, from its tiles where it is large.
     *
     * @param  int  $columns  px across what is returned, $rows down
     *
     * @throws RefusedFile
     */
    public function colours(Asset $asset, ?int $place, int $x, int $y, int $width, int $height, int $columns, int $rows): Colours
    {
        if (self::isOfPlaces($asset)) {
            return Picture::colours($this->file($asset, 'full', $place), PictureFormat::Jpeg, $x, $y, $width, $height, $columns, $rows);
        }
        $tiles = TilePyramid::of($asset->width, $asset->height);
        $folder = $this->assets->tilesOf($asset);

        return $tiles !== null && is_dir($folder) ? Picture::coloursOfTiles($tiles, $folder, $x, $y, $width, $height, $columns, $rows) : Picture::colours($this->assets->file($asset), PictureFormat::from($asset->format), $x, $y, $width, $height, $columns, $rows);
    }

    /**
     * A part of a plane that stands on the slices of a volume, in colour.
     *
     * @throws RefusedFile
     */
    public function coloursStanding(Asset $asset, Standing $plane, int $x, int $y, int $width, int $height, int $columns, int $rows): Colours
    {
        return Picture::colours($this->volumes->plane($asset, $plane), PictureFormat::Jpeg, $x, $y, $width, $height, $columns, $rows);
    }

    /**
     * The plane that is meant where one is.
     *
     * @param  Fields  $in  `{plane?}`, as `xz-12`
     *
     * @throws InvalidValue
     */
    public function standing(Asset $asset, Fields $in): ?Standing
    {
        if (! $in->has('plane')) {
            return null;
        }

        return $asset->kind === 'volume' ? $this->volumes->standing($asset, $in->string('plane', 10)) : throw InvalidValue::at('plane', $in->raw('plane'), 'a volume');
    }

    /** The picture decoded, from its copy for the screen where it is larger than that. @throws RefusedFile */
    public function open(Asset $asset, ?int $place = null): OpenPicture
    {
        $file = $this->file($asset, 'screen', $place);
        $isOriginal = ! self::isOfPlaces($asset) && $file === $this->assets->file($asset);
        $width = $asset->kind === 'document' ? DocumentStore::sheets($asset)->size($place ?? 0)[0] : $asset->width;

        return OpenPicture::of($file, $isOriginal ? PictureFormat::from($asset->format) : PictureFormat::Jpeg, $width);
    }

    /** Whether each place of its axis is a picture of its own. */
    private static function isOfPlaces(Asset $asset): bool
    {
        return in_array($asset->kind, ['clip', 'document', 'volume', 'cloud'], true);
    }
}
