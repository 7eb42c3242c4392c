<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\InvalidValue;

/**
 * The pixels of a region over a whole picture, as COCO run-length: `{size: [height, width], counts}`. Runs go down the columns from the
 * left, beginning with pixels that do not belong to it. Held as the offsets where runs change, so that set operations are merges:
 * `edges[2i]` is where the i-th run of pixels begins, `edges[2i+1]` where it ends (exclusive), in column-major pixel numbers, strictly
 * rising. In JSON `counts` is the compressed string; a plain list is read too.
 */
final readonly class Mask implements Flat
{
    /** Pixels of the largest picture taken in. */
    public const MOST_PIXELS = 1 << 30;

    /** Runs one mark may have: the noisiest mask a hand makes has thousands. */
    public const MOST_RUNS = 4_000_000;

    /** @param  list<int>  $edges */
    private function __construct(public int $width, public int $height, public array $edges)
    {
    }

    public static function none(int $width, int $height): self
    {
        self::checkSize($width, $height, 'size');

        return new self($width, $height, []);
    }

    /**
     * @param  list<int>  $edges  strictly rising, even in number, within the picture
     *
     * @throws InvalidValue
     */
    public static function ofEdges(int $width, int $height, array $edges): self
    {
        self::checkSize($width, $height, 'size');
        $last = -1;
        foreach ($edges as $edge) {
            if ($edge <= $last) {
                throw InvalidValue::at('edges', $edge, "an offset above {$last}");
            }
            $last = $edge;
        }
        if (count($edges) % 2 !== 0 || $last > $width * $height) {
            throw InvalidValue::at('edges', $last, 'runs that end within the picture');
        }

        return new self($width, $height, $edges);
    }

    /**
     * @param  list<mixed>  $counts  run lengths, pixels outside first
     *
     * @throws InvalidValue when a run is negative or no whole number, or they do not sum up to the picture
     */
    public static function ofCounts(int $width, int $height, array $counts, string $path = 'mask'): self
    {
        self::checkSize($width, $height, "{$path}.size");
        if (count($counts) > self::MOST_RUNS) {
            throw InvalidValue::at("{$path}.counts", count($counts).' runs', 'at most '.self::MOST_RUNS);
        }
        $total = $width * $height;
        $at = 0;
        $edges = [];
        foreach ($counts as $i => $count) {
            if (is_float($count) && floor($count) === $count && abs($count) <= $total) {
                $count = (int) $count;
            }
            if (! is_int($count) || $count < 0) {
                throw InvalidValue::at("{$path}.counts[{$i}]", $count, 'a run of 0 or more pixels');
            }
            if ($count > $total - $at) {
                throw InvalidValue::at("{$path}.counts[{$i}]", $count, 'runs that sum up to '.$total.' pixels; these run over');
            }
            if ($i % 2 === 1 && $count > 0) {
                if ($edges !== [] && $edges[count($edges) - 1] === $at) {
                    $edges[count($edges) - 1] = $at + $count;
                } else {
                    $edges[] = $at;
                    $edges[] = $at + $count;
                }
            }
            $at += $count;
        }
        if ($at !== $total) {
            throw InvalidValue::at("{$path}.counts", $at, "runs that sum up to {$total} pixels");
        }

        return new self($width, $height, $edges);
    }

    /** Reads `{size: [height, width], counts: string or list}`. */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        $size = $fields->list('size');
        if (count($size) !== 2 || ! is_int($size[0]) || ! is_int($size[1])) {
            throw InvalidValue::at("{$path}.size", $fields->raw('size'), '[height, width] in pixels');
        }
        $counts = $fields->raw('counts');
        if (is_string($counts)) {
            $counts = CompressedRuns::decode($counts, "{$path}.counts");
        } elseif (! is_array($counts) || ! array_is_list($counts)) {
            throw InvalidValue::at("{$path}.counts", $counts, 'run lengths, as a list or as the compressed string');
        }

        return self::ofCounts($size[1], $size[0], $counts, $path);
    }

    /** @return list<int> run lengths, pixels outside first; sums up to the picture */
    public function counts(): array
    {
        $counts = [];
        $at = 0;
        foreach ($this->edges as $edge) {
            $counts[] = $edge - $at;
            $at = $edge;
        }
        if ($at < $this->width * $this->height || $counts === []) {
            $counts[] = $this->width * $this->height - $at;
        }

        return $counts;
    }

    public function union(self $other): self
    {
        return $this->combine($other, static fn (bool $a, bool $b): bool => $a || $b);
    }

    public function intersection(self $other): self
    {
        return $this->combine($other, static fn (bool $a, bool $b): bool => $a && $b);
    }

    /** What of this one the other does not have. */
    public function without(self $other): self
    {
        return $this->combine($other, static fn (bool $a, bool $b): bool => $a && ! $b);
    }

    public function complement(): self
    {
        $total = $this->width * $this->height;
        $edges = $this->edges;
        if ($edges !== [] && $edges[0] === 0) {
            array_shift($edges);
        } else {
            array_unshift($edges, 0);
        }
        if ($edges[count($edges) - 1] === $total) {
            array_pop($edges);
        } else {
            $edges[] = $total;
        }

        return new self($this->width, $this->height, $edges);
    }

    /** Pixels in it. */
    public function area(): float
    {
        $sum = 0;
        $n = count($this->edges);
        for ($i = 0; $i < $n; $i += 2) {
            $sum += $this->edges[$i + 1] - $this->edges[$i];
        }

        return (float) $sum;
    }

    /** Share of common pixels in all pixels of both, 0 to 1; 1 for two empty masks. */
    public function iou(self $other): float
    {
        $common = $this->intersection($other)->area();
        $all = $this->area() + $other->area() - $common;

        return $all > 0 ? $common / $all : 1.0;
    }

    public function isEmpty(): bool
    {
        return $this->edges === [];
    }

    public function has(int $x, int $y): bool
    {
        if ($x < 0 || $y < 0 || $x >= $this->width || $y >= $this->height) {
            return false;
        }
        $pixel = $x * $this->height + $y;
        [$low, $high] = [0, count($this->edges)];
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            $this->edges[$middle] <= $pixel ? $low = $middle + 1 : $high = $middle;
        }

        return $low % 2 === 1;
    }

    /** Of an empty mask: a box without size at 0, 0. */
    public function bounds(): Box
    {
        if ($this->edges === []) {
            return Box::of(0, 0, 0, 0);
        }
        $top = $this->height;
        $bottom = 0;
        $n = count($this->edges);
        for ($i = 0; $i < $n; $i += 2) {
            $from = $this->edges[$i];
            $to = $this->edges[$i + 1] - 1;
            if (intdiv($from, $this->height) !== intdiv($to, $this->height)) {
                [$top, $bottom] = [0, $this->height];
                break;
            }
            $top = min($top, $from % $this->height);
            $bottom = max($bottom, $to % $this->height + 1);
        }
        $left = intdiv($this->edges[0], $this->height);

        return Box::of($left, $top, intdiv($this->edges[$n - 1] - 1, $this->height) + 1 - $left, $bottom - $top);
    }

    /**
     * Runs by column, none going over the end of one.
     *
     * @return array<int, list<int>> by column, only those with pixels, rising: from, to (exclusive), from, to … in rows
     */
    public function columns(): array
    {
        $columns = [];
        $height = $this->height;
        $n = count($this->edges);
        for ($i = 0; $i < $n; $i += 2) {
            $from = $this->edges[$i];
            $to = $this->edges[$i + 1];
            while ($from < $to) {
                $x = intdiv($from, $height);
                $end = min($to, ($x + 1) * $height);
                $columns[$x][] = $from - $x * $height;
                $columns[$x][] = $end - $x * $height;
                $from = $end;
            }
        }

        return $columns;
    }

    /**
     * @param  array<int, list<int>>  $columns  rising, as `columns` gives them
     */
    public static function ofColumns(int $width, int $height, array $columns): self
    {
        $edges = [];
        $last = -1;
        foreach ($columns as $x => $runs) {
            $base = $x * $height;
            $n = count($runs);
            for ($i = 0; $i < $n; $i += 2) {
                if ($base + $runs[$i] === $last) {
                    array_pop($edges);
                } else {
                    $edges[] = $base + $runs[$i];
                }
                $edges[] = $last = $base + $runs[$i + 1];
            }
        }

        return self::ofEdges($width, $height, $edges);
    }

    /**
     * The same by whole pixels to the right and down; what would leave the picture is cut off.
     *
     * @param  ?int  $width  of the picture it comes to lie on, $height likewise; null: as this one's
     */
    public function moved(int $dx, int $dy, ?int $width = null, ?int $height = null): self
    {
        $width ??= $this->width;
        $height ??= $this->height;
        $columns = [];
        foreach ($this->columns() as $x => $runs) {
            if ($x + $dx < 0 || $x + $dx >= $width) {
                continue;
            }
            $moved = [];
            $n = count($runs);
            for ($i = 0; $i < $n; $i += 2) {
                $from = max(0, $runs[$i] + $dy);
                $to = min($height, $runs[$i + 1] + $dy);
                if ($from < $to) {
                    $moved[] = $from;
                    $moved[] = $to;
                }
            }
            if ($moved !== []) {
                $columns[$x + $dx] = $moved;
            }
        }

        return self::ofColumns($width, $height, $columns);
    }

    /** @return array{size: array{int, int}, counts: string} */
    public function toArray(): array
    {
        return ['size' => [$this->height, $this->width], 'counts' => CompressedRuns::encode($this->counts())];
    }

    /** @param  callable(bool, bool): bool  $rule  false for pixels in neither */
    private function combine(self $other, callable $rule): self
    {
        if ($other->width !== $this->width || $other->height !== $this->height) {
            throw InvalidValue::at('size', "{$other->width} × {$other->height}", "{$this->width} × {$this->height}, the size of the other mask");
        }
        // the rule as a table, so that the merge makes no calls
        $table = [false, $rule(true, false), $rule(false, true), $rule(true, true)];
        $edges = [];
        $state = 0;
        $on = false;
        $i = $j = 0;
        $a = $this->edges;
        $b = $other->edges;
        $a[] = $b[] = PHP_INT_MAX;
        while (($at = $a[$i] < $b[$j] ? $a[$i] : $b[$j]) !== PHP_INT_MAX) {
            if ($a[$i] === $at) {
                $state ^= 1;
                $i++;
            }
            if ($b[$j] === $at) {
                $state ^= 2;
                $j++;
            }
            if ($table[$state] !== $on) {
                $on = ! $on;
                $edges[] = $at;
            }
        }

        return new self($this->width, $this->height, $edges);
    }

    private static function checkSize(int $width, int $height, string $path): void
    {
        if ($width < 1 || $height < 1 || $width > self::MOST_PIXELS || $height > self::MOST_PIXELS || $width * $height > self::MOST_PIXELS) {
            throw InvalidValue::at($path, "{$width} × {$height}", 'a picture of at least one pixel and at most '.self::MOST_PIXELS);
        }
    }
}
