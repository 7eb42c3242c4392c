<?php

declare(strict_types=1);

namespace App\Work;

use App\Intake\AssetStore;
use App\Models\Turn;
use Skeno\Core\Assist\Computation;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\Plane;

/** What the bench asks the core to work out for the shape in hand. */
final class Compute
{
    public function __construct(private readonly AssetStore $store)
    {
    }

    /** @return array<string, mixed> */
    public function __invoke(Turn $turn, Fields $in): array
    {
        $asset = $turn->item->asset;
        $brightness = fn (int $x, int $y, int $width, int $height): Plane => Picture::brightness($this->store->file($asset), PictureFormat::from($asset->format), $x, $y, $width, $height);
        $computed = (new Computation($turn->project->codebookVersion()->codebook(), $asset->width, $asset->height, $brightness))->run($in);

        return ['geometry' => (object) $computed['geometry']] + $computed;
    }
}
