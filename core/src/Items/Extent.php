<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\InvalidValue;

/**
 * What an item offers marks to lie on: a plane of so many px, with places along an axis where it has one; the pages of a document, each a plane
 * of its own; a text of so many code points; or space, of so many frames.
 */
final readonly class Extent
{
    /**
     * @param  int  $width  px of the upright picture, of a document of its first page; of a text 0
     * @param  int  $height  px
     * @param  ?int  $places  on the item's axis; null: it has none
     * @param  ?int  $length  code points of a text; null: it is a plane
     * @param  ?Sheets  $sheets  of a document: its pages
     * @param  string  $word  what a place on its axis is called
     * @param  bool  $isSpace  of a cloud: marks lie in space, on no plane
     */
    private function __construct(public int $width, public int $height, public ?int $places, public ?int $length, public ?Sheets $sheets = null, public string $word = 'frame', public bool $isSpace = false)
    {
    }

    public static function plane(int $width, int $height, ?int $places = null): self
    {
        return new self($width, $height, $places, null);
    }

    /** The slices of a volume. */
    public static function slices(int $width, int $height, int $places): self
    {
        return new self($width, $height, $places, null, null, 'slice');
    }

    /** The frames of a cloud. */
    public static function space(int $frames): self
    {
        return new self(0, 0, $frames, null, isSpace: true);
    }

    /** @throws InvalidValue */
    public static function text(int $length): self
    {
        return $length >= 0 ? new self(0, 0, null, $length) : throw InvalidValue::at('length', $length, 'code points, from 0');
    }

    public static function pages(Sheets $sheets): self
    {
        [$width, $height] = $sheets->size(0);

        return new self($width, $height, $sheets->count, null, $sheets);
    }

    /** The plane a mark at a place of the axis lies on: of a document that page, of anything else all of it. @throws InvalidValue when there is no such page */
    public function at(?int $place): self
    {
        return $this->sheets === null ? $this : self::plane(...$this->sheets->size($place ?? 0));
    }

    /** Whether marks on it are tracks along its axis; those on pages stay where they are. */
    public function hasTracks(): bool
    {
        return $this->places !== null && $this->sheets === null;
    }

    public function isText(): bool
    {
        return $this->length !== null;
    }
}
