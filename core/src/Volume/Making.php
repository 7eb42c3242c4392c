<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Closure;
use RuntimeException;
use Skeno\Core\Json\Lines;

/**
 * Makes of a scan what the bench needs: all its planes in the three directions, each packed by itself (deflate, RFC 1951), one after the other in
 * a file for each direction, and an index. A plane holds 16-bit numbers, little end first, row by row. So any plane is a range of a file,
 * whichever way it cuts the scan, and a bench of any size of volume holds only what it shows.
 *
 * `xy.bin`: a slice each, rows along y; `xz.bin`: one for each y, a row for each slice; `yz.bin`: one for each x, a row for each slice, along y.
 */
final class Making
{
    /** Bytes of planes that are put together at a time. */
    private const ROOM = 96 << 20;

    /** Strong enough: the rest would cost five times as long for a tenth. */
    private const PACKING = 1;

    /** @var array<int, int> how often a kept value occurs */
    private array $counts = [];

    /**
     * @param  string  $folder  empty
     * @param  ?Closure(int, int): void  $progress  told how many steps are done, of how many; may throw to stop
     *
     * @throws RefusedVolume when the file turns out to be none
     */
    public function make(Source $source, string $folder, ?Closure $progress = null): void
    {
        $laid = Laid::of($source->grid());
        [$width, $height, $depth] = $laid->sizes;
        $steps = 3 * $depth;
        $done = 0;
        $told = static function (int $count = 1) use (&$done, $steps, $progress): void {
            $done += $count;
            if ($progress !== null) {
                $progress(min($done, $steps), $steps);
            }
        };
        $stored = $this->stored($source, $told);
        $rows = "{$folder}/rows";
        $columns = "{$folder}/columns";
        $lengths = ['xy' => array_fill(0, $depth, 0)];
        $packed = $this->lay($source, $laid, $stored, $rows, $columns, $told);
        // slices that come from the other end are put into their order now
        $lengths['xy'] = self::sorted($packed, "{$folder}/slices", "{$folder}/xy.bin", $laid->turned[2]);
        $lengths['xz'] = self::across($rows, "{$folder}/xz.bin", $height, $width, $depth, $laid->turned[2], static fn () => $told((int) ceil($depth / 2)));
        $lengths['yz'] = self::across($columns, "{$folder}/yz.bin", $width, $height, $depth, $laid->turned[2], static fn () => $told((int) ceil($depth / 2)));
        self::put("{$folder}/index.json", Lines::encode([
            'sizes' => $laid->sizes,
            'spacing' => $laid->spacing,
            'letters' => $laid->letters,
            'stored' => $stored->toArray(),
            'windows' => array_map(static fn (Window $window): array => $window->toArray(), [...$source->windows(), ...$this->windows($stored)]),
            'planes' => [
                'xy' => ['width' => $width, 'height' => $height, 'lengths' => $lengths['xy']],
                'xz' => ['width' => $width, 'height' => $depth, 'lengths' => $lengths['xz']],
                'yz' => ['width' => $height, 'height' => $depth, 'lengths' => $lengths['yz']],
            ],
        ]));
        foreach ([$rows, $columns, "{$folder}/slices"] as $file) {
            unlink($file);
        }
    }

    /** @param  Closure(int=): void  $told */
    private function stored(Source $source, Closure $told): Stored
    {
        [$slope, $intercept] = $source->scaling();
        $offset = $source->scalar()->offset();
        if ($offset !== null) {
            return Stored::of($slope, $intercept - $offset * $slope);
        }
        [$low, $high] = [INF, -INF];
        foreach ($source->slices() as $values) {
            [$least, $most] = $values === [] ? [INF, -INF] : [min($values), max($values)];
            if (! is_finite((float) $least) || ! is_finite((float) $most)) {
                // (a value that is no number compares with none)
                $values = array_filter($values, static fn (int|float $value): bool => is_finite((float) $value));
                [$least, $most] = $values === [] ? [INF, -INF] : [min($values), max($values)];
            }
            [$low, $high] = [min($low, $least), max($high, $most)];
            $told(0);
        }
        if ($low > $high) {
            throw RefusedVolume::because('none of its voxels is a number');
        }
        $step = $high > $low ? ($high - $low) / Stored::MOST : 1.0;

        return Stored::of($slope * $step, $intercept + $slope * $low);
    }

