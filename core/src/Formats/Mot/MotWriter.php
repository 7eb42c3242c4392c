<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Mot;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Marks\Mark;

/**
 * MOT ground truth: of each clip a folder named as it, without the ending, with `seqinfo.ini` and `gt/gt.txt`, a line for every frame in which
 * a track is there: `frame,id,left,top,width,height,conf,class,visibility`. Frames, ids, classes and pixels count from 1; visibility is 0 where
 * the object is hidden; conf is 0 where the class is to be ignored. The classes in their order stand in `gt/labels.txt`.
 */
final readonly class MotWriter implements DatasetWriter
{
    private const DIGITS = 3;

    public function __construct(private Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $numbers = array_flip(array_keys($this->codebook->classes));
        $names = implode('', array_map(fn ($class): string => $this->codebook->exportName($class)."\n", array_values($this->codebook->classes)));
        foreach ($dataset->items() as $item) {
            if ($item->axis === null) {
                $report->count('items without frames are no sequences and were left out');

                continue;
            }
            if ($item->said->tags !== [] || $item->said->answers !== []) {
                $report->count('what is said of a clip as a whole is not held');
            }
            $stem = self::stem($item->path);
            if ($folder->has("{$stem}/seqinfo.ini")) {
                // two clips that differ in their ending alone
                $stem = $item->path;
            }
            $folder->write("{$stem}/seqinfo.ini", implode("\n", ['[Sequence]', 'name='.basename($stem), 'imDir=img1', 'frameRate='.rtrim(rtrim(sprintf('%.4F', $item->axis->rate), '0'), '.'), "seqLength={$item->axis->places}", "imWidth={$item->width}", "imHeight={$item->height}", 'imExt=.png'])."\n");
            $folder->write("{$stem}/gt/labels.txt", $names);
            $out = $folder->create("{$stem}/gt/gt.txt");
            foreach (self::ordered($item) as $n => $mark) {
                $this->count($mark, $report);
                $conf = $this->codebook->classes[$mark->class]->ignore ? 0 : 1;
                foreach ($this->boxes($mark, $item->axis->places) as $place => [$box, $hidden]) {
                    $line = implode(',', [$place + 1, $n + 1, self::number($box->x + 1), self::number($box->y + 1), self::number($box->width), self::number($box->height), $conf, $numbers[$mark->class] + 1, $hidden ? 0 : 1])."\n";
                    if (@fwrite($out, $line) !== strlen($line)) {
                        throw new \RuntimeException('the tracks could not be written: is the disk full?');
                    }
                }
            }
            fclose($out);
            if ($pictures) {
                $folder->take($item->path, $dataset->pictureFile($item));
            }
        }

        return $report;
    }

    public function hold(DatasetItem $item): iterable
    {
        $places = $item->axis->places ?? 0;
        foreach ($places === 0 ? [] : $item->marks as $mark) {
            foreach ($this->boxes($mark, $places) as $place => [$box, $hidden, $true]) {
                yield new Held($mark, $box, ! $true instanceof Box, $place, $true, $hidden);
            }
        }
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0011;
    }

    /** The folder of a clip. */
    private static function stem(string $path): string
    {
        return (string) preg_replace('/\.[^.\/]+$/', '', $path);
    }

    /** @return list<Mark> in an order that does not change with the stack */
    private static function ordered(DatasetItem $item): array
    {
        $marks = $item->marks;
        usort($marks, static fn (Mark $a, Mark $b): int => $a->id <=> $b->id);

        return $marks;
    }

    /** @return iterable<int, array{Box, bool, Geometry}> by frame: the box as it is written, whether it is hidden, the true shape */
    private function boxes(Mark $mark, int $places): iterable
    {
        $track = $mark->track();
        foreach ($track->shapes(0, $places - 1) as $place => $shape) {
            if ($shape instanceof Flat && ! $shape->isEmpty()) {
                $box = $shape->bounds();
                $left = round($box->x + 1, self::DIGITS) - 1;
                $top = round($box->y + 1, self::DIGITS) - 1;
                yield $place => [Box::of(round($left, self::DIGITS), round($top, self::DIGITS), round($box->width, self::DIGITS), round($box->height, self::DIGITS)), $track->isHidden($place), $shape];
            }
        }
    }

    private function count(Mark $mark, MappingReport $report): void
    {
        if (! $mark->geometry instanceof Box) {
            $report->count("tracks of {$mark->kind->words()}s are held as the boxes around them");
        }
        if ($mark->answers !== [] || array_filter($mark->keys, static fn ($key): bool => $key->answers !== []) !== []) {
            $report->count('answers of tracks are not held');
        }
        if ($mark->flags !== []) {
            $report->count('flags of tracks are not held');
        }
        if ($mark->partOf !== null) {
            $report->count('what a track is a part of is not held');
        }
    }

    private static function number(float $value): string
    {
        $text = rtrim(rtrim(sprintf('%.'.self::DIGITS.'F', $value), '0'), '.');

        return $text === '-0' ? '0' : $text;
    }
}
