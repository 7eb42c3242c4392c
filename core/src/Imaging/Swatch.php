<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Skeno\Core\InvalidValue;

/** A part of a picture brought to one small size, so that parts of any size can be compared: SIDE × SIDE pixels, row by row, R G B from 0 to 255. */
final readonly class Swatch
{
    public const SIDE = 24;

    /** @param  list<int>  $bytes */
    private function __construct(public array $bytes)
    {
    }

    /**
     * @param  list<int>  $bytes  R, G, B of each pixel
     *
     * @throws InvalidValue when there are not SIDE × SIDE × 3 of them
     */
    public static function of(array $bytes): self
    {
        return count($bytes) === self::SIDE * self::SIDE * 3 ? new self($bytes) : throw InvalidValue::at('swatch', count($bytes).' values', self::SIDE.' × '.self::SIDE.' × 3');
    }
}