    /**
     * Writes the slices as they lie on the sheet, in the order of the file: packed, and plain by rows and by columns for the other two directions.
     *
     * @param  Closure(int=): void  $told
     * @return list<int> lengths of the packed slices, in the order of the file
     */
    private function lay(Source $source, Laid $laid, Stored $stored, string $rowsFile, string $columnsFile, Closure $told): array
    {
        [$slope, $intercept] = $source->scaling();
        $offset = $source->scalar()->offset();
        // from the number in the file to the one that is kept
        [$by, $from] = $offset === null ? [$slope / $stored->slope, ($intercept - $stored->intercept) / $stored->slope] : [1.0, (float) $offset];
        $rows = self::open($rowsFile);
        $columns = self::open($columnsFile);
        $slices = self::open(dirname($rowsFile).'/slices');
        $lengths = [];
        $width = max(1, $laid->sizes[0]);
        foreach ($source->slices() as $values) {
            $kept = [];
            if ($offset !== null) {
                $kept = $offset === 0 ? $values : array_map(static fn (int|float $value): int => (int) $value + $offset, $values);
            } else {
                foreach ($values as $value) {
                    $value = $value * $by + $from;
                    // (what is no number is kept as the darkest)
                    $kept[] = $value > 0 ? ($value < Stored::MOST ? (int) round($value) : ($value < INF ? Stored::MOST : 0)) : 0;
                }
            }
            $this->count($kept);
            $shown = $laid->isPlain() ? $kept : $laid->shown($kept);
            $lines = array_chunk($shown, $width);
            $plane = implode('', array_map(static fn (array $line): string => pack('v*', ...$line), $lines));
            $packed = (string) gzdeflate($plane, self::PACKING);
            $lengths[] = strlen($packed);
            self::write($slices, $packed);
            self::write($rows, $plane);
            self::write($columns, implode('', array_map(static fn (array $line): string => pack('v*', ...$line), count($lines) === 1 ? array_chunk($lines[0], 1) : array_map(static fn (int|float ...$column): array => $column, ...$lines))));
            $told();
        }
        fclose($rows);
        fclose($columns);
        fclose($slices);

        return $lengths;
    }

    /** @param  array<array-key, int|float>  $kept */
    private function count(array $kept): void
    {
        foreach (array_count_values(array_map(intval(...), $kept)) as $value => $times) {
            $this->counts[$value] = ($this->counts[$value] ?? 0) + $times;
        }
    }

    /**
     * The packed slices in the order of the sheet.
     *
     * @param  list<int>  $lengths  in the order of the file
     * @return list<int> in that of the sheet
     */
    private static function sorted(array $lengths, string $from, string $to, bool $turned): array
    {
        if (! $turned) {
            if (! copy($from, $to)) {
                throw new RuntimeException('what the bench needs of this volume could not be written: is the disk full?');
            }

            return $lengths;
        }
        $in = self::open($from, 'rb');
        $out = self::open($to);
        $at = array_sum($lengths);
        foreach (array_reverse($lengths) as $length) {
            $at -= $length;
            fseek($in, $at);
            self::write($out, (string) fread($in, max(1, $length)));
        }
        fclose($in);
        fclose($out);

        return array_reverse($lengths);
    }

