<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Imagick;
use ImagickException;
use Skeno\Core\InvalidValue;

/** A picture, or a part of one, in colour: R G B of 8 bits a pixel, row by row, in a packed string. */
final readonly class Colours
{
    private function __construct(public int $width, public int $height, public string $bytes)
    {
    }

    /** @throws InvalidValue when there are not width × height × 3 bytes */
    public static function of(int $width, int $height, string $bytes): self
    {
        if ($width < 1 || $height < 1 || strlen($bytes) !== 3 * $width * $height) {
            throw InvalidValue::at('colours', strlen($bytes).' bytes', "{$width} × {$height} × 3");
        }

        return new self($width, $height, $bytes);
    }

    /**
     * What an image shows, without its transparency.
     *
     * @throws ImagickException
     */
    public static function ofImage(Imagick $image): self
    {
        $image->setImageDepth(8);
        $image->setImageFormat('rgb');

        return self::of($image->getImageWidth(), $image->getImageHeight(), $image->getImageBlob());
    }

    /**
     * The same in another size, each pixel the mean of those it stands for.
     *
     * @throws InvalidValue when a side is less than 1
     */
    public function resized(int $width, int $height): self
    {
        if ($width < 1 || $height < 1) {
            throw InvalidValue::at('size', "{$width} × {$height}", 'sides of at least one pixel');
        }
        if ($width === $this->width && $height === $this->height) {
            return $this;
        }
        $image = $this->image();
        $image->resizeImage($width, $height, Imagick::FILTER_BOX, 1);

        return self::ofImage($image);
    }

    /** A part; cut at the edges. @throws InvalidValue when nothing of it lies on the picture */
    public function part(int $x, int $y, int $width, int $height): self
    {
        [$left, $top] = [max(0, $x), max(0, $y)];
        [$right, $bottom] = [min($this->width, $x + $width), min($this->height, $y + $height)];
        if ($right <= $left || $bottom <= $top) {
            throw InvalidValue::at('part', "{$x}, {$y}, {$width} × {$height}", 'a part of the picture');
        }
        $bytes = '';
        for ($row = $top; $row < $bottom; $row++) {
            $bytes .= substr($this->bytes, 3 * ($row * $this->width + $left), 3 * ($right - $left));
        }

        return new self($right - $left, $bottom - $top, $bytes);
    }

    public function image(): Imagick
    {
        $image = new Imagick;
        $image->setSize($this->width, $this->height);
        $image->setFormat('rgb');
        $image->setOption('depth', '8');
        $image->readImageBlob($this->bytes);

        return $image;
    }
}
