<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

/**
 * The cheapest division of pixels into object and ground, as the minimum cut of a graph (Y. Boykov and V. Kolmogorov, "An Experimental
 * Comparison of Min-Cut/Max-Flow Algorithms for Energy Minimization in Vision", IEEE TPAMI 26, 2004). Each node has up to eight neighbours,
 * in slots of which 2k and 2k+1 are opposite to each other. What flows is kept, so that after a change of what single pixels cost only the
 * difference has to be found (P. Kohli and P. Torr, "Dynamic Graph Cuts", IEEE TPAMI 29, 2007).
 *
 * Costs are whole numbers, so that nothing is left over by rounding.
 */
final class MinCut
{
    public const SLOTS = 8;

    private const FREE = 0;

    private const OBJECT = 1;

    private const GROUND = 2;

    private const AT_END = 8;

    private const ORPHAN = 9;

    private const NONE = -1;

    /** @var array<int, int> what more it costs to call a node ground than to call it object, less what flows through it */
    private array $excess;

    /**
     * @param  array<int, int>  $neighbours  node in slot d of node i at `8 * i + d`; -1: none
     * @param  array<int, int>  $cost  what it costs to part them, 0 or more, the same in both directions
     * @param  array<int, int>  $preference  of each node: above 0 for the object, below for the ground
     */
    public function __construct(private array $neighbours, private array $cost, array $preference)
    {
        $this->excess = $preference;
    }

    /**
     * Changes what nodes prefer.
     *
     * @param  array<int, int>  $by  of each node
     */
    public function prefer(array $by): void
    {
        $excess = $this->excess;
        $this->excess = [];
        foreach ($by as $i => $more) {
            $excess[$i] += $more;
        }
        $this->excess = $excess;
    }

