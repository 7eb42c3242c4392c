<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Cuboids;

use Closure;
use RuntimeException;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Json\Lines;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Track;

/**
 * Writes the cuboids of clouds as one table, `cuboids.csv`: `file,frame,track,class,x,y,z,length,width,height,qx,qy,qz,qw,points`, a line for each
 * frame an object is seen in. Frames are counted from 0, tracks from 1 within a file; centre and sides are in metres in the axes of the cloud, the
 * length along the heading, turned by a unit quaternion. A file with nothing in it has a line that says nothing but its name.
 *
 * `cuboids.json` says the same, `{"skeno": "cuboids/1", "cuboids": [{file, frame, track, class, center, size, rotation, points?}, …]}`: rotation is x, y, z, w.
 */
final class CuboidsWriter implements DatasetWriter
{
    public const COLUMNS = ['file', 'frame', 'track', 'class', ...CuboidLine::NUMBERS, 'points'];

    /** whether an element was written before */
    private bool $any = false;

    /** @param  ?Closure(DatasetItem, int, non-empty-list<Cuboid>): list<int>  $points  how many points of a frame lie in cuboids; null: nobody knows */
    public function __construct(private readonly Codebook $codebook, private readonly ?Closure $points = null)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        $out = $folder->create('cuboids.csv');
        self::line($out, self::COLUMNS);
        $json = $folder->create('cuboids.json');
        self::put($json, '{"skeno":"cuboids/1","cuboids":[');
        $this->any = false;
        foreach ($dataset->items() as $item) {
            if ($item->frames === null) {
                $report->count('items that are no clouds were left out');

                continue;
            }
            $this->item($item, $out, $json, $report);
            if ($pictures) {
                // (a sequence is a zip of its frames)
                $folder->take('clouds/'.$item->path.(pathinfo($item->path, PATHINFO_EXTENSION) === '' ? '.zip' : ''), $dataset->pictureFile($item));
            }
        }
        fclose($out);
        self::put($json, "\n]}\n");
        fclose($json);

        return $report;
    }

    /**
     * @param  resource  $out
     * @param  resource  $json
     */
    private function item(DatasetItem $item, $out, $json, MappingReport $report): void
    {
        if ($item->said->tags !== [] || $item->said->answers !== []) {
            $report->count('what is said of a cloud as a whole is not held');
        }
        $marks = self::ordered($item);
        foreach ($marks as $mark) {
            if ($mark->answers !== [] || array_filter($mark->keys, static fn ($key): bool => $key->answers !== []) !== []) {
                $report->count('answers of cuboids are not held');
            }
            if ($mark->flags !== [] || $mark->partOf !== null) {
                $report->count('flags of cuboids, and what they are a part of, are not held');
            }
        }
        $any = false;
        foreach (self::visible($item, $report) as $frame => $rows) {
            $points = $this->points === null ? [] : ($this->points)($item, $frame, array_column($rows, 1));
            $i = 0;
            foreach ($rows as $track => [$mark, $cuboid]) {
                $class = $this->codebook->exportName($this->codebook->classes[$mark->class]);
                $numbers = CuboidLine::write($cuboid);
                $inside = $points[$i++] ?? null;
                self::line($out, [$item->path, (string) $frame, (string) $track, $class, ...$numbers, (string) ($inside ?? '')]);
                $list = static fn (int $from, int $count): array => array_map(static fn (string $number): float => (float) $number, array_slice($numbers, $from, $count));
                $this->element($json, ['file' => $item->path, 'frame' => $frame, 'track' => $track, 'class' => $class, 'center' => $list(0, 3), 'size' => $list(3, 3), 'rotation' => $list(6, 4)] + ($inside === null ? [] : ['points' => $inside]));
                $any = true;
            }
        }
        if (! $any && $item->labelled !== Labelled::Unlabelled) {
            self::line($out, [$item->path, ...array_fill(0, count(self::COLUMNS) - 1, '')]);
            $this->element($json, ['file' => $item->path]);
        }
    }

    /**
     * What is seen of an item at each frame at which anything is, by the number of its track.
     *
     * @param  ?MappingReport  $report  told what is hidden
     * @return iterable<int, non-empty-array<int, array{Mark, Cuboid}>> by frame
     */
    public static function visible(DatasetItem $item, ?MappingReport $report = null): iterable
    {
        $marks = self::ordered($item);
        $tracks = array_map(static fn (Mark $mark): Track => $mark->track(), $marks);
        for ($frame = 0; $frame < $item->frames; $frame++) {
            $rows = [];
            foreach ($marks as $n => $mark) {
                $cuboid = self::at($tracks[$n], $frame);
                if ($cuboid === null) {
                    continue;
                }
                if ($tracks[$n]->isHidden($frame)) {
                    $report?->count('frames in which an object is hidden were left out');
                } else {
                    $rows[$n + 1] = [$mark, $cuboid];
                }
            }
            if ($rows !== []) {
                yield $frame => $rows;
            }
        }
    }

    public function hold(DatasetItem $item): iterable
    {
        foreach ($item->frames === null ? [] : $item->marks as $mark) {
            $track = $mark->track();
            for ($frame = 0; $frame < $item->frames; $frame++) {
                $cuboid = self::at($track, $frame);
                if ($cuboid !== null && ! $track->isHidden($frame)) {
                    yield new Held($mark, CuboidLine::held($cuboid), false, $frame, $cuboid);
                }
            }
        }
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.001;
    }

    private static function at(Track $track, int $frame): ?Cuboid
    {
        $shape = $track->shape($frame);

        return $shape instanceof Cuboid && ! $shape->isEmpty() ? $shape : null;
    }

    /** @return list<Mark> in an order that does not change with the stack */
    private static function ordered(DatasetItem $item): array
    {
        $marks = $item->marks;
        usort($marks, static fn (Mark $a, Mark $b): int => $a->id <=> $b->id);

        return $marks;
    }

    /**
     * @param  resource  $out
     * @param  list<string>  $cells
     */
    private static function line($out, array $cells): void
    {
        if (@fputcsv($out, $cells, ',', '"', '') === false) {
            throw new RuntimeException('the cuboids could not be written: is the disk full?');
        }
    }

    /**
     * @param  resource  $json
     * @param  array<string, mixed>  $element
     */
    private function element($json, array $element): void
    {
        self::put($json, ($this->any ? ",\n" : "\n").Lines::encode($element));
        $this->any = true;
    }

    /** @param  resource  $out */
    private static function put($out, string $bytes): void
    {
        if (@fwrite($out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('the cuboids could not be written: is the disk full?');
        }
    }
}
