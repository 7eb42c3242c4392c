<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Imagick;
use ImagickException;

/**
 * A picture file that has been read whole once, so that it is known to decode. Width and height are those after it is turned
 * upright by its EXIF orientation; marks are in these pixels.
 */
final readonly class Picture
{
    private function __construct(
        public string $file,
        public PictureFormat $format,
        public int $width,
        public int $height,
        public int $orientation,
        public int $depth,
        public string $colorSpace,
        public int $bytes,
    ) {
    }

    /**
     * @param  string  $name  as the person knows it, to tell a disguised file
     *
     * @throws RefusedPicture
     */
    public static function open(string $file, string $name, PictureLimits $limits): self
    {
        $bytes = @filesize($file);
        if ($bytes === false) {
            throw RefusedPicture::because('the file can\'t be read');
        }
        if ($bytes === 0) {
            throw RefusedPicture::because('the file is empty');
        }
        if ($bytes > $limits->maxBytes) {
            throw RefusedPicture::because(sprintf('the file has %s MB; at most %s MB are taken', round($bytes / 1e6, 1), round($limits->maxBytes / 1e6, 1)));
        }
        $format = PictureFormat::sniff((string) file_get_contents($file, false, null, 0, 16));
        $claimed = PictureFormat::ofName($name);
        if ($format === null) {
            throw RefusedPicture::because($claimed === null ? 'this is not a picture of a kind we take' : "the name says {$claimed->value}, but this is not a picture");
        }
        if ($claimed !== null && $claimed !== $format) {
            throw RefusedPicture::because("the name says {$claimed->value}, but the file is {$format->value}");
        }
        try {
            // the header first, by a reader that allocates nothing: a few bytes may claim a billion pixels
            $header = @getimagesize($file);
            if ($header === false) {
                throw RefusedPicture::because("the {$format->value} file is damaged: its header can't be read");
            }
            [$width, $height] = $header;
            if ($width < 1 || $height < 1 || $width * $height > $limits->maxPixels || max($width, $height) > 16_000) {
                throw RefusedPicture::because("the picture has {$width} × {$height} pixels; at most ".round($limits->maxPixels / 1e6).' million and 16000 a side are taken');
            }
            if ($format === PictureFormat::Jpeg && ! self::jpegEnds($file)) {
                throw RefusedPicture::because('the jpeg file is damaged: it is cut off');
            }
            // the whole file is decoded once: a cut-off or damaged one is refused now, not under a labeller's hand
            $image = new Imagick;
            $image->readImage(self::source($file, $format));
            $orientation = $image->getImageOrientation();
            $turned = in_array($orientation, [Imagick::ORIENTATION_LEFTTOP, Imagick::ORIENTATION_RIGHTTOP, Imagick::ORIENTATION_RIGHTBOTTOM, Imagick::ORIENTATION_LEFTBOTTOM], true);
            $picture = new self(
                $file,
                $format,
                $turned ? $height : $width,
                $turned ? $width : $height,
                max(1, $orientation),
                $image->getImageDepth(),
                self::spaceName($image->getImageColorspace()),
                $bytes,
            );
            $image->clear();

            return $picture;
        } catch (ImagickException $e) {
            throw RefusedPicture::because("the {$format->value} file is damaged: ".self::plain($e->getMessage()));
        }
    }

    /**
     * Writes a copy for the screen, upright, in 8-bit sRGB, no side longer than $side px and never larger than the picture.
     *
     * @param  string  $target  a file name ending in .jpg or .png
     * @param  int  $frame  of a file with several, from 0
     *
     * @throws RefusedPicture
     */
    public static function derive(string $file, PictureFormat $format, string $target, int $side, int $quality = 85, int $frame = 0): void
    {
        try {
            $image = new Imagick;
            $header = @getimagesize($file);
            if ($format === PictureFormat::Jpeg && $header !== false && max($header[0], $header[1]) >= 2 * $side) {
                // the decoder may shrink while it reads (4000x3000 in a third of the time); given a larger size it would grow
                $image->setOption('jpeg:size', "{$side}x{$side}");
            }
            $image->readImage(self::source($file, $format, $frame));
            $image->setIteratorIndex(0);
            $image = $image->getImage();
            if (! in_array($image->getImageColorspace(), [Imagick::COLORSPACE_SRGB, Imagick::COLORSPACE_GRAY], true)) {
                $image->transformImageColorspace(Imagick::COLORSPACE_SRGB);
            }
            if (str_ends_with($target, '.jpg') && $image->getImageAlphaChannel()) {
                $image->setImageBackgroundColor('#ffffff');
                $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
            }
            $image->autoOrient();
            if (max($image->getImageWidth(), $image->getImageHeight()) > $side) {
                $image->resizeImage($side, $side, Imagick::FILTER_TRIANGLE, 1, true);
            }
            $image->setImageDepth(8);
            $image->stripImage();
            $image->setImageFormat(str_ends_with($target, '.png') ? 'png' : 'jpeg');
            $image->setImageCompressionQuality($quality);
            if (! $image->writeImage($target)) {
                throw RefusedPicture::because('the copy for the screen could not be written');
            }
            $image->clear();
        } catch (ImagickException $e) {
            throw RefusedPicture::because(self::plain($e->getMessage()));
        }
    }

    /**
     * Writes the tiles of a picture, upright, in 8-bit sRGB. It is decoded once; memory beyond the library's limit is a file of its own.
     *
     * @param  string  $folder  there already
     *
     * @throws RefusedPicture
     */
    public static function tiles(string $file, PictureFormat $format, TilePyramid $tiles, string $folder): void
    {
        try {
            $image = new Imagick(self::source($file, $format));
            if (! in_array($image->getImageColorspace(), [Imagick::COLORSPACE_SRGB, Imagick::COLORSPACE_GRAY], true)) {
                $image->transformImageColorspace(Imagick::COLORSPACE_SRGB);
            }
            if ($image->getImageAlphaChannel()) {
                $image->setImageBackgroundColor('#ffffff');
                $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
            }
            $image->autoOrient();
            $image->setImageDepth(8);
            $image->stripImage();
            foreach ($tiles->levels as $level => [$width, $height]) {
                if ($image->getImageWidth() !== $width || $image->getImageHeight() !== $height) {
                    $image->resizeImage($width, $height, Imagick::FILTER_BOX, 1);
                }
                for ($row = 0; $row < $tiles->rows($level); $row++) {
                    for ($column = 0; $column < $tiles->columns($level); $column++) {
                        $place = $tiles->tile($level, $column, $row);
                        $tile = $image->getImageRegion($place['width'], $place['height'], $place['x'], $place['y']);
                        $tile->setImagePage(0, 0, 0, 0);
                        $tile->setImageFormat('jpeg');
                        $tile->setImageCompressionQuality(90);
                        if (! $tile->writeImage("{$folder}/".TilePyramid::name($level, $column, $row))) {
                            throw RefusedPicture::because('a tile could not be written');
                        }
                        $tile->clear();
                    }
                }
            }
            $image->clear();
        } catch (ImagickException $e) {
            throw RefusedPicture::because(self::plain($e->getMessage()));
        }
    }

    /**
     * Brightness of a part of the upright picture, 8 bits a pixel.
     *
     * @param  int  $x  left edge of the part, inside the picture; the part is cut at the picture's edges
     *
     * @throws RefusedPicture
     */
    public static function brightness(string $file, PictureFormat $format, int $x, int $y, int $width, int $height): Plane
    {
        try {
            $image = new Imagick(self::source($file, $format));
            $image->autoOrient();
            $width = max(1, min($width, $image->getImageWidth() - $x));
            $height = max(1, min($height, $image->getImageHeight() - $y));
            $image->cropImage($width, $height, $x, $y);
            $image->setImagePage(0, 0, 0, 0);
            $image->transformImageColorspace(Imagick::COLORSPACE_GRAY);
            $image->setImageDepth(8);
            $image->setImageFormat('gray');

            return Plane::of($width, $height, $image->getImageBlob());
        } catch (ImagickException $e) {
            throw RefusedPicture::because(self::plain($e->getMessage()));
        }
    }

    /**
     * A part of the upright picture in colour, 8-bit sRGB.
     *
     * @param  int  $x  left edge of the part, inside the picture; the part is cut at the picture's edges
     * @param  int  $columns  px across what is returned, $rows down
     *
     * @throws RefusedPicture
     */
    public static function colours(string $file, PictureFormat $format, int $x, int $y, int $width, int $height, int $columns, int $rows): Colours
    {
        try {
            $image = new Imagick(self::source($file, $format));
            if (! in_array($image->getImageColorspace(), [Imagick::COLORSPACE_SRGB, Imagick::COLORSPACE_GRAY], true)) {
                $image->transformImageColorspace(Imagick::COLORSPACE_SRGB);
            }
            if ($image->getImageAlphaChannel()) {
                $image->setImageBackgroundColor('#ffffff');
                $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
            }
            $image->autoOrient();
            $image->cropImage(max(1, min($width, $image->getImageWidth() - $x)), max(1, min($height, $image->getImageHeight() - $y)), $x, $y);
            $image->setImagePage(0, 0, 0, 0);
            if ($image->getImageWidth() !== $columns || $image->getImageHeight() !== $rows) {
                $image->resizeImage($columns, $rows, Imagick::FILTER_BOX, 1);
            }

            return Colours::ofImage($image);
        } catch (ImagickException $e) {
            throw RefusedPicture::because(self::plain($e->getMessage()));
        }
    }

    /**
     * The same, put together from tiles of a level of a large picture.
     *
     * @param  string  $folder  of the tiles
     *
     * @throws RefusedPicture
     */
    public static function coloursOfTiles(TilePyramid $tiles, string $folder, int $x, int $y, int $width, int $height, int $columns, int $rows): Colours
    {
        $level = $tiles->levelFor($width / $columns);
        [$fx, $fy] = [$tiles->levels[$level][0] / $tiles->levels[0][0], $tiles->levels[$level][1] / $tiles->levels[0][1]];
        [$left, $top] = [(int) floor($x * $fx), (int) floor($y * $fy)];
        [$right, $bottom] = [min($tiles->levels[$level][0], max($left + 1, (int) ceil(($x + $width) * $fx))), min($tiles->levels[$level][1], max($top + 1, (int) ceil(($y + $height) * $fy)))];
        try {
            $image = new Imagick;
            $image->newImage($right - $left, $bottom - $top, 'black');
            $image->setImageColorspace(Imagick::COLORSPACE_SRGB);
            for ($row = intdiv($top, TilePyramid::SIDE); $row <= intdiv($bottom - 1, TilePyramid::SIDE); $row++) {
                for ($column = intdiv($left, TilePyramid::SIDE); $column <= intdiv($right - 1, TilePyramid::SIDE); $column++) {
                    $tile = new Imagick('jpeg:'.$folder.'/'.TilePyramid::name($level, $column, $row));
                    $image->compositeImage($tile, Imagick::COMPOSITE_COPY, $column * TilePyramid::SIDE - $left, $row * TilePyramid::SIDE - $top);
                    $tile->clear();
                }
            }
            if ($image->getImageWidth() !== $columns || $image->getImageHeight() !== $rows) {
                $image->resizeImage($columns, $rows, Imagick::FILTER_BOX, 1);
            }

            return Colours::ofImage($image);
        } catch (ImagickException $e) {
            throw RefusedPicture::because(self::plain($e->getMessage()));
        }
    }

    /** The decoder fills a cut-off JPEG with gray and says nothing: the end marker must come after the last scan has begun. */
    private static function jpegEnds(string $file): bool
    {
        $bytes = (string) file_get_contents($file);

        return (int) strrpos($bytes, "\xFF\xD9") > (int) strrpos($bytes, "\xFF\xDA");
    }

    /** Names the decoder, so that no file can choose one by its name or contents, and takes one frame only. */
    private static function source(string $file, PictureFormat $format, int $frame = 0): string
    {
        return "{$format->value}:{$file}[{$frame}]";
    }

    private static function spaceName(int $space): string
    {
        return match ($space) {
            Imagick::COLORSPACE_GRAY => 'gray',
            Imagick::COLORSPACE_CMYK => 'cmyk',
            Imagick::COLORSPACE_YCBCR => 'ycbcr',
            default => 'rgb',
        };
    }

    /** The library's message without paths and source lines. */
    private static function plain(string $message): string
    {
        return trim((string) preg_replace(['/`[^\']*\'/', '/ @ .*$/', '/\s+/'], ['', '', ' '], $message));
    }
}
