<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\VolumeStore;
use App\Models\Asset;
use Skeno\Core\Items\NoItem;
use Skeno\Core\Items\Wish;
use Skeno\Core\Volume\DicomSlice;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\RefusedVolume;
use Skeno\Core\Volume\Scan;

/** Volumes: NIfTI files, and slices of series that were put together as one. */
final class VolumeKind implements Kind
{
    public function __construct(private readonly AssetStore $assets, private readonly VolumeStore $volumes)
    {
    }

    public function word(): string
    {
        return 'volume';
    }

    public function owns(string $head, string $file): bool
    {
        return DicomSlice::isOne($head) || Nifti::isOne($head, $file);
    }

    public function isNamed(string $name): bool
    {
        return preg_match('/\.nii(\.gz)?$/i', $name) === 1;
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        if (DicomSlice::isOne((string) @file_get_contents($file, false, null, 0, 1024))) {
            throw RefusedVolume::because('a slice of a DICOM series by itself: bring in its whole folder with names that end in .dcm, or a zip of it');
        }
        $nifti = Nifti::open($file, VolumeStore::limits());
        if ($nifti->isLabels) {
            throw NoItem::because('a map of labels, no scan; it comes in as labels, by the format NIfTI label maps');
        }

        return new ArrivingVolume($file, str_starts_with((string) @file_get_contents($file, false, null, 0, 2), "\x1f\x8b") ? 'nii.gz' : 'nii', $nifti, Scan::of($nifti->grid(), $nifti->header), $this->assets, $this->volumes);
    }

    public function isComplete(Asset $asset): bool
    {
        return $asset->derived_at !== null && $this->volumes->isMade($asset->sha256);
    }

    public function complete(Asset $asset): bool
    {
        $this->volumes->makeAgain($asset);
        $this->volumes->slice($asset, VolumeStore::face($asset), 'thumb');

        return true;
    }
}
