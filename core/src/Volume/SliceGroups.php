<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/** Which files are slices of which series, by their names and the folders they lie in. */
final class SliceGroups
{
    /** Whether a file may be a slice by its name: archives often leave the ending out, or name files by numbers with points. */
    public static function mayBe(string $path): bool
    {
        return self::isNamed($path) || preg_match('#(^|/)[^./]+$|\.\d+$#', $path) === 1;
    }

    /** Whether its name says so. */
    public static function isNamed(string $path): bool
    {
        return preg_match('/\.(dcm|dicom|ima)$/i', $path) === 1;
    }

    /**
     * @param  list<string>  $paths
     * @return array<string, non-empty-list<string>> those that may be slices, by folder ("." at the top), in the order of their names
     */
    public static function byFolder(array $paths): array
    {
        $groups = [];
        foreach ($paths as $path) {
            if (self::mayBe($path)) {
                $groups[dirname($path)][] = $path;
            }
        }
        foreach ($groups as &$slices) {
            sort($slices, SORT_STRING);
        }
        ksort($groups, SORT_STRING);

        return $groups;
    }
}
