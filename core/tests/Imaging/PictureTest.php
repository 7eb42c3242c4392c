<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Imaging;

use Imagick;
use ImagickDraw;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Imaging\RefusedPicture;
use Skeno\Core\Tests\Samples;

final class PictureTest extends TestCase
{
    /** A 40×20 picture whose left half is red and right half blue. */
    private static function draw(string $name, ?\Closure $change = null): string
    {
        $image = new Imagick;
        $image->newImage(40, 20, 'rgb(200,0,0)');
        $draw = new ImagickDraw;
        $draw->setFillColor('rgb(0,0,200)');
        $draw->rectangle(20, 0, 39, 19);
        $image->drawImage($draw);
        $image->setImageFormat(strtolower(pathinfo($name, PATHINFO_EXTENSION)));
        if ($change !== null) {
            $change($image);
        }
        $file = Samples::temporaryFolder()."/{$name}";
        $image->writeImages($file, true);

        return $file;
    }

    /** @return iterable<string, array{string, ?\Closure(Imagick): mixed}> */
    public static function kinds(): iterable
    {
        yield 'jpeg' => ['a.jpg', null];
        yield 'cmyk jpeg' => ['a.jpg', static fn (Imagick $image) => $image->transformImageColorspace(Imagick::COLORSPACE_CMYK)];
        yield 'gray jpeg' => ['a.jpg', static fn (Imagick $image) => $image->transformImageColorspace(Imagick::COLORSPACE_GRAY)];
        yield '8-bit png' => ['a.png', null];
        yield '16-bit png' => ['a.png', static fn (Imagick $image) => $image->setImageDepth(16)];
        yield 'palette png' => ['a.png', static fn (Imagick $image) => $image->quantizeImage(4, Imagick::COLORSPACE_SRGB, 0, false, false)];
        yield 'webp' => ['a.webp', null];
        yield 'bmp' => ['a.bmp', null];
        yield 'tiff' => ['a.tiff', static fn (Imagick $image) => $image->setImageDepth(16)];
        yield 'gif' => ['a.gif', null];
    }

    #[DataProvider('kinds')]
    public function test_every_kind_opens_and_gets_a_copy_for_the_screen(string $name, ?\Closure $change): void
    {
        $file = self::draw($name, $change);
        $picture = Picture::open($file, $name, new PictureLimits);
        self::assertSame([40, 20], [$picture->width, $picture->height]);
        $target = dirname($file).'/screen.jpg';
        Picture::derive($file, $picture->format, $target, 20);
        $copy = new Imagick($target);
        self::assertSame([20, 10], [$copy->getImageWidth(), $copy->getImageHeight()]);
        self::assertSame($copy->getImageColorspace() === Imagick::COLORSPACE_SRGB || $copy->getImageColorspace() === Imagick::COLORSPACE_GRAY, true);
        if (! str_contains((string) $this->dataName(), 'gray')) {
            $left = $copy->getImagePixelColor(4, 5)->getColor();
            self::assertGreaterThan($left['b'] + 60, $left['r'], 'the left half is still red, not inverted');
        }
    }

    /** All eight EXIF orientations: where the red half stands after the picture is turned upright, worked out by hand. */
    public function test_orientation_is_applied(): void
    {
        $red = [1 => 'left', 2 => 'right', 3 => 'right', 4 => 'left', 5 => 'top', 6 => 'top', 7 => 'bottom', 8 => 'bottom'];
        foreach ($red as $orientation => $where) {
            $file = self::draw('o.jpg', static function (Imagick $image) use ($orientation): void {
                $image->setImageOrientation($orientation);
                $image->profileImage('exif', self::exif($orientation));
            });
            $picture = Picture::open($file, 'o.jpg', new PictureLimits);
            self::assertSame($orientation, $picture->orientation);
            self::assertSame($orientation > 4 ? [20, 40] : [40, 20], [$picture->width, $picture->height]);
            Picture::derive($file, $picture->format, dirname($file).'/s.png', 100);
            $copy = new Imagick(dirname($file).'/s.png');
            [$x, $y] = ['left' => [3, 12], 'right' => [36, 12], 'top' => [12, 3], 'bottom' => [12, 36]][$where];
            $colour = $copy->getImagePixelColor($x, $y)->getColor();
            self::assertGreaterThan($colour['b'], $colour['r'], "orientation {$orientation}");
        }
    }

