<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cutout;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;

/** Pictures with grain whose every pixel is known. */
final class Scene
{
    /**
     * @param  callable(float, float): ?array{int, int, int}  $object  colour of a pixel of the object, null where the ground is
     * @param  array{int, int, int}  $ground
     */
    public static function of(int $width, int $height, callable $object, array $ground = [60, 110, 50], int $grain = 8, int $seed = 1): Colours
    {
        $dice = new Randomizer(new Mt19937($seed));
        $bytes = '';
        for ($y = 0; $y < $height; $y++) {
            for ($x = 0; $x < $width; $x++) {
                foreach ($object($x + 0.5, $y + 0.5) ?? $ground as $level) {
                    $bytes .= chr(max(0, min(255, $level + $dice->getInt(-$grain, $grain))));
                }
            }
        }

        return Colours::of($width, $height, $bytes);
    }

    /** @param  array{int, int, int}  $colour */
    public static function disc(float $cx, float $cy, float $r, array $colour = [190, 40, 40]): callable
    {
        return static fn (float $x, float $y): ?array => ($x - $cx) ** 2 + ($y - $cy) ** 2 <= $r * $r ? $colour : null;
    }

    /** The pixels of a disc. */
    public static function truth(int $width, int $height, float $cx, float $cy, float $r): Mask
    {
        $ring = [];
        for ($i = 0; $i < 180; $i++) {
            array_push($ring, $cx + $r * cos($i * M_PI / 90), $cy + $r * sin($i * M_PI / 90));
        }

        return ScanConversion::mask([$ring], $width, $height);
    }
}
