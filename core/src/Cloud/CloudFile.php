<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Tells what kind of a cloud a file holds, by its bytes where they say so, else by its name. */
final class CloudFile
{
    /** Names that say it where the bytes do not. */
    private const NAMED = '/\.(pcd|ply|las|laz|xyz|bin)$/i';

    public static function isOne(string $head): bool
    {
        return Pcd::isOne($head) || Ply::isOne($head) || Las::isOne($head) || self::isTable($head);
    }

    public static function isNamed(string $name): bool
    {
        return preg_match(self::NAMED, $name) === 1;
    }

    /** How it is called in a row of facts. */
    public static function format(string $head, string $name): string
    {
        return match (true) {
            Pcd::isOne($head) => 'pcd',
            Ply::isOne($head) => 'ply',
            Las::isOne($head) => 'las',
            str_ends_with(strtolower($name), '.bin') => 'bin',
            default => 'xyz',
        };
    }

    /** @throws RefusedCloud */
    public static function open(string $file, string $name, CloudLimits $limits): Source
    {
        $head = (string) @file_get_contents($file, false, null, 0, 1024);

        return match (self::format($head, $name)) {
            'pcd' => Pcd::open($file, $limits),
            'ply' => Ply::open($file, $limits),
            'las' => Las::open($file, $limits),
            'bin' => KittiBin::open($file, $limits),
            // what calls itself otherwise than it is says what is wrong
            default => match (strtolower(pathinfo($name, PATHINFO_EXTENSION))) {
                'pcd' => Pcd::open($file, $limits),
                'ply' => throw RefusedCloud::because('it does not begin as a PLY file does'),
                'las', 'laz' => Las::open($file, $limits),
                default => Xyz::open($file, $limits),
            },
        };
    }

    /** Whether its first line names the columns x, y and z, and none of files or texts: a table of points, not about items. */
    private static function isTable(string $head): bool
    {
        $line = strtolower(trim(str_replace(['"', "\u{FEFF}"], '', explode("\n", $head, 2)[0]), "#/ \t\r"));
        $words = preg_split('/\s*[,;\t ]\s*/', $line) ?: [];

        return count(array_intersect(['x', 'y', 'z'], $words)) === 3 && array_intersect(['file', 'text', 'item'], $words) === [];
    }
}
