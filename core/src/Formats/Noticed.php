<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** Label files lying beside pictures, told by what is in them: which formats there are, in how many files. */
final class Noticed
{
    private const HEAD = 1 << 20;

    /** @return list<array{format: Format, files: int}> the most files first */
    public static function in(Folder $folder): array
    {
        /** @var array<string, int> $counts */
        $counts = [];
        $texts = [];
        $kinds = $names = false;
        foreach ($folder->files() as $file) {
            $head = (string) @file_get_contents($folder->file($file), false, null, 0, self::HEAD);
            $ending = strtolower(pathinfo($file, PATHINFO_EXTENSION));
            $format = match ($ending) {
                'json' => self::json($head),
                'xml' => str_contains($head, '<annotation') && str_contains($head, '<object') ? Format::Voc : null,
                'csv' => self::table(basename($file), $head),
                default => null,
            };
            if ($format !== null) {
                $counts[$format->value] = ($counts[$format->value] ?? 0) + 1;
            } elseif ($ending === 'txt') {
                $columns = self::columns($head);
                if ($columns !== null) {
                    $texts[] = $columns;
                }
            }
            $names = $names || $ending === 'names' || strtolower(basename($file)) === 'classes.txt' || (in_array($ending, ['yaml', 'yml'], true) && preg_match('/^names\s*:/m', $head) === 1);
            $kinds = $kinds || (in_array($ending, ['yaml', 'yml'], true) && preg_match('/^kpt_shape\s*:/m', $head) === 1);
        }
        // numbers alone mean nothing: a list of classes must lie there too
        if ($texts !== [] && $names) {
            $counts[self::yolo($texts, $kinds)->value] = count($texts);
        }
        arsort($counts);

        return array_map(static fn (string $format, int $files): array => ['format' => Format::from($format), 'files' => $files], array_keys($counts), array_values($counts));
    }

    private static function json(string $head): ?Format
    {
        $has = static fn (string ...$keys): bool => array_filter($keys, static fn (string $key): bool => ! str_contains($head, "\"{$key}\"")) === [];

        return match (true) {
            preg_match('/^\W*"skeno"\s*:\s*"skeno\/1"/', $head) === 1 => Format::Skeno,
            $has('segments_info') => Format::CocoPanoptic,
            $has('images') && preg_match('/"(annotations|categories)"/', $head) === 1 => Format::Coco,
            default => null,
        };
    }

    private static function table(string $name, string $head): ?Format
    {
        $columns = array_map(static fn (?string $word): string => strtolower(trim((string) $word)), str_getcsv(strtok($head, "\r\n") ?: '', ',', '"', ''));
        $any = static fn (string ...$words): bool => array_intersect($words, $columns) !== [];

        return $name === 'marks.csv' || ($any('path', 'file', 'filename', 'image') && $any('class', 'label', 'name') && $any('x') && $any('width')) ? Format::Csv : null;
    }

    /** @return ?int numbers a line, 0 for an empty file, -1 where lines differ; null when it is no file of numbers */
    private static function columns(string $head): ?int
    {
        $columns = 0;
        $lines = preg_split('/\R/', $head) ?: [];
        // the last line may be cut off where reading stopped
        foreach (strlen($head) === self::HEAD ? array_slice($lines, 0, -1) : $lines as $line) {
            $line = trim($line);
            if ($line === '') {
                continue;
            }
            if (preg_match('/^\d+(\s+-?[\d.eE+-]+){4,}$/D', $line) !== 1) {
                return null;
            }
            $now = count(preg_split('/\s+/', $line) ?: []);
            $columns = $columns === 0 || $columns === $now ? $now : -1;
        }

        return $columns;
    }

    /** @param  non-empty-list<int>  $texts */
    private static function yolo(array $texts, bool $withNodes): Format
    {
        $said = array_values(array_unique(array_filter($texts, static fn (int $columns): bool => $columns !== 0)));

        return match (true) {
            $withNodes => Format::YoloPose,
            $said === [] || $said === [5] => Format::Yolo,
            // four corners are a turned box; outlines of exactly four points all through are rarer
            $said === [9] => Format::YoloTurned,
            default => Format::YoloSegments,
        };
    }
}
