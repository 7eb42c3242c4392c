<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Models\Asset;
use Closure;
use Skeno\Core\Imaging\Picture;

/** A picture on its way in: its bytes are all that has to be there, copies are made when they are asked for. */
final class ArrivingPicture implements Arrival
{
    public function __construct(private readonly Picture $picture, private readonly AssetStore $store)
    {
    }

    public function hash(string $file): string
    {
        return (string) hash_file('sha256', $file);
    }

    public function keep(string $hash, Closure $progress): string
    {
        $this->store->keep($this->picture->file, $hash);

        return '';
    }

    public function asset(): array
    {
        return [
            'kind' => 'picture', 'bytes' => $this->picture->bytes, 'format' => $this->picture->format->value, 'width' => $this->picture->width, 'height' => $this->picture->height,
            'orientation' => $this->picture->orientation, 'depth' => $this->picture->depth, 'color_space' => $this->picture->colorSpace,
        ];
    }

    public function written(Asset $asset): void
    {
    }
}
