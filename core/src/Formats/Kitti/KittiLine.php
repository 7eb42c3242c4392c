<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Kitti;

use Skeno\Core\Cloud\Camera;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/**
 * A line of KITTI's labels: `type truncated occluded alpha left top right bottom height width length x y z rotation_y`, sides and place in metres in
 * the camera's axes, the place in the middle of its bottom, angles in radians. What the scanner and the camera think up to be need not be the same:
 * a cuboid is held upright as the camera has it.
 *
 * Source: the development kit of the KITTI object benchmark (2012).
 */
final class KittiLine
{
    /** Degrees by which a camera may lean against the cloud's up: more, and a cuboid would be another one. */
    public const MOST_LEAN = 10.0;

    /** What is nothing to learn from. */
    public const IGNORED = 'DontCare';

    /**
     * @param  array{Box, float}  $seen  the box of it on the picture, and the share of it that is outside
     * @return list<string> without its type
     */
    public static function write(Cuboid $cuboid, Camera $camera, array $seen, bool $hidden): array
    {
        [$box, $outside] = $seen;
        [$x, $y, $z] = $camera->seen($cuboid->center[0], $cuboid->center[1], $cuboid->center[2] - $cuboid->size[2] / 2);
        $front = $camera->seen($cuboid->center[0] + cos(deg2rad($cuboid->heading)), $cuboid->center[1] + sin(deg2rad($cuboid->heading)), $cuboid->center[2] - $cuboid->size[2] / 2);
        $turn = atan2(-($front[2] - $z), $front[0] - $x);
        $alpha = self::angle($turn - atan2($x, $z));
        $number = static fn (float $value, int $digits): string => sprintf("%.{$digits}F", $value === 0.0 ? 0.0 : $value);

        return [
            $number($outside, 2), $hidden ? '3' : '0', $number($alpha, 4),
            $number($box->x, 2), $number($box->y, 2), $number($box->x + $box->width, 2), $number($box->y + $box->height, 2),
            $number($cuboid->size[2], 4), $number($cuboid->size[1], 4), $number($cuboid->size[0], 4),
            $number($x, 4), $number($y, 4), $number($z, 4), $number(self::angle($turn), 6),
        ];
    }

    /**
     * @param  list<string>  $words  without its type
     *
     * @throws InvalidValue
     */
    public static function read(array $words, Camera $camera): Cuboid
    {
        if (count($words) < 14) {
            throw InvalidValue::at('line', implode(' ', $words), '15 values: type truncated occluded alpha left top right bottom height width length x y z rotation_y');
        }
        $numbers = [];
        foreach (['height', 'width', 'length', 'x', 'y', 'z', 'rotation_y'] as $i => $name) {
            $word = $words[7 + $i];
            $numbers[$name] = is_numeric($word) && is_finite((float) $word) ? (float) $word : throw InvalidValue::at($name, $word, 'a number');
        }
        ['height' => $height, 'width' => $width, 'length' => $length, 'x' => $x, 'y' => $y, 'z' => $z, 'rotation_y' => $turn] = $numbers;
        if ($height <= 0 || $width <= 0 || $length <= 0) {
            throw InvalidValue::at('height, width, length', "{$height}, {$width}, {$length}", 'sides of more than 0 m');
        }
        $bottom = $camera->placed($x, $y, $z);
        $front = $camera->placed($x + cos($turn), $y, $z - sin($turn));
        $heading = rad2deg(atan2($front[1] - $bottom[1], $front[0] - $bottom[0]));

        return Cuboid::of([round($bottom[0], 4), round($bottom[1], 4), round($bottom[2] + $height / 2, 4)], [$length, $width, $height], round($heading, 3));
    }

    /** By how much a camera leans against what is up in the cloud, in degrees. */
    public static function lean(Camera $camera): float
    {
        // up in the cloud is the third column; for the camera it is against its second axis
        return rad2deg(acos(max(-1.0, min(1.0, -$camera->toCamera[6]))));
    }

    /** From -pi to pi. */
    private static function angle(float $radians): float
    {
        return atan2(sin($radians), cos($radians));
    }
}