    /**
     * Of all cheapest divisions the one with the smallest object.
     *
     * @return string a byte for each node: "\1" object, "\0" ground
     */
    public function solve(): string
    {
        // into locals and back: a property that is written in a loop costs twice as much
        $neighbours = $this->neighbours;
        $cap = $this->cost;
        $this->cost = [];
        $excess = $this->excess;
        $this->excess = [];
        $n = count($excess);
        $tree = array_fill(0, $n, self::FREE);
        $parent = array_fill(0, $n, self::NONE);
        $stamp = array_fill(0, $n, 0);
        $distance = array_fill(0, $n, 0);
        $queued = array_fill(0, $n, false);
        $queue = [];
        $head = 0;
        for ($i = 0; $i < $n; $i++) {
            if ($excess[$i] !== 0) {
                $tree[$i] = $excess[$i] > 0 ? self::OBJECT : self::GROUND;
                $parent[$i] = self::AT_END;
                $distance[$i] = 1;
                $queue[] = $i;
                $queued[$i] = true;
            }
        }
        $time = 0;
        $orphans = [];
        while ($head < count($queue)) {
            $i = $queue[$head];
            $mine = $tree[$i];
            $met = self::NONE;
            if ($mine !== self::FREE) {
                $base = $i << 3;
                for ($d = 0; $d < self::SLOTS; $d++) {
                    $j = $neighbours[$base + $d];
                    if ($j < 0) {
                        continue;
                    }
                    // the object's tree grows where more can flow out of it, the ground's where more can flow in
                    if (($mine === self::OBJECT ? $cap[$base + $d] : $cap[($j << 3) + ($d ^ 1)]) <= 0) {
                        continue;
                    }
                    $theirs = $tree[$j];
                    if ($theirs === self::FREE) {
                        $tree[$j] = $mine;
                        $parent[$j] = $d ^ 1;
                        $stamp[$j] = $stamp[$i];
                        $distance[$j] = $distance[$i] + 1;
                        if (! $queued[$j]) {
                            $queue[] = $j;
                            $queued[$j] = true;
                        }
                    } elseif ($theirs !== $mine) {
                        $met = $d;
                        break;
                    } elseif ($stamp[$j] <= $stamp[$i] && $distance[$j] > $distance[$i]) {
                        $parent[$j] = $d ^ 1;
                        $stamp[$j] = $stamp[$i];
                        $distance[$j] = $distance[$i] + 1;
                    }
                }
            }
            if ($met === self::NONE) {
                $queued[$i] = false;
                $head++;
                if ($head > 65_536 && $head * 2 > count($queue)) {
                    $queue = array_slice($queue, $head);
                    $head = 0;
                }

                continue;
            }
            $time++;
            // how much may flow along the path on which the trees have met
            [$from, $to, $d] = $mine === self::OBJECT ? [$i, $neighbours[($i << 3) + $met], $met] : [$neighbours[($i << 3) + $met], $i, $met ^ 1];
            $flow = $cap[($from << 3) + $d];
            $k = $from;
            while (($p = $parent[$k]) !== self::AT_END) {
                $k = $neighbours[($k << 3) + $p];
                $c = $cap[($k << 3) + ($p ^ 1)];
                if ($c < $flow) {
                    $flow = $c;
                }
            }
            if ($excess[$k] < $flow) {
                $flow = $excess[$k];
            }
            $k = $to;
            while (($p = $parent[$k]) !== self::AT_END) {
                $c = $cap[($k << 3) + $p];
                if ($c < $flow) {
                    $flow = $c;
                }
                $k = $neighbours[($k << 3) + $p];
            }
            if (-$excess[$k] < $flow) {
                $flow = -$excess[$k];
            }
            // it flows; who can't be reached any more is an orphan
            $cap[($from << 3) + $d] -= $flow;
            $cap[($to << 3) + ($d ^ 1)] += $flow;
            $k = $from;
            while (($p = $parent[$k]) !== self::AT_END) {
                $up = $neighbours[($k << 3) + $p];
                $cap[($k << 3) + $p] += $flow;
                if (($cap[($up << 3) + ($p ^ 1)] -= $flow) === 0) {
                    $parent[$k] = self::ORPHAN;
                    $orphans[] = $k;
                }
                $k = $up;
            }
            if (($excess[$k] -= $flow) === 0) {
                $parent[$k] = self::ORPHAN;
                $orphans[] = $k;
            }
            $k = $to;
            while (($p = $parent[$k]) !== self::AT_END) {
                $up = $neighbours[($k << 3) + $p];
                $cap[($up << 3) + ($p ^ 1)] += $flow;
                if (($cap[($k << 3) + $p] -= $flow) === 0) {
                    $parent[$k] = self::ORPHAN;
                    $orphans[] = $k;
                }
                $k = $up;
            }
            if (($excess[$k] += $flow) === 0) {
                $parent[$k] = self::ORPHAN;
                $orphans[] = $k;
            }
            // each looks for a new parent in its tree, or leaves it
            for ($at = 0; $at < count($orphans); $at++) {
                $k = $orphans[$at];
                $mineK = $tree[$k];
                $base = $k << 3;
                $best = self::NONE;
                $least = PHP_INT_MAX;
                for ($d = 0; $d < self::SLOTS; $d++) {
                    $j = $neighbours[$base + $d];
                    if ($j < 0 || $tree[$j] !== $mineK || ($mineK === self::OBJECT ? $cap[($j << 3) + ($d ^ 1)] : $cap[$base + $d]) <= 0) {
                        continue;
                    }
                    // whether that one still hangs on the end, and how far from it
                    $far = 0;
                    for ($u = $j; true; $u = $neighbours[($u << 3) + $p]) {
                        if ($stamp[$u] === $time) {
                            $far += $distance[$u];
                            break;
                        }
                        $p = $parent[$u];
                        $far++;
                        if ($p === self::AT_END) {
                            $stamp[$u] = $time;
                            $distance[$u] = 1;
                            break;
                        }
                        if ($p === self::ORPHAN || $p === self::NONE) {
                            $far = PHP_INT_MAX;
                            break;
                        }
                    }
                    if ($far >= PHP_INT_MAX) {
                        continue;
                    }
                    if ($far < $least) {
                        $least = $far;
                        $best = $d;
                    }
                    for ($u = $j; $stamp[$u] !== $time; $u = $neighbours[($u << 3) + $parent[$u]]) {
                        $stamp[$u] = $time;
                        $distance[$u] = $far--;
                    }
                }
                if ($best !== self::NONE) {
                    $parent[$k] = $best;
                    $stamp[$k] = $time;
                    $distance[$k] = $least + 1;

                    continue;
                }
                for ($d = 0; $d < self::SLOTS; $d++) {
                    $j = $neighbours[$base + $d];
                    if ($j < 0 || $tree[$j] !== $mineK) {
                        continue;
                    }
                    if (! $queued[$j] && ($mineK === self::OBJECT ? $cap[($j << 3) + ($d ^ 1)] : $cap[$base + $d]) > 0) {
                        $queue[] = $j;
                        $queued[$j] = true;
                    }
                    if ($parent[$j] === ($d ^ 1)) {
                        $parent[$j] = self::ORPHAN;
                        $orphans[] = $j;
                    }
                }
                $tree[$k] = self::FREE;
                $parent[$k] = self::NONE;
            }
            $orphans = [];
        }
        $this->cost = $cap;
        $this->excess = $excess;
        $labels = '';
        for ($i = 0; $i < $n; $i++) {
            $labels .= $tree[$i] === self::OBJECT ? "\1" : "\0";
        }

        return $labels;
    }

    /** @return array{string, string, string} */
    public function __serialize(): array
    {
        return [pack('l*', ...$this->neighbours), pack('q*', ...$this->cost), pack('q*', ...$this->excess)];
    }

    /** @param  array{string, string, string}  $data */
    public function __unserialize(array $data): void
    {
        [$this->neighbours, $this->cost, $this->excess] = [self::unpack('l*', $data[0]), self::unpack('q*', $data[1]), self::unpack('q*', $data[2])];
    }

    /** @return list<int> */
    private static function unpack(string $format, string $bytes): array
    {
        /** @var list<int> $numbers */
        $numbers = array_values(unpack($format, $bytes) ?: []);

        return $numbers;
    }
}
