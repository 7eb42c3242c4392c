<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Cuboids;

use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/**
 * A cuboid as a line of a table has it: its centre and its sides in metres, length along its heading, and how it is turned as a unit quaternion.
 */
final class CuboidLine
{
    public const NUMBERS = ['x', 'y', 'z', 'length', 'width', 'height', 'qx', 'qy', 'qz', 'qw'];

    /** Degrees a cuboid may lean and still be taken as one that stands. */
    public const MOST_LEAN = 10.0;

    /** @return list<string> its numbers as they are written */
    public static function write(Cuboid $cuboid): array
    {
        $half = deg2rad($cuboid->heading) / 2;
        $sign = cos($half) < 0 ? -1.0 : 1.0;

        return [
            ...array_map(static fn (float $metres): string => self::number($metres, 4), [...$cuboid->center, ...$cuboid->size]),
            '0', '0', self::number($sign * sin($half), 8), self::number($sign * cos($half), 8),
        ];
    }

    /**
     * @param  array<string, string>  $cells  by column
     * @return array{Cuboid, float} the cuboid, and how many degrees it leans: it is held upright
     *
     * @throws InvalidValue
     */
    public static function read(array $cells): array
    {
        $numbers = [];
        foreach (self::NUMBERS as $name) {
            $text = trim($cells[$name] ?? '');
            $numbers[$name] = is_numeric($text) && is_finite((float) $text) ? (float) $text : throw InvalidValue::at($name, $text, 'a number');
        }
        ['qx' => $x, 'qy' => $y, 'qz' => $z, 'qw' => $w] = $numbers;
        $length = sqrt($x * $x + $y * $y + $z * $z + $w * $w);
        if ($length < 0.5 || $length > 2.0) {
            throw InvalidValue::at('qx, qy, qz, qw', "{$x}, {$y}, {$z}, {$w}", 'a unit quaternion');
        }
        [$x, $y, $z, $w] = [$x / $length, $y / $length, $z / $length, $w / $length];
        $lean = rad2deg(acos(max(-1.0, min(1.0, 1 - 2 * ($x * $x + $y * $y)))));
        if ($lean > self::MOST_LEAN) {
            throw InvalidValue::at('qx, qy', sprintf('leaning by %.1f°', $lean), 'a cuboid that stands, within '.(int) self::MOST_LEAN.'°');
        }
        $heading = rad2deg(atan2(2 * ($w * $z + $x * $y), 1 - 2 * ($y * $y + $z * $z)));

        return [Cuboid::of([$numbers['x'], $numbers['y'], $numbers['z']], [$numbers['length'], $numbers['width'], $numbers['height']], round($heading, 4)), $lean];
    }

    /** As it comes back from what is written of it. */
    public static function held(Cuboid $cuboid): Cuboid
    {
        return self::read(array_combine(self::NUMBERS, self::write($cuboid)))[0];
    }

    private static function number(float $value, int $digits): string
    {
        $text = rtrim(rtrim(sprintf("%.{$digits}F", $value), '0'), '.');

        return $text === '-0' || $text === '' ? '0' : $text;
    }
}
