<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/**
 * Lays places seen from above onto others: first the shift at which the most of them lie on one, then nearer by least squares, with the worst left
 * out each time.
 *
 * Method: D. Chetverikov, D. Stepanov, P. Krsek, "Robust Euclidean alignment of 3D point sets: the trimmed iterative closest point algorithm",
 * Image and Vision Computing 23 (2005) 299–309, in the plane.
 */
final class Align
{
    private const ROUNDS = 25;

    /** @var array<int, list<int>> places by cell */
    private array $cells = [];

    /** @var array<int, true> */
    private array $wide = [];

    /**
     * @param  list<float>  $x  metres, of the places others are laid onto
     * @param  list<float>  $y
     * @param  float  $cell  metres
     */
    public function __construct(private readonly array $x, private readonly array $y, private readonly float $cell)
    {
        foreach ($x as $i => $at) {
            $this->cells[self::key((int) floor($at / $cell), (int) floor($y[$i] / $cell))][] = $i;
        }
    }

    private static function key(int $column, int $row): int
    {
        return $column << 30 ^ $row;
    }

    /**
     * The shift, after a motion, at which the most places lie on one, of those not farther than a reach; nearer ones first.
     *
     * @param  list<float>  $x
     * @param  list<float>  $y
     * @param  list<float>  $turns  degrees to try besides
     * @param  float  $doubt  the share of places that must lie better for each metre farther away
     */
    public function shifted(array $x, array $y, Motion $guess, float $reach, array $turns, float $doubt): Motion
    {
        $best = [-INF, $guess];
        $steps = (int) ceil($reach / $this->cell);
        foreach ($turns as $turn) {
            $cells = [];
            [$mx, $my] = self::middle($x, $y);
            // turned about their own middle
            $turned = (new Motion(0.0, -$mx, -$my))->then(new Motion($turn, $mx, $my))->then($guess);
            foreach ($x as $i => $at) {
                [$px, $py] = $turned->place($at, $y[$i]);
                $cells[self::key((int) floor($px / $this->cell), (int) floor($py / $this->cell))] ??= [(int) floor($px / $this->cell), (int) floor($py / $this->cell)];
            }
            $all = max(1, count($cells));
            for ($dx = -$steps; $dx <= $steps; $dx++) {
                for ($dy = -$steps; $dy <= $steps; $dy++) {
                    $on = 0;
                    foreach ($cells as [$column, $row]) {
                        $on += isset($this->cells[($column + $dx) << 30 ^ ($row + $dy)]) ? 1 : 0;
                    }
                    $fit = $on / $all - $doubt * hypot($dx, $dy) * $this->cell - $doubt * abs($turn) / 40;
                    if ($fit > $best[0]) {
                        $best = [$fit, new Motion($turned->turn, $turned->x + $dx * $this->cell, $turned->y + $dy * $this->cell, $guess->z)];
                    }
                }
            }
        }

        return $best[1];
    }

    /** @return array<int, true> the cells with a place in them or beside them */
    private function wide(): array
    {
        if ($this->wide === []) {
            foreach ($this->cells as $cell => $places) {
                [$column, $row] = [(int) floor($this->x[$places[0]] / $this->cell), (int) floor($this->y[$places[0]] / $this->cell)];
                for ($i = $column - 1; $i <= $column + 1; $i++) {
                    for ($j = $row - 1; $j <= $row + 1; $j++) {
                        $this->wide[self::key($i, $j)] = true;
                    }
                }
            }
        }

        return $this->wide;
    }

    /**
     * How well a stencil lies on the places, cell by cell: what it has and finds in a cell counts for it, and a little less what
     * it finds beside it; what is there where it has nothing
     * counts against it by half.
     *
     * @param  list<array{float, float, bool}>  $stencil  the middle of each cell, and whether something is there
     * @return float at most 1
     */
    public function stencilled(array $stencil, Motion $motion): float
    {
        $wide = $this->wide();
        $sum = 0.0;
        $all = 0;
        foreach ($stencil as [$x, $y, $is]) {
            [$px, $py] = $motion->place($x, $y);
            $cell = self::key((int) floor($px / $this->cell), (int) floor($py / $this->cell));
            if ($is) {
                $all++;
                $sum += isset($this->cells[$cell]) ? 1.0 : (isset($wide[$cell]) ? 0.7 : 0.0);
            } elseif (isset($this->cells[$cell])) {
                $sum -= 0.5;
            }
        }

        return $all === 0 ? 0.0 : $sum / $all;
    }

