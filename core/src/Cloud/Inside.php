<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Geometry\Cuboid;

/** How many points of a frame lie in cuboids. Each point is only held against those whose ground it is over. */
final readonly class Inside
{
    /** Metres a cell is wide. */
    private const CELL = 2.0;

    /** A cuboid over more cells than this is held against every point. */
    private const MOST_CELLS = 2_500;

    /** @var array<int|string, non-empty-list<int>> by cell */
    private array $over;

    /** @var list<int> */
    private array $everywhere;

    /** @var list<array{float, float, float, float, float, float, float, float}> of each: centre, cosine and sine of its heading, half its sides */
    private array $of;

    /** @param  list<Cuboid>  $cuboids */
    public function __construct(array $cuboids)
    {
        $over = $everywhere = $of = [];
        foreach ($cuboids as $n => $cuboid) {
            [$cos, $sin] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
            [$l, $w, $h] = [$cuboid->size[0] / 2, $cuboid->size[1] / 2, $cuboid->size[2] / 2];
            $of[] = [$cuboid->center[0], $cuboid->center[1], $cuboid->center[2], $cos, $sin, $l + 1e-9, $w + 1e-9, $h + 1e-9];
            [$dx, $dy] = [abs($l * $cos) + abs($w * $sin), abs($l * $sin) + abs($w * $cos)];
            [$x0, $x1] = [(int) floor(($cuboid->center[0] - $dx) / self::CELL), (int) floor(($cuboid->center[0] + $dx) / self::CELL)];
            [$y0, $y1] = [(int) floor(($cuboid->center[1] - $dy) / self::CELL), (int) floor(($cuboid->center[1] + $dy) / self::CELL)];
            if (($x1 - $x0 + 1) * ($y1 - $y0 + 1) > self::MOST_CELLS) {
                $everywhere[] = $n;

                continue;
            }
            for ($x = $x0; $x <= $x1; $x++) {
                for ($y = $y0; $y <= $y1; $y++) {
                    $over[$x << 30 ^ $y][] = $n;
                }
            }
        }
        [$this->over, $this->everywhere, $this->of] = [$over, $everywhere, $of];
    }

    /**
     * Of each of some points in which cuboid it lies, in the smallest where they overlap.
     *
     * @return list<?int>
     */
    public function which(Points $points): array
    {
        $which = [];
        foreach ($points->x as $i => $x) {
            [$y, $z] = [$points->y[$i], $points->z[$i]];
            [$best, $least] = [null, INF];
            if (is_finite($x) && is_finite($y) && is_finite($z)) {
                $cell = (int) floor($x / self::CELL) << 30 ^ (int) floor($y / self::CELL);
                foreach ([...$this->over[$cell] ?? [], ...$this->everywhere] as $n) {
                    [$cx, $cy, $cz, $cos, $sin, $l, $w, $h] = $this->of[$n];
                    [$dx, $dy, $dz] = [$x - $cx, $y - $cy, $z - $cz];
                    if ($l * $w * $h < $least && abs($dz) <= $h && abs($dx * $cos + $dy * $sin) <= $l && abs($dy * $cos - $dx * $sin) <= $w) {
                        [$best, $least] = [$n, $l * $w * $h];
                    }
                }
            }
            $which[] = $best;
        }

        return $which;
    }

    /** @return list<int> of each cuboid the points in it or on its faces */
    public function count(Frame $frame): array
    {
        $counts = array_fill(0, count($this->of), 0);
        [$over, $everywhere, $of] = [$this->over, $this->everywhere, $this->of];
        [$ox, $oy, $oz] = $frame->origin;
        $none = $everywhere === [];
        foreach ($frame->records() as [$floats, , $wide]) {
            for ($i = 1, $end = count($floats); $i <= $end; $i += $wide) {
                $x = $floats[$i] + $ox;
                $y = $floats[$i + 1] + $oy;
                $cell = (int) floor($x / self::CELL) << 30 ^ (int) floor($y / self::CELL);
                if ($none && ! isset($over[$cell])) {
                    continue;
                }
                $z = $floats[$i + 2] + $oz;
                foreach ($none ? $over[$cell] : [...$over[$cell] ?? [], ...$everywhere] as $n) {
                    [$cx, $cy, $cz, $cos, $sin, $l, $w, $h] = $of[$n];
                    $dz = $z - $cz;
                    if ($dz > $h || $dz < -$h) {
                        continue;
                    }
                    $dx = $x - $cx;
                    $dy = $y - $cy;
                    if (abs($dx * $cos + $dy * $sin) <= $l && abs($dy * $cos - $dx * $sin) <= $w) {
                        $counts[$n]++;
                    }
                }
            }
        }

        return array_values($counts);
    }
}
