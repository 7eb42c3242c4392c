<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\InvalidValue;

/** Which pictures are the pages of which document: those of one folder in the order of their names, or as a list says it. */
final class PageGroups
{
    /** A list of pages: CSV with the columns `document` and `file`, a line a page in order. Files are named from where the list lies. */
    public const LIST = 'pages.csv';

    private const MOST_LINES = 200_000;

    /**
     * @param  list<string>  $paths  of all files
     * @return array<string, non-empty-list<string>> by folder, pages in the order one counts: `2.png` before `10.png`. Pictures in no folder are no document
     */
    public static function byFolder(array $paths): array
    {
        $groups = [];
        foreach ($paths as $path) {
            if (PictureFormat::ofName($path) !== null && dirname($path) !== '.') {
                $groups[dirname($path)][] = $path;
            }
        }
        foreach ($groups as &$pages) {
            usort($pages, static fn (string $a, string $b): int => strnatcasecmp($a, $b) ?: strcmp($a, $b));
        }
        ksort($groups, SORT_STRING);

        return $groups;
    }

    /**
     * @param  string  $csv  the file of the list
     * @param  string  $folder  it lies in, by which its files are named; empty: at the top
     * @param  list<string>  $paths  of all files
     * @return array<string, non-empty-list<string>>
     *
     * @throws InvalidValue when it is no such list, or names what is not there
     */
    public static function byList(string $csv, string $folder, array $paths): array
    {
        $in = @fopen($csv, 'rb');
        if ($in === false) {
            throw InvalidValue::at(self::LIST, null, 'a file that can be read');
        }
        try {
            $names = array_map(static fn (?string $name): string => mb_strtolower(trim((string) $name, "\u{FEFF} ")), fgetcsv($in, 1 << 20, ',', '"', '') ?: []);
            [$document, $file] = [array_search('document', $names, true), array_search('file', $names, true)];
            if (! is_int($document) || ! is_int($file)) {
                throw InvalidValue::at(self::LIST, implode(',', $names), 'the columns document and file');
            }
            $there = array_fill_keys($paths, true);
            $prefix = $folder === '' || $folder === '.' ? '' : "{$folder}/";
            $groups = $taken = [];
            for ($line = 2; ($row = fgetcsv($in, 1 << 20, ',', '"', '')) !== false; $line++) {
                if ($row === [null]) {
                    continue;
                }
                $path = ZipSource::safePath($prefix.trim(($row[$file] ?? '')));
                $name = ZipSource::safePath($prefix.trim(($row[$document] ?? '')));
                if ($path === null || $name === null || $line > self::MOST_LINES) {
                    throw InvalidValue::at(self::LIST.", line {$line}", implode(',', $row), $line > self::MOST_LINES ? 'at most '.self::MOST_LINES.' lines' : 'a document and a file');
                }
                if (! isset($there[$path]) || isset($taken[$path])) {
                    throw InvalidValue::at(self::LIST.", line {$line}", $path, isset($taken[$path]) ? 'each file once' : 'a file that is there');
                }
                $taken[$path] = true;
                $groups[$name][] = $path;
            }

            return $groups;
        } finally {
            fclose($in);
        }
    }
}
