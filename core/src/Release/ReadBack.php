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
            foreach ($item->marks as $mark) {
                $held = $writer->hold($mark, $item);
                if ($held === null) {
                    continue;
                }
                $marks++;
                $digest = self::add($digest, $mark->class, $held);
                $off = self::deviation($mark->geometry, $held);
                // a box past the edge may have been cut at it, which the format's report says
                if ($off > $writer->tolerance($item) && $mark->geometry->overhang($item->width, $item->height) <= 0.0) {
                    $differences[] = sprintf('%s: mark %s is off by %.4f px', $item->path, $mark->id, $off);
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
        foreach ($reader->read($folder->root, new KnownPictures($known)) as $read) {
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
    private static function add(int $digest, string $class, Box $box): int
    {
        $hash = unpack('J', hash('xxh64', "{$class} {$box->x} {$box->y} {$box->width} {$box->height}", true));

        return ($digest + ((is_array($hash) && is_int($hash[1]) ? $hash[1] : 0) & self::BITS)) & self::BITS;
    }

    private static function deviation(Box $true, Box $held): float
    {
        return max(abs($true->x - $held->x), abs($true->y - $held->y), abs($true->right() - $held->right()), abs($true->bottom() - $held->bottom()));
    }
}
