<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\ClipStore;
use App\Models\Asset;
use Skeno\Core\Clip\Clip;
use Skeno\Core\Clip\ClipFormat;
use Skeno\Core\Items\Wish;

final class ClipKind implements Kind
{
    public function __construct(private readonly AssetStore $assets, private readonly ClipStore $clips)
    {
    }

    public function word(): string
    {
        return 'clip';
    }

    public function owns(string $head, string $file): bool
    {
        return ClipFormat::sniff($head) !== null;
    }

    public function isNamed(string $name): bool
    {
        return ClipFormat::ofName($name) !== null;
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        return new ArrivingClip(Clip::open($file, $name, ClipStore::limits()), $this->assets, $this->clips);
    }

    public function isComplete(Asset $asset): bool
    {
        return $asset->derived_at !== null && $this->clips->isMade($asset->sha256);
    }

    public function complete(Asset $asset): bool
    {
        $this->clips->makeAgain($asset);
        $this->clips->frame($asset, ClipStore::face($asset), 'thumb');

        return true;
    }
}
