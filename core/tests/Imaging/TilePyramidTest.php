<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Imaging;

use Imagick;
use ImagickPixel;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\TilePyramid;
use Skeno\Core\InvalidValue;

final class TilePyramidTest extends TestCase
{
    public function test_a_small_picture_has_none_and_a_large_one_halves_down_to_the_screen(): void
    {
        self::assertNull(TilePyramid::of(4000, 3000));
        self::assertNull(TilePyramid::of(2048, 2048));
        $tiles = TilePyramid::of(12_001, 8_334);
        self::assertNotNull($tiles);
        self::assertSame([[12_001, 8_334], [6_001, 4_167], [3_001, 2_084]], $tiles->levels);
        self::assertSame([24, 17], [$tiles->columns(0), $tiles->rows(0)]);
        self::assertSame([6, 5], [$tiles->columns(2), $tiles->rows(2)]);
    }

    /** Tiles of a level cover it, each pixel once. */
    public function test_tiles_cover_their_level(): void
    {
        foreach ([[5_000, 4_000], [16_000, 1_001], [4_097, 4_097]] as [$width, $height]) {
            $tiles = TilePyramid::of($width, $height);
            self::assertNotNull($tiles);
            foreach ($tiles->levels as $level => [$w, $h]) {
                $area = 0;
                for ($row = 0; $row < $tiles->rows($level); $row++) {
                    for ($column = 0; $column < $tiles->columns($level); $column++) {
                        $tile = $tiles->tile($level, $column, $row);
                        self::assertSame([$column * 512, $row * 512], [$tile['x'], $tile['y']]);
                        self::assertGreaterThan(0, min($tile['width'], $tile['height']));
                        $area += $tile['width'] * $tile['height'];
                    }
                }
                self::assertSame($w * $h, $area);
                self::assertFalse($tiles->has($level, $tiles->columns($level), 0));
                self::assertFalse($tiles->has($level, 0, -1));
            }
        }
    }

    public function test_a_tile_that_is_not_there_is_refused_by_name(): void
    {
        $this->expectException(InvalidValue::class);
        TilePyramid::of(5_000, 4_000)?->tile(7, 0, 0);
    }

    /** The pixels of a tile are those of the picture, upright, at every level. */
    public function test_tiles_are_the_picture(): void
    {
        $folder = sys_get_temp_dir().'/skeno-tiles-'.bin2hex(random_bytes(4));
        mkdir($folder);
        // a quarter of each colour; stored lying on its side
        $image = new Imagick;
        $image->newImage(4_200, 4_000, new ImagickPixel('#202020'));
        foreach (['#c03020' => [0, 0], '#20a040' => [2_100, 0], '#2040c0' => [0, 2_000], '#d0c040' => [2_100, 2_000]] as $color => [$x, $y]) {
            $part = new Imagick;
            $part->newImage(2_100, 2_000, new ImagickPixel($color));
            $image->compositeImage($part, Imagick::COMPOSITE_OVER, $x, $y);
        }
        // (of the formats this library writes, TIFF says how it lies)
        $image->setImageFormat('tiff');
        $image->setImageOrientation(Imagick::ORIENTATION_RIGHTTOP);
        $image->writeImage("{$folder}/p.tif");
        // turned by a quarter: what was lower left comes to lie upper left
        $tiles = TilePyramid::of(4_000, 4_200);
        self::assertNotNull($tiles);
        Picture::tiles("{$folder}/p.tif", PictureFormat::Tiff, $tiles, $folder);
        self::assertCount(8 * 9 + 4 * 5, (array) glob("{$folder}/*.jpg"));
        $colour = static function (int $level, int $column, int $row) use ($folder): array {
            $tile = new Imagick("{$folder}/".TilePyramid::name($level, $column, $row));
            $pixel = $tile->getImagePixelColor(3, 3)->getColor();

            return [$tile->getImageWidth(), $tile->getImageHeight(), intdiv($pixel['r'] + 8, 16), intdiv($pixel['g'] + 8, 16), intdiv($pixel['b'] + 8, 16)];
        };
        self::assertSame([512, 512, 2, 4, 12], $colour(0, 0, 0));
        self::assertSame([4_000 - 7 * 512, 512, 12, 3, 2], $colour(0, 7, 0));
        self::assertSame([4_000 - 7 * 512, 4_200 - 8 * 512, 2, 10, 4], $colour(0, 7, 8));
        self::assertSame([512, 2_100 - 4 * 512, 13, 12, 4], $colour(1, 0, 4));
        array_map(unlink(...), (array) glob("{$folder}/*"));
        rmdir($folder);
    }
}
