<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** A picture, or a clip with the number of its frames, a label file may speak of. */
final readonly class KnownPicture
{
    public function __construct(public int $id, public string $path, public int $width, public int $height, public ?int $places = null)
    {
    }
}
