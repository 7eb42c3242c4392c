<?php

declare(strict_types=1);

use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Raster\Components;
use Skeno\Core\Raster\Mask;

/** Scenes with their truth, and what a hand would correct on them. */
final class BenchScenes
{
    /**
     * @param  ?string  $folder  of scenes; null: twenty of our own generator, made now
     * @return iterable<string, array{scene: string, picture: Colours, box: Box, truth: Mask}>
     */
    public static function in(?string $folder, string $temporary): iterable
    {
        if ($folder === null) {
            $folder = "{$temporary}/scenes";
            exec(escapeshellarg(PHP_BINARY).' '.escapeshellarg(__DIR__.'/../demo/scenes').' '.escapeshellarg($folder).' 20', $_, $status);
            $status === 0 || throw new RuntimeException('the scenes could not be made');
        }
        $found = glob("{$folder}/*/scene.png") ?: throw new RuntimeException("no scene lies in {$folder}: <scene>/scene.png, box.json and truth.png are looked for");
        foreach ($found as $file) {
            $box = json_decode((string) file_get_contents(dirname($file).'/box.json'), true, flags: JSON_THROW_ON_ERROR);
            $picture = self::colours($file);
            yield basename(dirname($file)) => ['scene' => basename(dirname($file)), 'picture' => $picture, 'box' => Box::of($box['x'], $box['y'], $box['width'], $box['height']), 'truth' => self::mask(self::colours(dirname($file).'/truth.png'))];
        }
    }

    public static function colours(string $file): Colours
    {
        $image = new Imagick($file);
        $image->setImageAlphaChannel(Imagick::ALPHACHANNEL_REMOVE);
        $image->transformImageColorspace(Imagick::COLORSPACE_SRGB);

        return Colours::ofImage($image);
    }

    /** The light pixels. */
    public static function mask(Colours $of): Mask
    {
        $columns = [];
        for ($x = 0; $x < $of->width; $x++) {
            $from = null;
            for ($y = 0; $y <= $of->height; $y++) {
                $on = $y < $of->height && ord($of->bytes[3 * ($y * $of->width + $x)]) > 127;
                if ($on && $from === null) {
                    $from = $y;
                } elseif (! $on && $from !== null) {
                    $columns[$x][] = $from;
                    $columns[$x][] = $y;
                    $from = null;
                }
            }
        }

        return Mask::ofColumns($of->width, $of->height, $columns);
    }

    public static function write(Mask $mask, string $file): void
    {
        $bytes = str_repeat("\0", 3 * $mask->width * $mask->height);
        foreach ($mask->columns() as $x => $runs) {
            for ($i = 0; $i < count($runs); $i += 2) {
                for ($y = $runs[$i]; $y < $runs[$i + 1]; $y++) {
                    $at = 3 * ($y * $mask->width + $x);
                    $bytes[$at] = $bytes[$at + 1] = $bytes[$at + 2] = "\xFF";
                }
            }
        }
        is_dir(dirname($file)) || mkdir(dirname($file), 0o770, true);
        $image = Colours::of($mask->width, $mask->height, $bytes)->image();
        $image->setImageType(Imagick::IMGTYPE_GRAYSCALE);
        $image->writeImage("png:{$file}");
    }

    /**
     * Where a hand would click next: deep in the largest part that is missing or too much.
     *
     * @return ?array{adds: bool, x: float, y: float}
     */
    public static function click(Mask $found, Mask $truth): ?array
    {
        $largest = static fn (Mask $of): ?Mask => array_reduce(Components::of($of), static fn (?Mask $best, Mask $one): Mask => $best === null || $one->area() > $best->area() ? $one : $best);
        $missing = $largest($truth->without($found));
        $more = $largest($found->without($truth));
        $adds = ($missing?->area() ?? 0.0) >= ($more?->area() ?? 0.0);
        $part = $adds ? $missing : $more;
        if ($part === null) {
            return null;
        }
        $b = $part->bounds();
        [$w, $h] = [(int) $b->width + 2, (int) $b->height + 2];
        $deep = array_fill(0, $w * $h, 0);
        $best = [0, 0.0, 0.0];
        for ($y = 1; $y < $h - 1; $y++) {
            for ($x = 1; $x < $w - 1; $x++) {
                $at = $y * $w + $x;
                $deep[$at] = $part->has((int) $b->x + $x - 1, (int) $b->y + $y - 1) ? min($deep[$at - 1], $deep[$at - $w], $deep[$at - $w - 1], $deep[$at - $w + 1]) + 1 : 0;
            }
        }
        for ($y = $h - 2; $y > 0; $y--) {
            for ($x = $w - 2; $x > 0; $x--) {
                $at = $y * $w + $x;
                $deep[$at] = $deep[$at] === 0 ? 0 : min($deep[$at], $deep[$at + 1] + 1, $deep[$at + $w] + 1, $deep[$at + $w + 1] + 1, $deep[$at + $w - 1] + 1);
                if ($deep[$at] > $best[0]) {
                    $best = [$deep[$at], $b->x + $x - 0.5, $b->y + $y - 0.5];
                }
            }
        }

        return ['adds' => $adds, 'x' => $best[1], 'y' => $best[2]];
    }

    /** @param  list<float>  $of */
    public static function median(array $of): float
    {
        sort($of);
        $n = count($of);

        return $n === 0 ? 0.0 : ($of[intdiv($n - 1, 2)] + $of[intdiv($n, 2)]) / 2;
    }

    /**
     * What another library makes of the scenes, where Debian's package of it is installed: null where it is not.
     *
     * @param  list<string>  $arguments
     */
    public static function anchor(string $script, array $arguments): mixed
    {
        $out = shell_exec('/usr/bin/python3 '.implode(' ', array_map(escapeshellarg(...), [__DIR__."/anchors/{$script}", ...$arguments])).' 2>/dev/null');

        return is_string($out) ? json_decode($out, true) : null;
    }
}
