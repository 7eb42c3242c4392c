<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Models\Asset;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Items\Wish;

final class PictureKind implements Kind
{
    public function __construct(private readonly AssetStore $store)
    {
    }

    public function word(): string
    {
        return 'picture';
    }

    public function owns(string $head, string $file): bool
    {
        return PictureFormat::sniff($head) !== null;
    }

    public function isNamed(string $name): bool
    {
        return PictureFormat::ofName($name) !== null;
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        return new ArrivingPicture(Picture::open($file, $name, new PictureLimits(config()->integer('skeno.picture.max_bytes'), config()->integer('skeno.picture.max_pixels'))), $this->store);
    }

    public function isComplete(Asset $asset): bool
    {
        return $this->store->isComplete($asset);
    }

    public function complete(Asset $asset): bool
    {
        $this->store->derived($asset, 'thumb');
        $this->store->derived($asset, 'screen');
        $this->store->tile($asset);

        return true;
    }
}
