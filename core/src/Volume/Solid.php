<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/**
 * An object as the voxels it covers, slice by slice, to be worked on as one body: its largest part alone, its surface smoothed, what it encloses
 * filled. Held as strings of a byte a voxel, for the box round it with a rim of nothing.
 */
final class Solid
{
    /** Voxels of the box round an object. */
    private const ROOM = 24_000_000;

    private const OUT = "\0";

    private const IN = "\1";

    private const TAKEN = "\2";

    /**
     * @param  list<string>  $lines  along y, by x then z, with a rim of nothing all round
     * @param  array{int, int, int}  $corner  voxel of the sheet the first byte stands for; may be -1
     */
    private function __construct(private readonly int $width, private readonly int $height, private array $lines, private readonly array $corner, private readonly int $wide, private readonly int $long, private readonly int $deep)
    {
    }

    /**
     * @param  non-empty-array<int, Mask>  $slices  by slice
     *
     * @throws InvalidValue when it is too large to be worked on at once, or covers nothing
     */
    public static function of(array $slices): self
    {
        ksort($slices);
        [$x0, $y0, $x1, $y1] = [PHP_INT_MAX, PHP_INT_MAX, -1, -1];
        $size = null;
        foreach ($slices as $z => $mask) {
            if ($size !== null && $size !== [$mask->width, $mask->height]) {
                throw InvalidValue::at("slices[{$z}]", "{$mask->width} × {$mask->height}", implode(' × ', $size).', the size of the others');
            }
            $size = [$mask->width, $mask->height];
            if (! $mask->isEmpty()) {
                $box = $mask->bounds();
                [$x0, $y0] = [min($x0, (int) $box->x), min($y0, (int) $box->y)];
                [$x1, $y1] = [max($x1, (int) $box->right() - 1), max($y1, (int) $box->bottom() - 1)];
            }
        }
        if ($x1 < 0) {
            throw InvalidValue::at('slices', 0, 'a voxel at least');
        }
        [$first, $last] = [min(array_keys($slices)), max(array_keys($slices))];
        [$wide, $long, $deep] = [$x1 - $x0 + 3, $y1 - $y0 + 3, $last - $first + 3];
        if ($wide * $long * $deep > self::ROOM) {
            throw InvalidValue::at('slices', "{$wide} × {$long} × {$deep}", 'an object in a box of at most '.number_format(self::ROOM / 1e6).' million voxels');
        }
        $lines = array_fill(0, $wide * $deep, str_repeat(self::OUT, $long));
        foreach ($slices as $z => $mask) {
            foreach ($mask->columns() as $x => $runs) {
                $at = ($x - $x0 + 1) * $deep + $z - $first + 1;
                for ($i = 0; $i < count($runs); $i += 2) {
                    $lines[$at] = substr_replace($lines[$at], str_repeat(self::IN, $runs[$i + 1] - $runs[$i]), $runs[$i] - $y0 + 1, $runs[$i + 1] - $runs[$i]);
                }
            }
        }

        return new self($size[0] ?? 1, $size[1] ?? 1, array_values($lines), [$x0 - 1, $y0 - 1, $first - 1], $wide, $long, $deep);
    }

    /** @return array<int, Mask> by slice, in order; those it covers nothing of are left out */
    public function slices(): array
    {
        $slices = [];
        for ($z = 0; $z < $this->deep; $z++) {
            $columns = [];
            for ($x = 0; $x < $this->wide; $x++) {
                $runs = self::runs($this->lines[$x * $this->deep + $z], self::IN);
                if ($runs !== []) {
                    $columns[$x + $this->corner[0]] = array_map(fn (int $y): int => $y + $this->corner[1], $runs);
                }
            }
            if ($columns !== []) {
                $slices[$z + $this->corner[2]] = Mask::ofColumns($this->width, $this->height, $columns);
            }
        }

        return $slices;
    }