    private static function exif(int $orientation): string
    {
        return "Exif\0\0II*\0".pack('V', 8).pack('v', 1).pack('vvVvv', 0x0112, 3, 1, $orientation, 0).pack('V', 0);
    }

    public function test_only_the_first_frame_of_a_gif(): void
    {
        $file = self::draw('a.gif', static function (Imagick $image): void {
            $image->newImage(10, 10, 'green');
        });
        self::assertSame(40, Picture::open($file, 'a.gif', new PictureLimits)->width);
    }

    /** @return iterable<string, array{\Closure(): array{string, string}, string}> file and name, words of the reason */
    public static function refused(): iterable
    {
        $file = static function (string $name, string $bytes): array {
            $file = Samples::temporaryFolder().'/f';
            file_put_contents($file, $bytes);

            return [$file, $name];
        };
        yield 'empty' => [static fn () => $file('a.jpg', ''), 'empty'];
        yield 'text with a picture\'s name' => [static fn () => $file('a.jpg', str_repeat('hello ', 50)), 'name says jpeg, but this is not a picture'];
        yield 'a script in disguise' => [static fn () => $file('a.png', '<?php echo 1;'), 'not a picture'];
        yield 'svg' => [static fn () => $file('a.svg', '<svg xmlns="http://www.w3.org/2000/svg"/>'), 'not a picture of a kind we take'];
        yield 'png named jpg' => [static fn () => $file('a.jpg', (string) file_get_contents(self::draw('x.png'))), 'name says jpeg, but the file is png'];
        yield 'cut-off png' => [static fn () => $file('a.png', substr((string) file_get_contents(self::draw('x.png')), 0, 90)), 'damaged'];
        yield 'cut-off jpeg' => [static fn () => $file('a.jpg', substr((string) file_get_contents(self::draw('x.jpg')), 0, -20)), 'damaged'];
        yield 'cut-off tiff' => [static fn () => $file('a.tiff', substr((string) file_get_contents(self::draw('x.tiff')), 0, 200)), 'damaged'];
        yield 'too many pixels' => [static function () use ($file): array {
            // a PNG header of 30000 × 30000 one-bit pixels, no more
            $ihdr = 'IHDR'.pack('NN', 30_000, 30_000)."\x01\0\0\0\0";

            return $file('a.png', "\x89PNG\r\n\x1A\n".pack('N', 13).$ihdr.pack('N', crc32($ihdr)).pack('N', 0).'IDAT'.pack('N', crc32('IDAT')));
        }, 'pixels'];
        yield 'too many bytes' => [static fn () => $file('a.jpg', "\xFF\xD8\xFF".str_repeat("\0", 200_000)), 'MB are taken'];
    }

    /** @param  \Closure(): array{string, string}  $make */
    #[DataProvider('refused')]
    public function test_bad_files_are_refused_with_the_reason(\Closure $make, string $words): void
    {
        [$file, $name] = $make();
        $this->expectException(RefusedPicture::class);
        $this->expectExceptionMessage($words);
        Picture::open($file, $name, new PictureLimits(maxBytes: 100_000, maxPixels: 50_000_000));
    }

    public function test_formats_are_told_by_bytes(): void
    {
        self::assertSame(PictureFormat::Jpeg, PictureFormat::sniff("\xFF\xD8\xFF\xE0"));
        self::assertNull(PictureFormat::sniff('%PDF-1.7'));
        self::assertNull(PictureFormat::sniff(''));
    }
}
