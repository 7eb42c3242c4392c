<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Which files are frames of which sequence: the scans of one folder, in the order of their names. */
final class FrameGroups
{
    public static function isNamed(string $path): bool
    {
        return CloudFile::isNamed($path);
    }

    /**
     * @param  list<string>  $paths  of all files
     * @return array<string, non-empty-list<string>> by folder, frames in the order one counts: `2.pcd` before `10.pcd`. Files in no folder are no sequence
     */
    public static function byFolder(array $paths): array
    {
        $groups = [];
        foreach ($paths as $path) {
            if (self::isNamed($path) && dirname($path) !== '.') {
                $groups[dirname($path)][] = $path;
            }
        }
        foreach ($groups as &$frames) {
            usort($frames, static fn (string $a, string $b): int => strnatcasecmp($a, $b) ?: strcmp($a, $b));
        }
        ksort($groups, SORT_STRING);

        return $groups;
    }
}
