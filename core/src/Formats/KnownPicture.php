<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Items\Extent;

/** An item a label file may speak of: a picture, a clip with the number of its frames, a text with the number of its code points. */
final readonly class KnownPicture
{
    public function __construct(public int $id, public string $path, public int $width, public int $height, public ?int $places = null, public ?int $length = null)
    {
    }

    public function extent(): Extent
    {
        return $this->length === null ? Extent::plane($this->width, $this->height, $this->places) : Extent::text($this->length);
    }
}
