<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;

/**
 * Reads what was written with the format's own reader and compares it with what should be there: every mark with its class and
 * numbers, every picture without objects. A format's rounding is allowed for, and itself held against its tolerance. Keeps
 * one number a picture, so that memory stays small for millions of marks.
 */
final class ReadBack
{
    private const MOST_DIFFERENCES = 20;

    private const BITS = (1 << 62) - 1;

    /** @var list<KnownPicture> */
    private array $known = [];

    /** @var list<int> what the labels of each picture come to; -1 for one nobody labelled, which must be absent or said to be so */
    private array $digests = [];

    /** @var list<string> */
    private array $differences = [];

    private int $marks = 0;

    private bool $whole = false;

    public function __construct(private readonly Dataset $dataset, private readonly Format $format, private readonly DatasetWriter $writer, private Census $census = new Census)
    {
    }

    /**
     * The dataset for the writer: what should be there is noted while it passes, so that it need not be read once more.
     */
    public function watched(): Dataset
    {
        return new Dataset($this->dataset->name, $this->dataset->codebook, function (): iterable {
            if ($this->whole) {
                yield from $this->dataset->items();

                return;
            }
            // a writer may have given up a pass half-way
            [$this->known, $this->digests, $this->differences, $this->marks, $this->census] = [[], [], [], 0, new Census];
            foreach ($this->dataset->items() as $item) {
                $this->note($item);
                yield $item;
            }
            $this->whole = true;
        }, $this->dataset->pictureFile(...), $this->dataset->clips(...));
    }

    /** What the dataset holds; known when it was gone through. */
    public function census(): Census
    {
        return $this->census;
    }

    private function note(DatasetItem $item): void
    {
        $this->known[] = new KnownPicture(count($this->known), $item->path, $item->width, $item->height, $item->places(), $item->text?->length, $item->sheets, $item->scan, $item->frames !== null, $item->rig);
        $this->census->add($item);
        $digest = 0;
        $counted = [];
        $all = $this->writer->hold($item);
        $ends = [];
        if ($item->text !== null) {
            $all = is_array($all) ? $all : iterator_to_array($all, false);
            $ends = self::ends(array_map(static fn (Held $held): array => [$held->mark, $held->geometry], $all));
        }
        foreach ($all as $held) {
            $counted[$held->mark->id] = true;
            $digest = self::add($digest, self::placed($held->mark, $held->place, $held->hidden), $held->geometry, $ends);
            $true = $held->true instanceof Flat || $held->true instanceof Cuboid ? $held->true : $held->mark->geometry;
            if ($true instanceof Cuboid && $held->geometry instanceof Cuboid && $held->true !== null) {
                if ($true->apart($held->geometry) > $this->writer->tolerance($item)) {
                    $this->differences[] = "{$item->path}: ".self::named($item, $held->mark, $this->dataset).' comes back otherwise';
                }

                continue;
            }
            if (! $true instanceof Flat) {
                // what lies on no plane is the same or it is not
                if (! $held->converted && $true->toArray() !== $held->geometry->toArray()) {
                    $this->differences[] = "{$item->path}: ".self::named($item, $held->mark, $this->dataset).' comes back otherwise';
                }

                continue;
            }
            $off = $held->converted ? 0.0 : self::deviation($true, $held->geometry);
            // a shape past the edge may have been cut at it, which the format's report says
            if ($off > $this->writer->tolerance($item) && self::overhang($item, $held->mark, $true) <= 0.0) {
                $this->differences[] = "{$item->path}: ".self::named($item, $held->mark, $this->dataset).($off === INF ? ' comes back as another outline' : sprintf(' is off by %.4f px', $off));
            }
        }
        $this->marks += count($counted);
        $this->digests[] = $item->labelled === Labelled::Unlabelled ? -1 : $digest;
    }

