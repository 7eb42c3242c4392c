<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\CloudStore;
use App\Models\Asset;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Items\Wish;

/** Point clouds: one scan, or a sequence of them that was put together as one item. */
final class CloudKind implements Kind
{
    public function __construct(private readonly AssetStore $assets, private readonly CloudStore $clouds)
    {
    }

    public function word(): string
    {
        return 'cloud';
    }

    public function owns(string $head, string $file): bool
    {
        return CloudFile::isOne($head);
    }

    public function isNamed(string $name): bool
    {
        return CloudFile::isNamed($name) || str_ends_with($name, '.'.Sequence::ENDING);
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        $isSequence = str_ends_with($name, '.'.Sequence::ENDING);
        if (! $isSequence) {
            // what its header says is wrong is told at once
            CloudFile::open($file, $name, CloudStore::limits());
        }
        $format = $isSequence ? Sequence::ENDING : CloudFile::format((string) @file_get_contents($file, false, null, 0, 1024), $name);

        return new ArrivingCloud($file, $format, $this->assets, $this->clouds);
    }

    public function isComplete(Asset $asset): bool
    {
        return $asset->derived_at !== null && $this->clouds->isMade($asset->sha256);
    }

    public function complete(Asset $asset): bool
    {
        $this->clouds->makeAgain($asset);
        $this->clouds->picture($asset, 0, 'thumb');

        return true;
    }
}
