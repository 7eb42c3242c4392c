<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Imagick;
use ImagickException;
use Skeno\Core\Imaging\PictureFormat;

/** Pictures of one size as the slices of a volume, in shades of grey of 8 or 16 bits, so many mm apart. */
final readonly class PictureStack implements Source
{
    /** @param  non-empty-list<array{string, int}>  $slices  file, and which of its pages */
    private function __construct(private array $slices, private Grid $grid, private Scalar $scalar)
    {
    }

    /**
     * @param  non-empty-list<array{string, int}>  $slices  file, and which of its pages, in order
     * @param  array{float, float, float}  $spacing  mm from a pixel to the next across and down, and from a slice to the next
     *
     * @throws RefusedVolume
     */
    public static function of(array $slices, array $spacing, VolumeLimits $limits): self
    {
        if (! (min($spacing) > 0) || ! is_finite(max($spacing))) {
            throw RefusedVolume::because('its spacing is '.implode(' × ', $spacing).' mm; each has to be more than 0');
        }
        $size = null;
        $isDeep = false;
        foreach ($slices as $k => [$file, $page]) {
            try {
                $picture = new Imagick;
                $picture->pingImage(self::source($file, $page));
                $own = [$picture->getImageWidth(), $picture->getImageHeight()];
                $isDeep = $isDeep || $picture->getImageDepth() > 8;
                $picture->clear();
            } catch (ImagickException) {
                throw RefusedVolume::because('slice '.($k + 1).' is no picture of a kind we take, or damaged');
            }
            if ($size === null) {
                $limits->mustHold([$own[0], $own[1], count($slices)]);
            } elseif ($size !== $own) {
                throw RefusedVolume::because('slice '.($k + 1)." is {$own[0]} × {$own[1]} pixels, the others {$size[0]} × {$size[1]}");
            }
            $size = $own;
        }
        [$width, $height] = $size;

        return new self($slices, Grid::spaced([$width, $height, count($slices)], $spacing), $isDeep ? Scalar::UInt16 : Scalar::UInt8);
    }

    public function grid(): Grid
    {
        return $this->grid;
    }

    public function scalar(): Scalar
    {
        return $this->scalar;
    }

    public function scaling(): array
    {
        return [1.0, 0.0];
    }

    public function windows(): array
    {
        return [];
    }

    public function slices(): iterable
    {
        [$width, $height] = $this->grid->sizes;
        foreach ($this->slices as $k => [$file, $page]) {
            try {
                $picture = new Imagick;
                $picture->readImage(self::source($file, $page));
                $picture->setIteratorIndex(0);
                $values = $picture->getImage()->exportImagePixels(0, 0, $width, $height, 'I', $this->scalar === Scalar::UInt16 ? Imagick::PIXEL_SHORT : Imagick::PIXEL_CHAR);
                $picture->clear();
            } catch (ImagickException) {
                throw RefusedVolume::because('slice '.($k + 1).' is damaged');
            }
            yield $k => array_values(array_map(intval(...), $values));
        }
    }

    private static function source(string $file, int $page): string
    {
        $format = PictureFormat::sniff((string) @file_get_contents($file, false, null, 0, 16)) ?? throw RefusedVolume::because('a slice is no picture of a kind we take');

        return "{$format->value}:{$file}[{$page}]";
    }
}