    /**
     * @param  list<float>  $x
     * @param  list<float>  $y
     * @param  bool  $turns  whether they may be turned too
     * @param  float  $share  of them that is believed to have a partner
     */
    public function nearer(array $x, array $y, Motion $guess, bool $turns, float $share): Motion
    {
        $now = $guess;
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $pairs = [];
            foreach ($x as $i => $at) {
                [$px, $py] = $now->place($at, $y[$i]);
                [$j, $far] = $this->nearest($px, $py);
                if ($j !== null) {
                    $pairs[] = [$far, $px, $py, $this->x[$j], $this->y[$j]];
                }
            }
            if (count($pairs) < 5) {
                return $now;
            }
            usort($pairs, static fn (array $a, array $b): int => $a[0] <=> $b[0]);
            $step = self::least(array_slice($pairs, 0, max(5, (int) ($share * count($x)))), $turns);
            $now = $now->then($step);
            if (abs($step->turn) < 0.01 && hypot($step->x, $step->y) < 0.0005) {
                break;
            }
        }

        return $now;
    }

    /**
     * The share of places that lie on one, within some metres.
     *
     * @param  list<float>  $x
     * @param  list<float>  $y
     */
    public function share(array $x, array $y, Motion $motion, float $within): float
    {
        $on = 0;
        foreach ($x as $i => $at) {
            [$px, $py] = $motion->place($at, $y[$i]);
            $on += $this->nearest($px, $py)[1] <= $within ? 1 : 0;
        }

        return $x === [] ? 0.0 : $on / count($x);
    }

    /** @return array{?int, float} the nearest place among those of the cells around; null: none is */
    private function nearest(float $x, float $y): array
    {
        [$column, $row] = [(int) floor($x / $this->cell), (int) floor($y / $this->cell)];
        [$best, $least] = [null, $this->cell * $this->cell];
        for ($i = $column - 1; $i <= $column + 1; $i++) {
            for ($j = $row - 1; $j <= $row + 1; $j++) {
                foreach ($this->cells[$i << 30 ^ $j] ?? [] as $n) {
                    $far = ($this->x[$n] - $x) ** 2 + ($this->y[$n] - $y) ** 2;
                    if ($far < $least) {
                        [$best, $least] = [$n, $far];
                    }
                }
            }
        }

        return [$best, $best === null ? INF : sqrt($least)];
    }

    /**
     * The motion that lays the first of each pair onto the second, by least squares.
     *
     * @param  non-empty-list<array{float, float, float, float, float}>  $pairs
     */
    private static function least(array $pairs, bool $turns): Motion
    {
        $count = count($pairs);
        [$px, $py] = self::middle(array_column($pairs, 1), array_column($pairs, 2));
        [$qx, $qy] = self::middle(array_column($pairs, 3), array_column($pairs, 4));
        $dot = $cross = 0.0;
        foreach ($turns ? $pairs : [] as [, $ax, $ay, $bx, $by]) {
            $dot += ($ax - $px) * ($bx - $qx) + ($ay - $py) * ($by - $qy);
            $cross += ($ax - $px) * ($by - $qy) - ($ay - $py) * ($bx - $qx);
        }
        $turn = $turns && $count > 0 ? rad2deg(atan2($cross, $dot)) : 0.0;

        return (new Motion(0.0, -$px, -$py))->then(new Motion($turn, $qx, $qy));
    }

    /**
     * @param  array<int, float>  $x
     * @param  array<int, float>  $y
     * @return array{float, float}
     */
    private static function middle(array $x, array $y): array
    {
        $count = max(1, count($x));

        return [array_sum($x) / $count, array_sum($y) / $count];
    }
}
