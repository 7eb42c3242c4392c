<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\InvalidValue;

/**
 * A random forest over features of 8 bits (Breiman, Random Forests, 2001): each tree is grown from a draw with replacement, each split is the
 * best of a few features by the Gini impurity, and a leaf says in which shares the classes came to it.
 */
final class Forest
{
    /** Samples a split is chosen by where a node has more; all of them go on to its children. */
    private const LOOKED_AT = 40_000;

    private const DEEPEST = 18;

    private const LEAF = 255;

    private const SHARES = 65535;

    /**
     * @param  int  $classes  number of classes
     * @param  list<list<int>>  $features  of each tree, of each node: the feature it asks for; LEAF: it is a leaf
     * @param  list<list<int>>  $thresholds  a value above it leads to the second child; of a leaf: which of the shares are its own
     * @param  list<list<int>>  $children  the first child; the second is the next one
     * @param  array<int, array<int, array<int, float>>>  $shares  of each tree, of each leaf: of each class, in all 1
     */
    private function __construct(public readonly int $classes, public readonly int $count, private array $features, private array $thresholds, private array $children, private array $shares)
    {
    }

    /**
     * @param  array<int, string>  $columns  of each feature a byte a sample
     * @param  string  $labels  a byte a sample: its class
     * @param  int  $classes  number of classes, 2 to 250
     * @param  array<int, float>  $weights  what a sample of each class counts in a leaf: how much rarer it was drawn than it is
     * @param  int  $least  samples of a leaf
     * @param  null|callable(float): void  $progress  told from 0 to 1
     *
     * @throws InvalidValue
     */
    public static function grow(array $columns, string $labels, int $classes, array $weights, int $trees = 16, int $least = 6, int $seed = 1, ?callable $progress = null): self
    {
        $n = strlen($labels);
        $count = count($columns);
        if ($n < 2 || $columns === [] || $count >= self::LEAF || $classes < 2 || $classes > 250 || count($weights) !== $classes || $trees < 1) {
            throw InvalidValue::at('samples', "{$n} samples of {$count} features in {$classes} classes", 'samples of 2 to 250 classes, 1 to 254 features, a weight a class, a tree or more');
        }
        foreach ($columns as $i => $column) {
            if (strlen($column) !== $n) {
                throw InvalidValue::at("columns.{$i}", strlen($column), "{$n} bytes");
            }
        }
        $random = new Randomizer(new Mt19937($seed));
        $forest = new self($classes, $count, [], [], [], []);
        for ($tree = 0; $tree < $trees; $tree++) {
            $drawn = [];
            for ($i = 0; $i < $n; $i++) {
                $drawn[] = $random->getInt(0, $n - 1);
            }
            $forest->tree($columns, $labels, $drawn, $weights, $least, $random);
            if ($progress !== null) {
                $progress(($tree + 1) / $trees);
            }
        }

        return $forest;
    }

    /**
     * @param  non-empty-array<int, string>  $columns
     * @param  list<int>  $drawn
     * @param  array<int, float>  $weights
     */
    private function tree(array $columns, string $labels, array $drawn, array $weights, int $least, Randomizer $random): void
    {
        $classes = $this->classes;
        $tried = max(1, (int) round(sqrt($this->count)));
        $features = $thresholds = $children = [0];
        $shares = [];
        /** @var list<array{int, list<int>, int}> $open node, its samples, its depth */
        $open = [[0, $drawn, 0]];
        while ($open !== []) {
            [$node, $samples, $depth] = array_pop($open);
            $n = count($samples);
            $counts = array_fill(0, $classes, 0);
            foreach ($samples as $s) {
                $counts[ord($labels[$s])]++;
            }
            $split = null;
            if ($n >= 2 * $least && $depth < self::DEEPEST && ! in_array($n, $counts, true)) {
                $looked = $samples;
                if ($n > self::LOOKED_AT) {
                    $looked = [];
                    // evenly spread over samples whose order is that of the draw
                    for ($i = 0; $i < self::LOOKED_AT; $i++) {
                        $looked[] = $samples[intdiv($i * $n, self::LOOKED_AT)];
                    }
                }
                $split = self::split($columns, $labels, $looked, $classes, $least * count($looked) / $n, $random->pickArrayKeys($columns, $tried));
            }
            if ($split === null) {
                $sum = 0.0;
                foreach ($counts as $class => $many) {
                    $sum += $many * $weights[$class];
                }
                $own = [];
                foreach ($counts as $class => $many) {
                    // as exact as it is packed
                    $own[] = round(self::SHARES * ($sum > 0 ? $many * $weights[$class] / $sum : 1 / $classes)) / self::SHARES;
                }
                $features[$node] = self::LEAF;
                $thresholds[$node] = count($shares);
                $children[$node] = 0;
                $shares[] = $own;

                continue;
            }
            [$feature, $threshold] = $split;
            $column = $columns[$feature];
            $low = $high = [];
            foreach ($samples as $s) {
                if (ord($column[$s]) > $threshold) {
                    $high[] = $s;
                } else {
                    $low[] = $s;
                }
            }
            $child = count($features);
            $features[$node] = $feature;
            $thresholds[$node] = $threshold;
            $children[$node] = $child;
            array_push($features, 0, 0);
            array_push($thresholds, 0, 0);
            array_push($children, 0, 0);
            $open[] = [$child, $low, $depth + 1];
            $open[] = [$child + 1, $high, $depth + 1];
        }
        $this->features[] = array_values($features);
        $this->thresholds[] = array_values($thresholds);
        $this->children[] = array_values($children);
        $this->shares[] = $shares;
    }

