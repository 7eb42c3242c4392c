<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Skeno\Core\InvalidValue;

/** One channel of a picture: 8 bits a pixel, row by row, in a packed string. */
final readonly class Plane
{
    private function __construct(public int $width, public int $height, private string $bytes)
    {
    }

    /** @throws InvalidValue when there are not width × height bytes */
    public static function of(int $width, int $height, string $bytes): self
    {
        if ($width < 1 || $height < 1 || strlen($bytes) !== $width * $height) {
            throw InvalidValue::at('plane', strlen($bytes).' bytes', "{$width} × {$height}");
        }

        return new self($width, $height, $bytes);
    }

    /** 0 to 255; null outside. */
    public function at(int $x, int $y): ?int
    {
        return $x < 0 || $y < 0 || $x >= $this->width || $y >= $this->height ? null : ord($this->bytes[$y * $this->width + $x]);
    }
}
