<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\InvalidValue;

/** What an item offers marks to lie on: a plane of so many px, with places along an axis where it has one, or a text of so many code points. */
final readonly class Extent
{
    /**
     * @param  int  $width  px of the upright picture; of a text 0
     * @param  int  $height  px
     * @param  ?int  $places  on the item's axis; null: it has none
     * @param  ?int  $length  code points of a text; null: it is a plane
     */
    private function __construct(public int $width, public int $height, public ?int $places, public ?int $length)
    {
    }

    public static function plane(int $width, int $height, ?int $places = null): self
    {
        return new self($width, $height, $places, null);
    }

    /** @throws InvalidValue */
    public static function text(int $length): self
    {
        return $length >= 0 ? new self(0, 0, null, $length) : throw InvalidValue::at('length', $length, 'code points, from 0');
    }

    public function isText(): bool
    {
        return $this->length !== null;
    }
}