    /**
     * The best of some features and where it splits.
     *
     * @param  array<int, string>  $columns
     * @param  list<int>  $samples
     * @param  array<int, int>  $features
     * @return array{int, int}|null
     */
    private static function split(array $columns, string $labels, array $samples, int $classes, float $least, array $features): ?array
    {
        $n = count($samples);
        $best = null;
        $most = -1.0;
        foreach ($features as $feature) {
            $column = $columns[$feature];
            $bins = [];
            $low = 255;
            $high = 0;
            foreach ($samples as $s) {
                $value = ord($column[$s]);
                $bin = $value * $classes + ord($labels[$s]);
                $bins[$bin] = ($bins[$bin] ?? 0) + 1;
                if ($value < $low) {
                    $low = $value;
                }
                if ($value > $high) {
                    $high = $value;
                }
            }
            if ($low === $high) {
                continue;
            }
            $all = array_fill(0, $classes, 0);
            foreach ($bins as $bin => $many) {
                $all[$bin % $classes] += $many;
            }
            $left = array_fill(0, $classes, 0);
            $before = 0;
            for ($value = $low; $value < $high; $value++) {
                $here = 0;
                for ($class = 0, $bin = $value * $classes; $class < $classes; $class++, $bin++) {
                    if (isset($bins[$bin])) {
                        $left[$class] += $bins[$bin];
                        $here += $bins[$bin];
                    }
                }
                $before += $here;
                if ($here === 0 || $before < $least || $n - $before < $least) {
                    continue;
                }
                // the purer both sides, the larger the sum of squares over their sizes
                $a = $b = 0.0;
                foreach ($left as $class => $many) {
                    $a += $many * $many;
                    $rest = $all[$class] - $many;
                    $b += $rest * $rest;
                }
                $pure = $a / $before + $b / ($n - $before);
                if ($pure > $most) {
                    $most = $pure;
                    $best = [$feature, $value];
                }
            }
        }

        return $best;
    }

