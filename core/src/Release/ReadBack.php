<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\TurnedBox;

/**
 * Reads what was written with the format's own reader and compares it with what should be there: every mark with its class and
 * numbers, every picture without objects. A format's rounding is allowed for, and itself held against its tolerance. Keeps
 * one number a picture, so that memory stays small for millions of marks.
 */
final class ReadBack
{
    private const MOST_DIFFERENCES = 20;

    private const BITS = (1 << 62) - 1;

    /**
     * @param  ?Census  $census  filled on the way, so that the dataset is not read once more for it
     * @return array{marks: int, items: int, differences: list<string>} what was compared, and what differs (none: all is well)
     */
    public static function compare(Dataset $dataset, Format $format, DatasetWriter $writer, Folder $folder, ?Census $census = null): array
    {
        $known = $digests = $paths = $differences = [];
        $marks = 0;
        foreach ($dataset->items() as $item) {
            $known[] = new KnownPicture(count($known), $item->path, $item->width, $item->height);
            $paths[] = $item->path;
            $census?->add($item);
            $digest = 0;
            foreach ($writer->hold($item) as $held) {
                $marks++;
                $digest = self::add($digest, $held->mark->class, $held->geometry);
                $true = $held->mark->geometry;
                $off = $held->converted ? 0.0 : self::deviation($true, $held->geometry);
                // a shape past the edge may have been cut at it, which the format's report says
                if ($off > $writer->tolerance($item) && $true->bounds()->overhang($item->width, $item->height) <= 0.0) {
                    $differences[] = sprintf('%s: mark %s is off by %.4f px', $item->path, $held->mark->id, $off);
                }
            }
            // a picture nobody labelled must be absent or said to be so; one with nothing there must be present
            $digests[] = $item->labelled === Labelled::Unlabelled ? -1 : $digest;
        }
        $n = 0;
        $reader = $format->reader($dataset->codebook, static function () use (&$n): string {
            return sprintf('%026d', ++$n % 1_000_000_000);
        });
        $found = [];
        // where nothing was labelled a format may have written no label file at all, and its reader would miss one
        $written = array_filter($digests, static fn (int $digest): bool => $digest !== -1) !== [];
        foreach ($written ? $reader->read($folder->root, new KnownPictures($known)) : [] as $read) {
            if ($read instanceof Skipped) {
                $differences[] = "{$read->file}, {$read->place}: {$read->reason}";
            } elseif (! $read instanceof Notice && $read->labelled !== Labelled::Unlabelled) {
                $digest = $found[$read->picture->id] ?? 0;
                foreach ($read->marks as $mark) {
                    $digest = self::add($digest, $mark->class, $mark->geometry);
                }
                $found[$read->picture->id] = $digest;
            }
            if (count($differences) >= self::MOST_DIFFERENCES) {
                break;
            }
        }
        foreach ($digests as $i => $digest) {
            if (($found[$i] ?? -1) !== $digest && count($differences) < self::MOST_DIFFERENCES) {
                $differences[] = "{$paths[$i]}: ".(isset($found[$i]) ? ($digest === -1 ? 'is not labelled, but the file says it is' : 'the marks read are not the marks written') : 'its labels are missing');
            }
        }

        return ['marks' => $marks, 'items' => count($paths), 'differences' => $differences];
    }

    /** Adds a mark to a digest (62 bits) that does not depend on the order of the marks, but counts each. */
    private static function add(int $digest, string $class, Geometry $geometry): int
    {
        $text = $geometry instanceof Box ? "{$geometry->x} {$geometry->y} {$geometry->width} {$geometry->height}" : $geometry::class.json_encode($geometry->toArray());
        $hash = unpack('J', hash('xxh64', "{$class} {$text}", true));

        return ($digest + ((is_array($hash) && is_int($hash[1]) ? $hash[1] : 0) & self::BITS)) & self::BITS;
    }

    /** How far two shapes of one kind lie apart, in px: the largest difference of a coordinate, or infinite when they are not alike. */
    private static function deviation(Geometry $true, Geometry $held): float
    {
        if ($true instanceof Box && $held instanceof Box) {
            return max(abs($true->x - $held->x), abs($true->y - $held->y), abs($true->right() - $held->right()), abs($true->bottom() - $held->bottom()));
        }
        if ($true instanceof TurnedBox && $held instanceof TurnedBox) {
            // angles of the same box may differ by whole turns, corners can't
            return self::apart($true->rings(), $held->rings());
        }

        return self::apart($true->toArray(), $held->toArray());
    }

    private static function apart(mixed $a, mixed $b): float
    {
        if (is_array($a) && is_array($b)) {
            return array_keys($a) === array_keys($b) && $a !== [] ? max(array_map(self::apart(...), $a, $b)) : ($a === $b ? 0.0 : INF);
        }

        return (is_int($a) || is_float($a)) && (is_int($b) || is_float($b)) ? abs($a - $b) : ($a === $b ? 0.0 : INF);
    }
}