    /**
     * @return array{marks: int, items: int, differences: list<string>} what was compared, and what differs (none: all is well)
     */
    public function compare(Folder $folder): array
    {
        if (! $this->whole) {
            foreach ($this->watched()->items() as $item) {
                unset($item);
            }
        }
        $differences = $this->differences;
        $n = 0;
        $reader = $this->format->reader($this->dataset->codebook, static function () use (&$n): string {
            return sprintf('%026d', ++$n % 1_000_000_000);
        });
        $found = [];
        // where nothing was labelled a format may have written no label file at all, and its reader would miss one
        $written = array_filter($this->digests, static fn (int $digest): bool => $digest !== -1) !== [];
        foreach ($written ? $reader->read($folder->root, new KnownPictures($this->known)) : [] as $read) {
            if ($read instanceof Skipped) {
                $differences[] = "{$read->file}, {$read->place}: {$read->reason}";
            } elseif (! $read instanceof Notice && $read->labelled !== Labelled::Unlabelled) {
                $digest = $found[$read->picture->id] ?? 0;
                $ends = $read->picture->length === null ? [] : self::ends(array_map(static fn (Mark $mark): array => [$mark, $mark->geometry], $read->marks));
                foreach ($read->marks as $mark) {
                    // (where a format holds tracks alone, the face of one is nothing it holds)
                    $digest = $this->format->holdsOnlyTracks() ? $digest : self::add($digest, self::placed($mark, null, false), $mark->geometry, $ends);
                    foreach ($mark->keys as $key) {
                        $digest = $key->geometry === null ? $digest : self::add($digest, self::placed($mark, $key->place, $key->hidden), $key->geometry);
                    }
                }
                $found[$read->picture->id] = $digest;
            }
            if (count($differences) >= self::MOST_DIFFERENCES) {
                break;
            }
        }
        foreach ($this->digests as $i => $digest) {
            if (($found[$i] ?? -1) !== $digest && count($differences) < self::MOST_DIFFERENCES) {
                $differences[] = "{$this->known[$i]->path}: ".(isset($found[$i]) ? ($digest === -1 ? 'is not labelled, but the file says it is' : 'the marks read are not the marks written') : 'its labels are missing');
            }
        }

        return ['marks' => $this->marks, 'items' => count($this->known), 'differences' => $differences];
    }

    /** How far a shape reaches past the edge of what it lies on, in px. */
    private static function overhang(DatasetItem $item, Mark $mark, Flat $shape): float
    {
        $on = $item->extent()->at($mark->place);

        return $shape->bounds()->overhang($on->width, $on->height);
    }

    /** "Apple 3 (polygon)": its class, and which of it on its picture. */
    private static function named(DatasetItem $item, Mark $mark, Dataset $dataset): string
    {
        $alike = array_values(array_filter($item->marks, static fn (Mark $other): bool => $other->class === $mark->class));
        $ids = array_map(static fn (Mark $other): string => $other->id, $alike);
        sort($ids);

        return $dataset->codebook->nameOf($mark->class).' '.((int) array_search($mark->id, $ids, true) + 1)." ({$mark->kind->words()})";
    }

    /** What is told apart beside the shape: the class, and of a track where. */
    private static function placed(Mark $mark, ?int $place, bool $hidden): string
    {
        return $mark->class.($mark->there === null && $mark->place !== null ? " on page {$mark->place}" : '').($place === null ? ($mark->there === null ? '' : json_encode($mark->there->toArray())) : " at {$place}".($hidden ? ' hidden' : ''));
    }

    /**
     * What marks are where a relation leads to them: their ids are others when they are read.
     *
     * @param  array<array-key, array{Mark, Geometry}>  $marks
     * @return array<string, string> by id
     */
    private static function ends(array $marks): array
    {
        $ends = [];
        foreach ($marks as [$mark, $geometry]) {
            if (! $geometry instanceof Join) {
                $ends[$mark->id] = $mark->class.json_encode($geometry->toArray());
            }
        }

        return $ends;
    }

    /**
     * Adds a mark to a digest (62 bits) that does not depend on the order of the marks, but counts each.
     *
     * @param  array<string, string>  $ends  what relations lead to, by id
     */
    private static function add(int $digest, string $class, Geometry $geometry, array $ends = []): int
    {
        $text = $geometry instanceof Join ? ($ends[$geometry->from] ?? '').' to '.($ends[$geometry->to] ?? '') : ($geometry instanceof Box ? "{$geometry->x} {$geometry->y} {$geometry->width} {$geometry->height}" : $geometry::class.json_encode($geometry->toArray()));
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
