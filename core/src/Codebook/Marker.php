<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** The sign of a class beside its colour, so that classes differ without colour too. */
enum Marker: string
{
    case Circle = 'circle';
    case Ring = 'ring';
    case Square = 'square';
    case Frame = 'frame';
    case Triangle = 'triangle';
    case Diamond = 'diamond';
    case Cross = 'cross';
    case Bar = 'bar';

    public static function nth(int $index): self
    {
        return self::cases()[$index % count(self::cases())];
    }
}
