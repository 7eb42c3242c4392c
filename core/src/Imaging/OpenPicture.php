<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Imagick;
use ImagickException;
use Skeno\Core\Geometry\Box;

/** A picture decoded once, from which parts are cut. */
final class OpenPicture
{
    /**
     * @param  float  $scale  px of the decoded copy for a px of the picture
     */
    private function __construct(private readonly Imagick $image, private readonly float $scale)
    {
    }

    /**
     * @param  string  $file  the picture, or a smaller upright copy of it
     * @param  int  $width  of the picture the marks are on, in px
     *
     * @throws RefusedPicture
     */
    public static function of(string $file, PictureFormat $format, int $width): self
    {
        try {
            $image = new Imagick("{$format->value}:{$file}[0]");
            $image->autoOrient();
            if ($image->getImageColorspace() !== Imagick::COLORSPACE_SRGB) {
                $image->transformImageColorspace(Imagick::COLORSPACE_SRGB);
            }

            return new self($image, $image->getImageWidth() / max(1, $width));
        } catch (ImagickException $e) {
            throw RefusedPicture::because($e->getMessage());
        }
    }

    /**
     * A part as a swatch; stretched to a square, since its proportions are kept beside it.
     *
     * @param  Box  $part  in px of the picture; cut at its edges
     * @return ?Swatch null when nothing of it lies on the picture
     *
     * @throws RefusedPicture
     */
    public function swatch(Box $part): ?Swatch
    {
        $x = max(0, (int) floor($part->x * $this->scale));
        $y = max(0, (int) floor($part->y * $this->scale));
        $right = min($this->image->getImageWidth(), (int) ceil($part->right() * $this->scale));
        $bottom = min($this->image->getImageHeight(), (int) ceil($part->bottom() * $this->scale));
        if ($right <= $x || $bottom <= $y) {
            return null;
        }
        try {
            $piece = $this->image->getImageRegion($right - $x, $bottom - $y, $x, $y);
            $piece->setImagePage(0, 0, 0, 0);
            $piece->resizeImage(Swatch::SIDE, Swatch::SIDE, Imagick::FILTER_TRIANGLE, 1);
            /** @var list<int> $bytes */
            $bytes = $piece->exportImagePixels(0, 0, Swatch::SIDE, Swatch::SIDE, 'RGB', Imagick::PIXEL_CHAR);
            $piece->clear();

            return Swatch::of($bytes);
        } catch (ImagickException $e) {
            throw RefusedPicture::because($e->getMessage());
        }
    }

    /**
     * An object with some picture around it, in the middle of a square JPEG; what lies outside the picture is dark.
     *
     * @param  Box  $bounds  of the object, in px of the picture
     * @param  float  $around  picture on each side, as a share of the object's longer side
     * @param  int  $side  of the JPEG, in px
     *
     * @throws RefusedPicture
     */
    public function crop(Box $bounds, float $around, int $side): string
    {
        $shown = max(8.0, $bounds->width, $bounds->height) * (1 + 2 * $around);
        $size = max(1, (int) round($shown * $this->scale));
        $x = (int) round(($bounds->x + $bounds->width / 2 - $shown / 2) * $this->scale);
        $y = (int) round(($bounds->y + $bounds->height / 2 - $shown / 2) * $this->scale);
        try {
            $piece = clone $this->image;
            $piece->setImageBackgroundColor('#171b1a');
            $piece->extentImage($size, $size, $x, $y);
            $piece->resizeImage($side, $side, Imagick::FILTER_TRIANGLE, 1);
            $piece->stripImage();
            $piece->setImageFormat('jpeg');
            $piece->setImageCompressionQuality(82);

            return $piece->getImageBlob();
        } catch (ImagickException $e) {
            throw RefusedPicture::because($e->getMessage());
        }
    }

    public function whole(): Box
    {
        return Box::of(0, 0, $this->image->getImageWidth() / $this->scale, $this->image->getImageHeight() / $this->scale);
    }
}
