<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Cuboids;

use Closure;
use RuntimeException;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Points;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Cloud\Source;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;

/**
 * Writes of every point of a cloud what it is of: `<file>/<frame>.label`, for each point in the order of its scan 32 bits, little end first, the lower
 * 16 its class by `labels.txt` (from 1; 0: of nothing), the upper 16 its object, by the tracks of `cuboids.csv`. A point in more than one cuboid is of the
 * smallest. Where files are asked for, the points too: `<frame>.pcd` with the fields x, y, z, intensity where there is one, label and object.
 */
final class PointsWriter implements DatasetWriter
{
    /** Objects that can be told from each other in 16 bits. */
    private const MOST = 65_535;

    private readonly CuboidsWriter $table;

    /** @var array<string, int> by key */
    private readonly array $values;

    /** @param  ?Closure(DatasetItem, int, non-empty-list<Cuboid>): list<int>  $points  how many points of a frame lie in cuboids; null: nobody knows */
    public function __construct(private readonly Codebook $codebook, ?Closure $points = null)
    {
        $this->table = new CuboidsWriter($codebook, $points);
        $this->values = array_combine(array_keys($codebook->classes), range(1, max(1, count($codebook->classes))));
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = $this->table->write($dataset, $folder, false);
        $folder->write('labels.txt', implode('', array_map(fn (LabelClass $class): string => $this->codebook->exportName($class)."\n", array_values($this->codebook->classes))));
        foreach ($dataset->items() as $item) {
            if ($item->frames === null || $item->labelled === Labelled::Unlabelled) {
                continue;
            }
            // both go from frame to frame, one beside the other: what is in all of them together is never held
            $seen = (static fn (): \Generator => yield from CuboidsWriter::visible($item))();
            foreach ($this->sources($dataset->pictureFile($item), $item, $folder) as $frame => $source) {
                while ($seen->valid() && $seen->key() < $frame) {
                    $seen->next();
                }
                $this->frame($item, $frame, $source, $seen->valid() && $seen->key() === $frame ? $seen->current() : [], $folder, $pictures, $report);
            }
        }

        return $report;
    }

    public function hold(DatasetItem $item): iterable
    {
        return $this->table->hold($item);
    }

    public function tolerance(DatasetItem $item): float
    {
        return $this->table->tolerance($item);
    }

    /** @return iterable<int, Source> */
    private function sources(string $file, DatasetItem $item, Folder $folder): iterable
    {
        // what was let in is let out, whatever the limits are now
        $limits = new CloudLimits(PHP_INT_MAX, PHP_INT_MAX >> 20);
        if (! Sequence::isOne($file)) {
            yield 0 => CloudFile::open($file, $item->path, $limits);

            return;
        }
        $scratch = $folder->root.'-scans';
        @mkdir($scratch, 0o770) || throw new RuntimeException('the scans can\'t be unpacked: is the disk full?');
        try {
            yield from Sequence::each($file, $scratch, $limits);
        } finally {
            @rmdir($scratch);
        }
    }

    /** @param  array<int, array{Mark, Cuboid}>  $rows  by track */
    private function frame(DatasetItem $item, int $frame, Source $source, array $rows, Folder $folder, bool $whole, MappingReport $report): void
    {
        $tracks = array_keys($rows);
        $inside = new Inside(array_column($rows, 1));
        $values = [];
        foreach ($rows as $track => [$mark]) {
            if ($track > self::MOST) {
                $report->count('objects beyond '.number_format(self::MOST).' of a cloud have no number at their points (see cuboids.csv)');
            }
            $values[] = ($track > self::MOST ? 0 : $track) << 16 | $this->values[$mark->class];
        }
        $path = "{$item->path}/".self::stem($item, $frame);
        $labels = $folder->create("{$path}.label");
        $body = $whole ? $folder->create("{$path}.pcd.part") : null;
        $count = 0;
        $strong = false;
        foreach ($source->points() as $points) {
            $of = array_map(static fn (?int $n): int => $n === null ? 0 : $values[$n], $inside->which($points));
            self::put($labels, pack('V*', ...$of), "{$path}.label");
            $count += $points->count();
            if ($body !== null) {
                $strong = $points->intensity !== null;
                self::put($body, self::records($points, $of), "{$path}.pcd");
            }
        }
        fclose($labels);
        if ($body !== null) {
            fclose($body);
            $this->pcd($folder, $path, $count, $strong);
        }
    }

    /** Puts what a PCD begins with before its points: how many there are is known when they have been read. */
    private function pcd(Folder $folder, string $path, int $count, bool $strong): void
    {
        $fields = ['x' => 'F', 'y' => 'F', 'z' => 'F', ...($strong ? ['intensity' => 'F'] : []), 'label' => 'U', 'object' => 'U'];
        $head = "# .PCD v0.7 - Point Cloud Data file format\nVERSION 0.7\n"

            .'FIELDS '.implode(' ', array_keys($fields))."\nSIZE".str_repeat(' 4', count($fields))."\nTYPE ".implode(' ', $fields)."\nCOUNT".str_repeat(' 1', count($fields))."\n"
            ."WIDTH {$count}\nHEIGHT 1\nVIEWPOINT 0 0 0 1 0 0 0\nPOINTS {$count}\nDATA binary\n";
        $out = $folder->create("{$path}.pcd");
        self::put($out, $head, "{$path}.pcd");
        $in = fopen($folder->file("{$path}.pcd.part"), 'rb');
        if ($in === false || stream_copy_to_stream($in, $out) === false) {
            throw new RuntimeException("\"{$path}.pcd\" could not be written: is the disk full?");
        }
        fclose($in);
        fclose($out);
        unlink($folder->file("{$path}.pcd.part"));
    }

    /** @param  list<int>  $of */
    private static function records(Points $points, array $of): string
    {
        $bytes = '';
        foreach ($points->x as $i => $x) {
            $bytes .= ($points->intensity === null ? pack('g3', $x, $points->y[$i], $points->z[$i]) : pack('g4', $x, $points->y[$i], $points->z[$i], $points->intensity[$i])).pack('V2', $of[$i] & 0xFFFF, $of[$i] >> 16);
        }

        return $bytes;
    }

    /** @param  resource  $out */
    private static function put($out, string $bytes, string $path): void
    {
        if (fwrite($out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException("\"{$path}\" could not be written: is the disk full?");
        }
    }

    private static function stem(DatasetItem $item, int $frame): string
    {
        return $item->rig->stems[$frame] ?? ($item->frames === 1 ? pathinfo($item->path, PATHINFO_FILENAME) : sprintf('%06d', $frame));
    }
}