    /**
     * Only the largest of the parts that hang together by their faces.
     *
     * @return array{self, int} and how many parts there were
     */
    public function largest(): array
    {
        $lines = $this->lines;
        $best = null;
        [$most, $parts] = [0, 0];
        foreach (array_keys($lines) as $at) {
            for ($y = strcspn($lines[$at], self::IN); $y < $this->long; $y = $y + strcspn($lines[$at], self::IN, $y)) {
                [$runs, $voxels] = Filling::from($lines, $this->wide, $this->deep, $at, $y, self::IN, self::TAKEN);
                $parts++;
                if ($voxels > $most) {
                    [$most, $best] = [$voxels, $runs];
                }
            }
        }
        $left = array_fill(0, $this->wide * $this->deep, str_repeat(self::OUT, $this->long));
        foreach ($best ?? [] as [$at, $from, $to]) {
            $left[$at] = substr_replace($left[$at], str_repeat(self::IN, $to - $from + 1), $from, $to - $from + 1);
        }

        return [$this->with(array_values($left)), $parts];
    }

    /** With what it encloses on all sides. */
    public function filled(): self
    {
        $lines = $this->lines;
        // the rim of nothing hangs together, and with it all that is open
        Filling::from($lines, $this->wide, $this->deep, 0, 0, self::OUT, self::TAKEN);

        return $this->with(array_values(array_map(static fn (string $line): string => strtr($line, [self::OUT => self::IN, self::TAKEN => self::OUT]), $lines)));
    }

    /**
     * Its surface smoothed: a voxel belongs to it when at least half of the 27 round it and itself do; a number of times.
     *
     * (A majority filter; the sums are worked out along one axis after the other.)
     */
    public function smoothed(int $times = 1): self
    {
        $lines = $this->lines;
        for (; $times > 0; $times--) {
            $next = [];
            // sums of three walls of it at a time: those of all of it would take sixteen times its room
            $sums = [];
            for ($x = 0; $x < $this->wide; $x++) {
                for ($wall = max(0, $x - 1); $wall <= min($this->wide - 1, $x + 1); $wall++) {
                    $sums[$wall] ??= array_map(self::along(...), array_slice($lines, $wall * $this->deep, $this->deep));
                }
                unset($sums[$x - 2]);
                for ($z = 0; $z < $this->deep; $z++) {
                    $at = $x * $this->deep + $z;
                    $near = [];
                    for ($dx = max(0, $x - 1); $dx <= min($this->wide - 1, $x + 1); $dx++) {
                        for ($dz = max(0, $z - 1); $dz <= min($this->deep - 1, $z + 1); $dz++) {
                            $line = $sums[$dx][$dz];
                            if ($line !== null) {
                                $near[] = $line;
                            }
                        }
                    }
                    $next[$at] = $near === [] ? $lines[$at] : self::majority($near, $this->long);
                }
            }
            $lines = $next;
        }

        return $this->with(array_values($lines));
    }

    /** @return ?list<int> how many of each voxel and the two beside it belong; null for a line of nothing */
    private static function along(string $line): ?array
    {
        $length = strlen($line);
        if (strspn($line, self::OUT) === $length) {
            return null;
        }
        $sums = [];
        [$before, $here] = [0, ord($line[0])];
        for ($y = 0; $y < $length; $y++) {
            $after = $y + 1 < $length ? ord($line[$y + 1]) : 0;
            $sums[] = $before + $here + $after;
            [$before, $here] = [$here, $after];
        }

        return $sums;
    }

    /** @param  non-empty-list<list<int>>  $near */
    private static function majority(array $near, int $length): string
    {
        $line = '';
        for ($y = 0; $y < $length; $y++) {
            $sum = 0;
            foreach ($near as $sums) {
                $sum += $sums[$y];
            }
            $line .= $sum >= 14 ? self::IN : self::OUT;
        }

        return $line;
    }

    /** @param  list<string>  $lines */
    private function with(array $lines): self
    {
        return new self($this->width, $this->height, $lines, $this->corner, $this->wide, $this->long, $this->deep);
    }

    /** @return list<int> from, to (exclusive) … of a byte in a line */
    public static function runs(string $line, string $byte): array
    {
        $runs = [];
        for ($y = strcspn($line, $byte), $length = strlen($line); $y < $length; $y += strcspn($line, $byte, $y)) {
            $end = $y + strspn($line, $byte, $y);
            array_push($runs, $y, $end);
            $y = $end;
        }

        return $runs;
    }
}