    /**
     * How likely each sample is of each class but the first.
     *
     * @param  array<int, string>  $columns  of each feature a byte a sample
     * @param  ?list<int>  $only  samples that are looked at; the others are of no class. null: all
     * @return array<int, array<int, float>> of class 1, 2, …: a number a sample, 0 to 1
     *
     * @throws InvalidValue
     */
    public function likely(array $columns, ?array $only = null): array
    {
        if (count($columns) !== $this->count) {
            throw InvalidValue::at('columns', count($columns), "{$this->count} features");
        }
        $n = strlen($columns[0]);
        $trees = count($this->features);
        $sums = array_fill(1, $this->classes - 1, array_fill(0, $n, 0.0));
        // what a quarter of the trees are sure is nothing the others need not look at
        $first = max(1, intdiv($trees, 4));
        $todo = $only ?? ($n === 0 ? [] : range(0, $n - 1));
        for ($tree = 0; $tree < $trees; $tree++) {
            if ($tree === $first && $first < $trees) {
                $todo = $this->doubtful($sums, $todo, $first);
            }
            $features = $this->features[$tree];
            $thresholds = $this->thresholds[$tree];
            $children = $this->children[$tree];
            if ($this->classes === 2) {
                $own = array_column($this->shares[$tree], 1);
                $sum = $sums[1];
                $sums[1] = [];
                foreach ($todo as $i) {
                    $node = 0;
                    while (($feature = $features[$node]) !== self::LEAF) {
                        $node = ord($columns[$feature][$i]) > $thresholds[$node] ? $children[$node] + 1 : $children[$node];
                    }
                    $sum[$i] += $own[$thresholds[$node]];
                }
                $sums[1] = $sum;

                continue;
            }
            // most leaves say nothing but ground
            $shares = array_map(static function (array $own): array {
                unset($own[0]);

                return array_filter($own, static fn (float $share): bool => $share > 0);
            }, $this->shares[$tree]);
            foreach ($todo as $i) {
                $node = 0;
                while (($feature = $features[$node]) !== self::LEAF) {
                    $node = ord($columns[$feature][$i]) > $thresholds[$node] ? $children[$node] + 1 : $children[$node];
                }
                foreach ($shares[$thresholds[$node]] as $class => $share) {
                    $sums[$class][$i] += $share;
                }
            }
        }
        $likely = [];
        foreach ($sums as $sum) {
            $likely[] = array_map(static fn (float $s): float => $s / $trees, $sum);
        }

        return $likely;
    }

    /**
     * @param  array<int, array<int, float>>  $sums
     * @param  list<int>  $todo
     * @return list<int>
     */
    private function doubtful(array $sums, array $todo, int $trees): array
    {
        $left = [];
        foreach ($todo as $i) {
            $sum = 0.0;
            foreach ($sums as $of) {
                $sum += $of[$i];
            }
            if ($sum > 0.02 * $trees) {
                $left[] = $i;
            }
        }

        return $left;
    }

    /** The trees of both. @throws InvalidValue when they are of other features or classes */
    public function with(self $other): self
    {
        if ($other->count !== $this->count || $other->classes !== $this->classes) {
            throw InvalidValue::at('forest', "{$other->count} features, {$other->classes} classes", "{$this->count} and {$this->classes}");
        }

        return new self($this->classes, $this->count, [...$this->features, ...$other->features], [...$this->thresholds, ...$other->thresholds], [...$this->children, ...$other->children], [...$this->shares, ...$other->shares]);
    }

    /** Every so many-th of its trees, for what is only looked at roughly. */
    public function every(int $step): self
    {
        $features = $thresholds = $children = $shares = [];
        for ($tree = 0; $tree < count($this->features); $tree += max(1, $step)) {
            $features[] = $this->features[$tree];
            $thresholds[] = $this->thresholds[$tree];
            $children[] = $this->children[$tree];
            $shares[] = $this->shares[$tree];
        }

        return new self($this->classes, $this->count, $features, $thresholds, $children, $shares);
    }

    public function pack(): string
    {
        $packed = pack('vvv', $this->classes, $this->count, count($this->features));
        foreach ($this->features as $tree => $features) {
            $packed .= pack('VV', count($features), count($this->shares[$tree])).pack('C*', ...$features).pack('V*', ...$this->thresholds[$tree]).pack('V*', ...$this->children[$tree]);
            $packed .= pack('v*', ...array_map(static fn (float $share): int => (int) round(self::SHARES * $share), array_merge(...$this->shares[$tree])));
        }

        return $packed;
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $read = new Packed($packed);
        [$classes, $count, $trees] = $read->ints('v', 3);
        $forest = new self($classes, $count, [], [], [], []);
        for ($tree = 0; $tree < $trees; $tree++) {
            [$nodes, $leaves] = $read->ints('V', 2);
            $features = $read->ints('C', $nodes);
            $thresholds = $read->ints('V', $nodes);
            $children = $read->ints('V', $nodes);
            foreach ($features as $node => $feature) {
                if ($feature === self::LEAF ? $thresholds[$node] >= $leaves : $feature >= $count || $children[$node] <= $node || $nodes <= $children[$node] + 1) {
                    throw InvalidValue::at('forest', "node {$node}", 'a tree whose branches end');
                }
            }
            $forest->features[] = $features;
            $forest->thresholds[] = $thresholds;
            $forest->children[] = $children;
            $forest->shares[] = $leaves === 0 ? [] : array_chunk(array_map(static fn (int $share): float => $share / self::SHARES, $read->ints('v', $leaves * $classes)), max(1, $classes));
        }
        $read->end();

        return $forest;
    }
}
