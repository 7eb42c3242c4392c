<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use RuntimeException;
use Skeno\Core\Raster\Mask;

/**
 * A label map of a scan that is being written: a slice of the sheet after the other, in their order, in the memory of a slice. Where they go into
 * the file from the other end they are put by, packed, until all are there.
 */
final class LabelMap
{
    private readonly Scalar $scalar;

    /** @var resource */
    private $out;

    private int $next = 0;

    /** @var array<int, string> by slice of the sheet, packed */
    private array $store = [];

    private readonly string $empty;

    /** Voxels that more than one mask covered. */
    public int $decided = 0;

    /**
     * @param  string  $file  ending in .nii.gz
     * @param  int  $most  the highest number
     */
    public function __construct(private readonly string $file, private readonly Scan $scan, int $most)
    {
        $this->scalar = $most > 255 ? Scalar::UInt16 : Scalar::UInt8;
        [$width, $height] = $scan->laid->sizes;
        $this->empty = str_repeat("\0", $width * $height * $this->scalar->bytes());
        $this->out = @gzopen($file, 'wb4') ?: throw new RuntimeException("\"{$file}\" could not be written");
        $this->put(LabelHeader::of($scan, $this->scalar));
    }

    /**
     * The masks of a slice; those between this one and the last hold nothing.
     *
     * @param  list<array{int, Mask}>  $masks  what number the pixels of each get, later ones over earlier ones
     */
    public function slice(int $z, array $masks): void
    {
        $this->upTo($z);
        $this->next = $z + 1;
        $this->file($z, $masks === [] ? $this->empty : ($this->scalar === Scalar::UInt8 && $this->scan->laid->axes[0] === 0 ? $this->rows($masks) : $this->values($masks)));
    }

    /** Writes what is left. */
    public function close(): void
    {
        $depth = $this->scan->laid->sizes[2];
        $this->upTo($depth);
        for ($k = 0; $this->scan->laid->turned[2] && $k < $depth; $k++) {
            $packed = $this->store[$this->scan->laid->slice($k)] ?? null;
            $this->put($packed === null ? $this->empty : (string) gzinflate($packed));
        }
        gzclose($this->out);
        $this->store = [];
    }

    /**
     * @param  iterable<int, list<array{int, Mask}>>  $slices  by slice of the sheet, in order; slices left out hold nothing
     * @return int voxels that more than one mask covers
     */
    public static function write(string $file, Scan $scan, iterable $slices, int $most): int
    {
        $map = new self($file, $scan, $most);
        foreach ($slices as $z => $masks) {
            $map->slice($z, $masks);
        }
        $map->close();

        return $map->decided;
    }

    private function upTo(int $z): void
    {
        for (; $this->next < $z; $this->next++) {
            $this->file($this->next, $this->empty);
        }
    }

    private function file(int $z, string $slice): void
    {
        if (! $this->scan->laid->turned[2]) {
            $this->put($slice);
        } elseif ($slice !== $this->empty) {
            $this->store[$z] = (string) gzdeflate($slice, 1);
        }
    }

    /**
     * A byte a voxel, where rows stay rows: runs down the columns become runs along the rows, and those are put in whole.
     *
     * @param  list<array{int, Mask}>  $masks
     */
    private function rows(array $masks): string
    {
        [$width, $height] = $this->scan->laid->sizes;
        [$across, $down] = $this->scan->laid->turned;
        $rows = [];
        foreach ($masks as [$number, $mask]) {
            /** @var array<int, int> $since first column of the run that is open in a row, $last its last column so far */
            $since = $last = [];
            $lay = function (int $y, int $from, int $to) use (&$rows, $number, $width): void {
                $row = $rows[$y] ?? str_repeat("\0", $width);
                $length = $to - $from + 1;
                $this->decided += $length - substr_count($row, "\0", $from, $length);
                $rows[$y] = substr_replace($row, str_repeat(chr($number), $length), $from, $length);
            };
            foreach ($mask->columns() as $x => $runs) {
                for ($i = 0; $i < count($runs); $i += 2) {
                    for ($y = $runs[$i], $end = $runs[$i + 1]; $y < $end; $y++) {
                        if (($last[$y] ?? -2) !== $x - 1) {
                            if (isset($since[$y])) {
                                $lay($y, $since[$y], $last[$y]);
                            }
                            $since[$y] = $x;
                        }
                        $last[$y] = $x;
                    }
                }
            }
            foreach ($since as $y => $from) {
                $lay($y, $from, $last[$y]);
            }
        }
        $slice = '';
        $none = str_repeat("\0", $width);
        for ($n = 0; $n < $height; $n++) {
            $row = $rows[$down ? $height - 1 - $n : $n] ?? null;
            $slice .= $row === null ? $none : ($across ? strrev($row) : $row);
        }

        return $slice;
    }

    /** @param  list<array{int, Mask}>  $masks */
    private function values(array $masks): string
    {
        [$width, $height] = $this->scan->laid->sizes;
        $values = array_fill(0, $width * $height, 0);
        foreach ($masks as [$number, $mask]) {
            foreach ($mask->columns() as $x => $runs) {
                for ($i = 0; $i < count($runs); $i += 2) {
                    for ($at = $runs[$i] * $width + $x, $end = $runs[$i + 1] * $width; $at < $end; $at += $width) {
                        if ($values[$at] !== 0) {
                            $this->decided++;
                        }
                        $values[$at] = $number;
                    }
                }
            }
        }
        $code = $this->scalar === Scalar::UInt8 ? 'C*' : (LabelHeader::isLittle($this->scan) ? 'v*' : 'n*');
        $packed = '';
        foreach (array_chunk($this->scan->laid->isPlain() ? $values : $this->scan->laid->filed($values), 8192) as $some) {
            $packed .= pack($code, ...$some);
        }

        return $packed;
    }

    private function put(string $bytes): void
    {
        if (@gzwrite($this->out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException("\"{$this->file}\" could not be written: is the disk full?");
        }
    }
}