    /**
     * Planes across the slices: of a file of slices of lines, the n-th line of all of them each.
     *
     * @param  int  $lines  of a slice, of $length values each
     * @param  Closure(): void  $told
     * @return list<int> lengths of the packed planes
     */
    private static function across(string $from, string $to, int $lines, int $length, int $slices, bool $turned, Closure $told): array
    {
        $in = self::open($from, 'rb');
        $out = self::open($to);
        $lengths = [];
        $line = 2 * $length;
        $some = max(1, min($lines, intdiv(self::ROOM, max(1, $line * $slices))));
        for ($first = 0; $first < $lines; $first += $some) {
            $count = min($some, $lines - $first);
            $planes = array_fill(0, $count, '');
            for ($z = 0; $z < $slices; $z++) {
                $k = $turned ? $slices - 1 - $z : $z;
                fseek($in, ($k * $lines + $first) * $line);
                $block = (string) fread($in, max(1, $count * $line));
                for ($n = 0; $n < $count; $n++) {
                    $planes[$n] .= substr($block, $n * $line, $line);
                }
            }
            foreach ($planes as $plane) {
                $packed = (string) gzdeflate($plane, self::PACKING);
                $lengths[] = strlen($packed);
                self::write($out, $packed);
            }
            $told();
        }
        fclose($in);
        fclose($out);

        return $lengths;
    }

    /**
     * Ways to look at it that follow from what it holds: its bright part with some of the rest, its dark part, all of it. The two parts are told
     * by the threshold of N. Otsu, "A threshold selection method from gray-level histograms" (1979).
     *
     * @return list<Window>
     */
    private function windows(Stored $stored): array
    {
        ksort($this->counts);
        $values = array_keys($this->counts);
        [$least, $most] = [$values[0] ?? 0, $values[count($values) - 1] ?? 0];
        $split = $this->threshold();
        $all = array_sum($this->counts);
        $above = array_sum(array_filter($this->counts, static fn (int $value): bool => $value > $split, ARRAY_FILTER_USE_KEY));
        // the value below which a share of those from one on lies
        $at = function (float $share, int $from, int $many) use ($most): int {
            $sum = 0;
            foreach ($this->counts as $value => $times) {
                if ($value >= $from && ($sum += $times) >= $share * $many) {
                    return $value;
                }
            }

            return $most;
        };
        [$bright, $high] = [$at(0.02, $split + 1, $above), $at(0.999, $least, $all)];
        // (a quarter of the whole at least: what is bright may be all the same)
        $low = max($least, (int) round(min($bright - 0.3 * ($high - $bright), $high - 0.25 * ($high - $least))));
        $window = static function (string $name, int $a, int $b) use ($stored): Window {
            [$one, $two] = [$stored->measured($a), $stored->measured(max($a + 1, $b))];

            return Window::between($name, min($one, $two), max($one, $two));
        };

        return [$window('usual', $low, $high), $window('dark part', $at(0.005, $least, $all), $split), $window('nearly all', $at(0.005, $least, $all), $high), $window('whole range', $least, $most)];
    }

    /** The kept value up to which its dark part goes: where the two parts differ most from each other, and least within. */
    private function threshold(): int
    {
        $all = array_sum($this->counts);
        $sum = 0.0;
        foreach ($this->counts as $value => $times) {
            $sum += $value * $times;
        }
        [$best, $split, $weight, $below] = [-1.0, 0, 0, 0.0];
        foreach ($this->counts as $value => $times) {
            $weight += $times;
            $below += $value * $times;
            if ($weight === $all) {
                break;
            }
            $between = $weight * ($all - $weight) * ($below / $weight - ($sum - $below) / ($all - $weight)) ** 2;
            if ($between > $best) {
                [$best, $split] = [$between, $value];
            }
        }

        return $split;
    }

    /** @return resource */
    private static function open(string $file, string $mode = 'wb')
    {
        $stream = @fopen($file, $mode);

        return $stream === false ? throw new RuntimeException('what the bench needs of this volume could not be written: is the disk full?') : $stream;
    }

    /** @param  resource  $out */
    private static function write($out, string $bytes): void
    {
        if (@fwrite($out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('what the bench needs of this volume could not be written: is the disk full?');
        }
    }

    private static function put(string $file, string $contents): void
    {
        if (@file_put_contents($file, $contents) !== strlen($contents)) {
            throw new RuntimeException('what the bench needs of this volume could not be written: is the disk full?');
        }
    }
}
