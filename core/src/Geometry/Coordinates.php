<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\InvalidValue;

/** Flat lists of coordinates x, y, x, y … in picture pixels: reading, extent, area. */
final class Coordinates
{
    /** Points one mark may have. An outline with more was not drawn by a hand; a mask says such a region better. */
    public const MOST = 10_000;

    /**
     * @return list<float>
     *
     * @throws InvalidValue when it is no list of finite numbers in pairs, or has too few or too many points
     */
    public static function check(mixed $list, string $path, int $least, int $most = self::MOST): array
    {
        if (! is_array($list) || ! array_is_list($list) || count($list) % 2 !== 0) {
            throw InvalidValue::at($path, $list, 'a flat list x, y, x, y …');
        }
        $points = intdiv(count($list), 2);
        if ($points < $least || $points > $most) {
            throw InvalidValue::at($path, $points === 1 ? '1 point' : "{$points} points", $least === $most ? "{$least} points" : "{$least} to {$most} points");
        }
        $numbers = [];
        foreach ($list as $i => $value) {
            $numbers[] = self::number($value, "{$path}[{$i}]");
        }

        return $numbers;
    }

    /** @throws InvalidValue */
    public static function number(mixed $value, string $path): float
    {
        if ((! is_int($value) && ! is_float($value)) || ! is_finite((float) $value) || abs($value) > Box::LIMIT) {
            throw InvalidValue::at($path, $value, 'a number of at most '.(int) Box::LIMIT);
        }

        return (float) $value;
    }

    /**
     * @param  list<float>  $points
     * @return list<array{float, float}> point by point
     */
    public static function pairs(array $points): array
    {
        $pairs = [];
        for ($i = 0; $i < count($points); $i += 2) {
            $pairs[] = [$points[$i], $points[$i + 1]];
        }

        return $pairs;
    }

    /** @param  list<float>  $points  at least one */
    public static function bounds(array $points): Box
    {
        $left = $right = $points[0] ?? 0.0;
        $top = $bottom = $points[1] ?? 0.0;
        foreach ($points as $i => $value) {
            if ($i % 2 === 0) {
                $left = min($left, $value);
                $right = max($right, $value);
            } else {
                $top = min($top, $value);
                $bottom = max($bottom, $value);
            }
        }

        return Box::fromCorners($left, $top, $right, $bottom);
    }

    /**
     * Signed area by the shoelace formula, px²: positive when the ring runs clockwise on the screen.
     *
     * @param  list<float>  $ring
     */
    public static function signedArea(array $ring): float
    {
        $sum = 0.0;
        $n = count($ring);
        for ($i = 0; $i < $n; $i += 2) {
            $j = $i + 2 < $n ? $i + 2 : 0;
            $sum += $ring[$i] * $ring[$j + 1] - $ring[$j] * $ring[$i + 1];
        }

        return $sum / 2;
    }

    /**
     * Four corners of a box turned about its centre, clockwise on the screen from what was top left.
     *
     * @param  float  $angle  degrees, clockwise on the screen
     * @return list<float>
     */
    public static function turnedCorners(float $cx, float $cy, float $width, float $height, float $angle): array
    {
        $cos = cos(deg2rad($angle));
        $sin = sin(deg2rad($angle));
        $corners = [];
        foreach ([[-1, -1], [1, -1], [1, 1], [-1, 1]] as [$h, $v]) {
            $x = $h * $width / 2;
            $y = $v * $height / 2;
            array_push($corners, $cx + $x * $cos - $y * $sin, $cy + $x * $sin + $y * $cos);
        }

        return $corners;
    }
}
