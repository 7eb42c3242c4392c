<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Imagick;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Raster\Mask;

/**
 * One object each, close up, with the truth of every pixel: apples and leaves among leaves, partly behind others, under the light of the
 * blocks. By these cut-out and patches are measured.
 */
final class Scenes
{
    /** Sides of a scene, px. */
    public const SIDE = 400;

    private readonly Sprites $sprites;

    public function __construct()
    {
        $this->sprites = new Sprites(new Chance('scene sprites'));
    }

    /** @return array{image: Imagick, box: Box, truth: Mask} */
    public function scene(Chance $chance): array
    {
        $block = $chance->one(Block::cases());
        $light = $block->light();
        $n = self::SIDE;
        $image = new Imagick;
        $image->newPseudoImage($n, $n, "gradient:{$light['top']}-{$light['bottom']}");
        $this->leaves($image, $chance, 60, 70, 150, $light['warm'], 4.0);
        $this->leaves($image, $chance, 36, 80, 150, $light['warm'], 0.6);
        $size = $chance->between(90, 250);
        [$x, $y] = [$chance->between(150, $n - 150), $chance->between(150, $n - 150)];
        $object = $chance->yes(0.75)
            ? $this->sprites->takeApple($chance->one(['green', 'turning', 'ripe']), $size, $chance->between(-24, 24))
            : $this->sprites->takeLeaf($size, $chance->between(0, 360), false, $chance->between(0.8, 1.2), $light['warm']);
        $shown = self::alpha($object, $x, $y);
        $shadow = $this->sprites->takeShadow($size * 0.46, $size * 0.44, 0);
        $image->compositeImage($shadow, Imagick::COMPOSITE_OVER, (int) ($x + 8 - $shadow->getImageWidth() / 2), (int) ($y + 14 - $shadow->getImageHeight() / 2));
        self::lay($image, $object, $x, $y);
        for ($i = $chance->int(0, 3); $i > 0; $i--) {
            // leaves in front hang over its rim
            $angle = $chance->between(0, 2 * M_PI);
            $leaf = $this->sprites->takeLeaf($size * $chance->between(0.4, 0.7), $chance->between(0, 360), false, $chance->between(0.85, 1.15), $light['warm']);
            [$u, $v] = [$x + cos($angle) * $size * 0.45, $y + sin($angle) * $size * 0.45];
            self::lay($image, $leaf, $u, $v);
            $shown = $shown->without(self::alpha($leaf, $u, $v));
        }
        $this->develop($image, $light, $chance);
        $bounds = $shown->bounds();
        // as roughly as a hand draws it
        $box = Box::of($bounds->x - $chance->between(1, 7), $bounds->y - $chance->between(1, 7), 0, 0);
        $box = Box::of($box->x, $box->y, $bounds->right() + $chance->between(1, 7) - $box->x, $bounds->bottom() + $chance->between(1, 7) - $box->y)->clippedTo($n, $n) ?? $bounds;

        return ['image' => $image, 'box' => $box, 'truth' => $shown];
    }

    private function leaves(Imagick $image, Chance $chance, int $count, float $small, float $large, float $warm, float $blur): void
    {
        $layer = new Imagick;
        $layer->newImage(self::SIDE, self::SIDE, 'transparent', 'png');
        for ($i = 0; $i < $count; $i++) {
            self::lay($layer, $this->sprites->takeLeaf($chance->between($small, $large), $chance->between(0, 360), false, $chance->between(0.65, 1.15), $warm), $chance->between(0, self::SIDE), $chance->between(0, self::SIDE));
        }
        $layer->blurImage(0, $blur);
        $image->compositeImage($layer, Imagick::COMPOSITE_OVER, 0, 0);
    }

    /** @param  array{top: string, bottom: string, brightness: float, saturation: float, warm: float, contrast: float}  $light */
    private function develop(Imagick $image, array $light, Chance $chance): void
    {
        $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
        $image->modulateImage($light['brightness'] * $chance->between(0.94, 1.05), $light['saturation'], 100);
        $image->sigmoidalContrastImage(true, $light['contrast'], 0.46 * Imagick::getQuantum());
        $image->blurImage(0, $chance->between(0.6, 1.3));
        // the grain of a small camera, from the seed so that a scene is the same wherever it is made
        $pixels = Colours::ofImage($image)->bytes;
        for ($i = 0, $end = strlen($pixels); $i < $end; $i += 3) {
            $by = (int) $chance->normal(4);
            for ($k = $i; $k < $i + 3; $k++) {
                $pixels[$k] = chr(max(0, min(255, ord($pixels[$k]) + $by)));
            }
        }
        $grained = Colours::of(self::SIDE, self::SIDE, $pixels)->image();
        $image->setImage($grained);
        $image->setImageFormat('png');
    }

    private static function lay(Imagick $image, Imagick $sprite, float $x, float $y): void
    {
        $image->compositeImage($sprite, Imagick::COMPOSITE_OVER, (int) ($x - $sprite->getImageWidth() / 2), (int) ($y - $sprite->getImageHeight() / 2));
    }

    /** The pixels a sprite covers by more than half when it is laid there. */
    private static function alpha(Imagick $sprite, float $x, float $y): Mask
    {
        [$width, $height] = [$sprite->getImageWidth(), $sprite->getImageHeight()];
        /** @var list<int> $alpha */
        $alpha = $sprite->exportImagePixels(0, 0, $width, $height, 'A', Imagick::PIXEL_CHAR);
        $columns = [];
        for ($i = 0; $i < $width; $i++) {
            $from = null;
            for ($j = 0; $j <= $height; $j++) {
                $on = $j < $height && $alpha[$j * $width + $i] > 127;
                if ($on && $from === null) {
                    $from = $j;
                } elseif (! $on && $from !== null) {
                    array_push($columns[$i], $from, $j);
                    $from = null;
                }
                $columns[$i] ??= [];
            }
        }
        $columns = array_filter($columns, static fn (array $runs): bool => $runs !== []);

        return Mask::ofColumns($width, $height, $columns)->moved((int) ($x - $width / 2), (int) ($y - $height / 2), self::SIDE, self::SIDE);
    }
}
