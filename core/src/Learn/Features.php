<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Imagick;
use ImagickException;
use Skeno\Core\Imaging\Colours;

/**
 * What can be said of each pixel by what lies round it, at several scales: brightness and two opponent colours blurred by Gaussians, what
 * stands out from its surroundings (differences of two of them), edges, and how rough it is. 8 bits each.
 */
final class Features
{
    /** px, standard deviations of the Gaussians. */
    private const SCALES = [0.8, 2.0, 4.5, 10.0];

    /** Three channels a scale, their differences from the next one, edges at all but the largest, roughness, darkest and lightest near by. */
    public const COUNT = 12 + 9 + 3 + 1;

    /**
     * @return list<string> COUNT features, each a byte a pixel, row by row
     *
     * @throws ImagickException
     */
    public static function of(Colours $picture): array
    {
        $width = $picture->width;
        $height = $picture->height;
        $image = Colours::of($width, $height, self::opponent($picture->bytes))->image();
        $channels = [];
        foreach (self::SCALES as $scale) {
            $channels[] = self::parted(Colours::ofImage(self::blurred($image, $scale))->bytes);
        }
        $features = array_merge(...$channels);
        for ($k = 0; $k + 1 < count(self::SCALES); $k++) {
            foreach ($channels[$k] as $c => $channel) {
                $features[] = self::difference($channel, $channels[$k + 1][$c]);
            }
        }
        $edges = [];
        for ($k = 0; $k + 1 < count(self::SCALES); $k++) {
            $edges[] = self::edges($channels[$k][0], $width, $height);
        }

        return [...$features, ...$edges, self::ofPlane(self::blurred(self::plane($edges[0], $width, $height), self::SCALES[2]))];
    }

    /**
     * The same blurred by a Gaussian; by a large one in a smaller size, where it takes less time.
     *
     * @param  float  $scale  standard deviation in px
     *
     * @throws ImagickException
     */
    public static function blurred(Imagick $image, float $scale): Imagick
    {
        [$width, $height] = [$image->getImageWidth(), $image->getImageHeight()];
        $by = 1;
        while ($scale / $by >= 3 && min($width, $height) / $by >= 16) {
            $by *= 2;
        }
        $blurred = clone $image;
        if ($by > 1) {
            $blurred->scaleImage(intdiv($width, $by), intdiv($height, $by));
        }
        $blurred->blurImage(0, $scale / $by);
        if ($by > 1) {
            $blurred->resizeImage($width, $height, Imagick::FILTER_TRIANGLE, 1);
        }

        return $blurred;
    }

    /** Of each pixel three bytes: brightness, red against green, blue against yellow. */
    private static function opponent(string $bytes): string
    {
        $out = '';
        for ($i = 0, $n = strlen($bytes); $i < $n; $i += 3) {
            $r = ord($bytes[$i]);
            $g = ord($bytes[$i + 1]);
            $b = ord($bytes[$i + 2]);
            $out .= chr(intdiv($r + $g + $b, 3)).chr(128 + (($r - $g) >> 1)).chr(128 + ((2 * $b - $r - $g) >> 2));
        }

        return $out;
    }

    /** @return list<string> the three channels, each for itself */
    private static function parted(string $bytes): array
    {
        $a = $b = $c = '';
        for ($i = 0, $n = strlen($bytes); $i < $n; $i += 3) {
            $a .= $bytes[$i];
            $b .= $bytes[$i + 1];
            $c .= $bytes[$i + 2];
        }

        return [$a, $b, $c];
    }

    /** Four times what one has more than the other, about 128. */
    private static function difference(string $a, string $b): string
    {
        $by = [];
        for ($d = -255; $d <= 255; $d++) {
            $by[$d] = chr(max(0, min(255, 128 + 4 * $d)));
        }
        $out = '';
        for ($i = 0, $n = strlen($a); $i < $n; $i++) {
            $out .= $by[ord($a[$i]) - ord($b[$i])];
        }

        return $out;
    }

    private static function edges(string $light, int $width, int $height): string
    {
        $out = '';
        for ($y = 0; $y < $height; $y++) {
            $row = substr($light, $y * $width, $width);
            $above = $y > 0 ? substr($light, ($y - 1) * $width, $width) : $row;
            $below = $y + 1 < $height ? substr($light, ($y + 1) * $width, $width) : $row;
            $here = $left = ord($row[0]);
            for ($x = 0; $x < $width; $x++) {
                $right = $x + 1 < $width ? ord($row[$x + 1]) : $here;
                $dx = $right - $left;
                $dy = ord($below[$x]) - ord($above[$x]);
                $strength = 2 * (($dx < 0 ? -$dx : $dx) + ($dy < 0 ? -$dy : $dy));
                $out .= chr($strength > 255 ? 255 : $strength);
                $left = $here;
                $here = $right;
            }
        }

        return $out;
    }

    /** @throws ImagickException */
    public static function plane(string $bytes, int $width, int $height): Imagick
    {
        $image = new Imagick;
        $image->setSize($width, $height);
        $image->setFormat('gray');
        $image->setOption('depth', '8');
        $image->readImageBlob($bytes);

        return $image;
    }

    /** @throws ImagickException */
    public static function ofPlane(Imagick $image): string
    {
        $image->setImageDepth(8);
        $image->setImageFormat('gray');

        return $image->getImageBlob();
    }
}
