<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;

/**
 * Places the nodes of a skeleton by what accepted ones look like: from the mean shape, laid into a box or onto two nodes, a cascade of linear
 * regressions moves the nodes by what the picture shows round each of them in the skeleton's own turned frame (after Xiong and De la Torre,
 * Supervised Descent Method and its Applications to Face Alignment, 2013). Where the direction is not known many are tried, and the one is
 * kept whose surroundings look most like those of an accepted skeleton.
 */
final class Poses
{
    /** Complete skeletons it needs at least. */
    public const LEAST = 12;

    private const STAGES = 5;

    /** Directions that are tried in a box. */
    private const DIRECTIONS = 16;

    /** How many of them are gone on with. */
    private const KEPT = 6;

    /** Numbers that are said of all surroundings together. */
    private const SAID = 380;

    /** px across the mean shape's box in the picture it is looked at in. */
    private const ACROSS = 96.0;

    /** Of each skeleton so many that are laid wrongly are learned from. */
    private const WRONG = 12;

    /** Skeletons learned from at most; more say little more. */
    private const MOST = 240;

    private const RIDGE = 0.02;

    /** A node is right within this share of the skeleton's size. */
    private const RIGHT = 0.1;

    /**
     * @param  list<string>  $nodes  keys
     * @param  array<int, float>  $mean  x, y of each node; about 0, its box as long as 1 on its longer side
     * @param  array<int, array<int, array<int, float>>>  $stages  of each stage, of each coordinate: a weight for each number said, the last one alone
     * @param  array<int, float>  $judge  weights of what a well placed one looks like
     * @param  array<int, float>  $own  of each node: mean square of how far it is off, in the mean shape's units
     * @param  float  $spread  how much of the squared difference between several tries adds to that
     */
    private function __construct(public readonly array $nodes, private array $mean, private array $stages, private array $judge, private array $own, private float $spread)
    {
    }

    /** Points round a node that are looked at. */
    private static function around(int $nodes): int
    {
        return max(8, min(48, intdiv(self::SAID, $nodes)));
    }

    /**
     * @param  list<Example>  $examples
     * @param  string  $class  whose skeletons are learned from
     * @param  list<string>  $nodes  keys of its nodes
     * @param  list<int>  $flip  of each node the place of its twin
     * @param  null|callable(float): void  $progress  told from 0 to 1; what it throws ends it
     *
     * @throws InvalidValue when there is too little to learn from
     */
    public static function learn(array $examples, string $class, array $nodes, array $flip, int $seed = 1, ?callable $progress = null): self
    {
        $progress ??= static function (float $part): void {
        };
        $random = new Randomizer(new Mt19937($seed));
        $shapes = [];
        foreach ($examples as $e => $example) {
            foreach ($example->things as $thing) {
                $shape = $thing['class'] === $class && $thing['geometry'] instanceof Pose ? self::complete($thing['geometry'], $nodes) : null;
                if ($shape !== null) {
                    $shapes[] = [$e, $shape];
                }
            }
        }
        if (count($shapes) < self::LEAST) {
            throw InvalidValue::at('examples', count($shapes), 'at least '.self::LEAST.' skeletons of this class with every node');
        }
        $shapes = $random->shuffleArray($shapes);
        $shapes = array_slice($shapes, 0, self::MOST);
        $mean = self::mean(array_column($shapes, 1), $flip);
        $model = new self($nodes, $mean, [], [], array_fill(0, count($nodes), 0.0), 1.0);
        // of each: its surroundings, its true shape, and shapes it is laid with at first
        $cases = [];
        foreach ($shapes as $s => [$e, $shape]) {
            $example = $examples[$e];
            foreach ([false, true] as $mirrored) {
                $around = Around::of($example->part, $example->width, $example->height, $shape, $model->reach($shape), self::ACROSS, $mirrored);
                $true = $around->own($shape);
                if ($mirrored) {
                    $true = self::flipped($true, $flip);
                }
                for ($k = 0; $k < self::WRONG / 2; $k++) {
                    $cases[] = ['around' => $around, 'true' => $true, 'now' => $model->misplaced($true, $random, $k === 0 ? 0.3 : 1.0), 'of' => $s];
                }
            }
            $progress(0.2 * ($s + 1) / count($shapes));
        }
        for ($stage = 0; $stage < self::STAGES; $stage++) {
            $said = $wanted = [];
            foreach ($cases as $case) {
                $at = Similar::between($mean, $case['now']);
                $said[] = $model->said($case['around'], $at, $case['now']);
                $back = $at->inverse();
                $wanted[] = array_map(static fn (float $a, float $b): float => $a - $b, $back->of($case['true']), $back->of($case['now']));
            }
            $model->stages[] = Ridge::fit($said, $wanted, self::RIDGE * count($said));
            foreach ($cases as $c => $case) {
                $cases[$c]['now'] = $model->moved($stage, $said[$c], Similar::between($mean, $case['now']), $case['now']);
            }
            $progress(0.2 + 0.6 * ($stage + 1) / self::STAGES);
        }
        $model->learnToJudge($cases, $random);
        $progress(0.9);
        $model->measure($cases);
        $progress(1.0);

        return $model;
    }

    /**
     * What a well placed one looks like, against ones the cascade has laid wrongly.
     *
     * @param  list<array{around: Around, true: array<int, float>, now: array<int, float>, of: int}>  $cases
     */
    private function learnToJudge(array $cases, Randomizer $random): void
    {
        $said = $is = [];
        foreach ($cases as $c => $case) {
            if ($c % 2 === 1) {
                continue;
            }
            $size = Similar::between($this->mean, $case['true'])->scale();
            foreach ([$case['true'], $case['now']] as $shape) {
                if (self::off($shape, $case['true']) < 0.06 * $size) {
                    $said[] = $this->said($case['around'], Similar::between($this->mean, $shape), $shape);
                    $is[] = [1.0];
                }
            }
            // turned wrongly, and led from there
            $wrong = $this->turnedBy($case['true'], 0.5 + (2 * M_PI - 1) * self::uniform($random));
            $wrong = $this->led($case['around'], $wrong);
            if (self::off($wrong, $case['true']) > 0.15 * $size) {
                $said[] = $this->said($case['around'], Similar::between($this->mean, $wrong), $wrong);
                $is[] = [-1.0];
            }
        }
        $this->judge = Ridge::fit($said, $is, 0.05 * count($said))[0];
    }

    /**
     * How far each node is usually off, and what several tries that differ say of it.
     *
     * @param  list<array{around: Around, true: array<int, float>, now: array<int, float>, of: int}>  $cases
     */
    private function measure(array $cases): void
    {
        $n = count($this->nodes);
        $squares = array_fill(0, $n, 0.0);
        foreach ($cases as $case) {
            $size = Similar::between($this->mean, $case['true'])->scale();
            for ($i = 0; $i < $n; $i++) {
                $squares[$i] += (($case['now'][2 * $i] - $case['true'][2 * $i]) ** 2 + ($case['now'][2 * $i + 1] - $case['true'][2 * $i + 1]) ** 2) / ($size * $size);
            }
        }
        // what was learned from is placed better than what is new: by half as much again, measured on what was held out
        $this->own = array_map(static fn (float $sum): float => 2.25 * $sum / count($cases), $squares);
    }

    /**
     * Fits a skeleton into a box, in any direction.
     *
     * @param  callable(int, int, int, int, int, int): Colours  $part  a part of the picture in a size: left, top, width, height, columns, rows
     * @return array{pose: Pose, confidence: float, nodes: array<string, float>} how sure it is of the whole, and of each node
     */
    public function inBox(callable $part, int $width, int $height, Box $box): array
    {
        $around = Around::of($part, $width, $height, [$box->x, $box->y, $box->right(), $box->bottom()], 0.35 * max($box->width, $box->height), self::ACROSS);
        $own = $around->own([$box->x, $box->y, $box->right(), $box->bottom()]);
        $tries = [];
        for ($k = 0; $k < self::DIRECTIONS; $k++) {
            $shape = $this->laid($own, 2 * M_PI * $k / self::DIRECTIONS);
            $shape = $this->moved(0, $this->said($around, $at = Similar::between($this->mean, $shape), $shape), $at, $shape);
            $tries[] = [$this->looks($around, $shape) - $this->misfit($shape, $own), $shape];
        }
        rsort($tries);
        $done = [];
        foreach (array_slice($tries, 0, self::KEPT) as [, $shape]) {
            $shape = $this->led($around, $shape, 1);
            $done[] = [$this->looks($around, $shape) - $this->misfit($shape, $own), $shape];
        }
        rsort($done);

        return $this->answer($around, $done[0][1], $done[0][0]);
    }

    /**
     * Fits a skeleton of which two nodes are given.
     *
     * @param  callable(int, int, int, int, int, int): Colours  $part  as inBox
     * @param  array<string, array{float, float}>  $given  places by key, two or more
     * @return array{pose: Pose, confidence: float, nodes: array<string, float>} as inBox; what was given stays where it is
     *
     * @throws InvalidValue
     */
    public function onNodes(callable $part, int $width, int $height, array $given): array
    {
        $from = $to = [];
        $places = array_flip($this->nodes);
        foreach ($given as $key => [$x, $y]) {
            $i = $places[$key] ?? throw InvalidValue::at('nodes', $key, 'a node of the skeleton');
            array_push($from, $this->mean[2 * $i], $this->mean[2 * $i + 1]);
            array_push($to, $x, $y);
        }
        if (count($given) < 2 || hypot($to[0] - $to[2], $to[1] - $to[3]) < 2) {
            throw InvalidValue::at('nodes', count($given), 'two nodes, each at a place of its own');
        }
        $shape = Similar::between($from, $to)->of($this->mean);
        $around = Around::of($part, $width, $height, $shape, $this->reach($shape), self::ACROSS);
        $own = $around->own($shape);
        $kept = [];
        foreach ($given as $key => [$x, $y]) {
            [$kept[2 * $places[$key]], $kept[2 * $places[$key] + 1]] = $around->own([$x, $y]);
        }
        $own = $this->led($around, $own, 1, $kept);

        return $this->answer($around, $own, $this->looks($around, $own), $kept);
    }

    /**
     * Fits a skeleton a hand has laid roughly as it lies.
     *
     * @param  callable(int, int, int, int, int, int): Colours  $part  as inBox
     * @param  list<float>  $laid  x, y of each node, in px of the picture
     * @return array{pose: Pose, confidence: float, nodes: array<string, float>} as inBox
     *
     * @throws InvalidValue when it has no extent, or lies beside the picture
     */
    public function from(callable $part, int $width, int $height, array $laid): array
    {
        [$l, $t, $r, $b] = self::bounds($laid);
        if (count($laid) !== 2 * count($this->nodes) || max($r - $l, $b - $t) < 4 || $r < 0 || $b < 0 || $l > $width || $t > $height || ! is_finite(array_sum($laid))) {
            throw InvalidValue::at('nodes', count($laid) / 2, 'all '.count($this->nodes).' nodes on the picture, at least 4 px apart');
        }
        // where the mean shape comes to lie by what was laid: a hand says where and how, not how wide the wings are
        $shape = Similar::between($this->mean, $laid)->of($this->mean);
        $around = Around::of($part, $width, $height, $shape, $this->reach($shape), self::ACROSS);
        $own = $this->led($around, $around->own($shape));

        return $this->answer($around, $own, $this->looks($around, $own));
    }

    /**
     * @param  array<int, float>  $shape
     * @param  array<int, float>  $kept  coordinates that were given
     * @return array{pose: Pose, confidence: float, nodes: array<string, float>}
     */
    private function answer(Around $around, array $shape, float $looks, array $kept = []): array
    {
        $n = count($this->nodes);
        $size = Similar::between($this->mean, $shape)->scale();
        // led again from a little beside, what the picture holds in its place comes back to it
        $spread = array_fill(0, $n, 0.0);
        $tries = 4;
        for ($k = 0; $k < $tries; $k++) {
            $beside = $this->turnedBy($shape, ($k < 2 ? 1 : -1) * 0.12);
            foreach ($beside as $i => $_) {
                $beside[$i] += ($k % 2 === 0 ? 1 : -1) * 0.05 * $size;
            }
            $again = $this->led($around, $beside, 1, $kept);
            for ($i = 0; $i < $n; $i++) {
                $spread[$i] += (($again[2 * $i] - $shape[2 * $i]) ** 2 + ($again[2 * $i + 1] - $shape[2 * $i + 1]) ** 2) / ($size * $size * $tries);
            }
        }
        $whole = 1 / (1 + exp(-4 * $looks));
        $nodes = $sure = [];
        $out = $around->picture($shape);
        $all = 0.0;
        foreach ($this->nodes as $i => $key) {
            $nodes[$key] = ['x' => round(min((float) $around->pictureWidth, max(0.0, $out[2 * $i])), 1), 'y' => round(min((float) $around->pictureHeight, max(0.0, $out[2 * $i + 1])), 1), 'state' => Pose::VISIBLE];
            // two normal coordinates: how likely the distance is within what counts as right
            $variance = max(1e-6, $this->own[$i] + $this->spread * $spread[$i]) / 2;
            $sure[$key] = isset($kept[2 * $i]) ? 1.0 : round($whole * (1 - exp(-(self::RIGHT ** 2) / (2 * $variance))), 4);
            $all += $sure[$key] / $n;
        }

        return ['pose' => Pose::of($nodes), 'confidence' => round(min(1.0, $all), 4), 'nodes' => $sure];
    }

    /**
     * @param  array<int, float>  $shape
     * @param  array<int, float>  $kept
     * @return array<int, float>
     */
    private function led(Around $around, array $shape, int $from = 0, array $kept = []): array
    {
        for ($stage = $from; $stage < count($this->stages); $stage++) {
            $at = Similar::between($this->mean, $shape);
            $shape = $this->moved($stage, $this->said($around, $at, $shape), $at, $shape);
            foreach ($kept as $i => $value) {
                $shape[$i] = $value;
            }
        }

        return array_values($shape);
    }

    /** @param  array<int, float>  $shape */
    private function looks(Around $around, array $shape): float
    {
        return Ridge::of([$this->judge], $this->said($around, Similar::between($this->mean, $shape), $shape))[0];
    }

    /**
     * How badly a shape fills a box.
     *
     *
     * @param  array<int, float>  $shape
     * @param  array<int, float>  $box left, top, right, bottom
     */
    private function misfit(array $shape, array $box): float
    {
        [$l, $t, $r, $b] = self::bounds($shape);
        $size = max(1.0, ($box[2] - $box[0] + $box[3] - $box[1]) / 2);

        return (abs($l - $box[0]) + abs($t - $box[1]) + abs($r - $box[2]) + abs($b - $box[3])) / $size;
    }

    /**
     * The mean shape in a direction, as large as fits the box.
     *
     * @param  array<int, float>  $box  left, top, right, bottom
     * @return array<int, float>
     */
    private function laid(array $box, float $angle): array
    {
        $turned = (new Similar(cos($angle), sin($angle), 0.0, 0.0))->of($this->mean);
        [$l, $t, $r, $b] = self::bounds($turned);
        $by = sqrt(max(1e-6, ($box[2] - $box[0]) / max(1e-6, $r - $l) * ($box[3] - $box[1]) / max(1e-6, $b - $t)));

        return (new Similar($by, 0.0, ($box[0] + $box[2]) / 2 - $by * ($l + $r) / 2, ($box[1] + $box[3]) / 2 - $by * ($t + $b) / 2))->of($turned);
    }

    /**
     * A shape as it might be laid at first.
     *
     * @param  array<int, float>  $true
     * @return array<int, float>
     */
    private function misplaced(array $true, Randomizer $random, float $much): array
    {
        $at = Similar::between($this->mean, $true);
        $size = $at->scale();
        $shape = $this->turnedBy($at->of($this->mean), $much * self::normal($random) * 0.22);
        $by = exp($much * self::normal($random) * 0.1);
        [$cx, $cy] = self::middle($shape);
        $dx = $much * self::normal($random) * 0.09 * $size;
        $dy = $much * self::normal($random) * 0.09 * $size;
        foreach ($shape as $i => $value) {
            $c = $i % 2 === 0 ? $cx : $cy;
            $shape[$i] = $c + $by * ($value - $c) + ($i % 2 === 0 ? $dx : $dy);
        }

        return $shape;
    }

    /**
     * @param  array<int, float>  $shape
     * @return array<int, float> turned about its middle
     */
    private function turnedBy(array $shape, float $angle): array
    {
        [$cx, $cy] = self::middle($shape);
        [$cos, $sin] = [cos($angle), sin($angle)];

        return (new Similar($cos, $sin, $cx - $cos * $cx + $sin * $cy, $cy - $sin * $cx - $cos * $cy))->of($shape);
    }

    /**
     * What the picture shows round each node, seen in the skeleton's own frame, evened out over all.
     *
     * @param  array<int, float>  $shape
     * @return array<int, float> the last one is always 1
     */
    private function said(Around $around, Similar $at, array $shape): array
    {
        $points = self::around(count($this->nodes));
        $said = [];
        $sum = $square = 0.0;
        for ($p = 0; $p < $points; $p++) {
            // a spiral: dense about the node, and blurred the more the farther out
            $far = 0.3 * sqrt(($p + 0.5) / $points);
            $turn = 2.399963 * $p;
            $x = $far * cos($turn);
            $y = $far * sin($turn);
            $dx = $at->a * $x - $at->b * $y;
            $dy = $at->b * $x + $at->a * $y;
            $level = $far < 0.12 ? 0 : ($far < 0.22 ? 1 : 2);
            for ($i = 0, $n = count($shape); $i < $n; $i += 2) {
                $value = $around->at($level, $shape[$i] + $dx, $shape[$i + 1] + $dy);
                $said[] = $value;
                $sum += $value;
                $square += $value * $value;
            }
        }
        $count = count($said);
        $mean = $sum / $count;
        $by = 1 / (8.0 + sqrt(max(0.0, $square / $count - $mean * $mean)));
        foreach ($said as $k => $value) {
            $said[$k] = ($value - $mean) * $by;
        }
        $said[] = 1.0;

        return $said;
    }

    /**
     * @param  array<int, float>  $said
     * @param  array<int, float>  $shape
     * @return array<int, float>
     */
    private function moved(int $stage, array $said, Similar $at, array $shape): array
    {
        $by = $at->turned(Ridge::of($this->stages[$stage], $said));
        foreach ($shape as $i => $value) {
            $shape[$i] = $value + $by[$i];
        }

        return $shape;
    }

    /**
     * px round a shape that are looked at.
     *
     *
     * @param  array<int, float>  $shape
     */
    private function reach(array $shape): float
    {
        return 0.5 * max(4.0, Similar::between($this->mean, $shape)->scale());
    }

    /**
     * @param  non-empty-array<int, array<int, float>>  $shapes
     * @param  list<int>  $flip
     * @return array<int, float>
     */
    private static function mean(array $shapes, array $flip): array
    {
        // a mirror image is as good
        foreach ($shapes as $shape) {
            $shapes[] = self::flipped(array_map(static fn (float $v, int $i): float => $i % 2 === 0 ? -$v : $v, $shape, array_keys($shape)), $flip);
        }
        $mean = $shapes[0];
        for ($round = 0; $round < 8; $round++) {
            $sum = array_fill(0, count($mean), 0.0);
            foreach ($shapes as $shape) {
                $to = Similar::between($shape, $mean);
                // brought to one size each time, so that the mean does not shrink
                foreach ($to->of($shape) as $i => $value) {
                    $sum[$i] += $value;
                }
            }
            [$l, $t, $r, $b] = self::bounds($sum);
            $size = max(1e-9, $r - $l, $b - $t);
            [$cx, $cy] = self::middle($sum);
            $mean = array_map(static fn (float $v, int $i): float => ($v - ($i % 2 === 0 ? $cx : $cy)) / $size, $sum, array_keys($sum));
        }

        return $mean;
    }

    /**
     * The two nodes that lie farthest from each other: who presses there says most.
     *
     *
     * @return array{string, string}
     */
    public function farthest(): array
    {
        $best = [0, 1];
        $most = -1.0;
        for ($i = 0, $n = count($this->nodes); $i < $n; $i++) {
            for ($j = 0; $j < $i; $j++) {
                $far = hypot($this->mean[2 * $i] - $this->mean[2 * $j], $this->mean[2 * $i + 1] - $this->mean[2 * $j + 1]);
                if ($far > $most) {
                    [$most, $best] = [$far, [$j, $i]];
                }
            }
        }

        return [$this->nodes[$best[0]], $this->nodes[$best[1]]];
    }

    /**
     * @param  list<string>  $nodes
     * @return ?array<int, float> null when a node is absent
     */
    private static function complete(Pose $pose, array $nodes): ?array
    {
        $shape = [];
        foreach ($nodes as $key) {
            if (! isset($pose->nodes[$key])) {
                return null;
            }
            array_push($shape, $pose->nodes[$key]['x'], $pose->nodes[$key]['y']);
        }

        return $shape;
    }

    /**
     * @param  array<int, float>  $shape
     * @param  list<int>  $flip
     * @return array<int, float> each node where its twin was
     */
    private static function flipped(array $shape, array $flip): array
    {
        $out = [];
        foreach ($flip as $twin) {
            array_push($out, $shape[2 * $twin], $shape[2 * $twin + 1]);
        }

        return $out;
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     */
    private static function off(array $a, array $b): float
    {
        $sum = 0.0;
        $n = intdiv(count($a), 2);
        for ($i = 0; $i < 2 * $n; $i += 2) {
            $sum += hypot($a[$i] - $b[$i], $a[$i + 1] - $b[$i + 1]);
        }

        return $sum / $n;
    }

    /**
     * @param  array<int, float>  $shape
     * @return array{float, float}
     */
    private static function middle(array $shape): array
    {
        $x = $y = 0.0;
        $n = intdiv(count($shape), 2);
        for ($i = 0; $i < 2 * $n; $i += 2) {
            $x += $shape[$i];
            $y += $shape[$i + 1];
        }

        return [$x / $n, $y / $n];
    }

    /**
     * @param  array<int, float>  $shape
     * @return array{float, float, float, float}
     */
    private static function bounds(array $shape): array
    {
        [$l, $t, $r, $b] = [INF, INF, -INF, -INF];
        for ($i = 0, $n = count($shape); $i < $n; $i += 2) {
            $l = min($l, $shape[$i]);
            $r = max($r, $shape[$i]);
            $t = min($t, $shape[$i + 1]);
            $b = max($b, $shape[$i + 1]);
        }

        return [$l, $t, $r, $b];
    }

    private static function normal(Randomizer $random): float
    {
        return sqrt(-2 * log(1 - self::uniform($random))) * cos(2 * M_PI * self::uniform($random));
    }

    /** From 0 to below 1. */
    private static function uniform(Randomizer $random): float
    {
        return $random->getInt(0, (1 << 30) - 1) / (1 << 30);
    }

    public function pack(): string
    {
        $packed = pack('vv', count($this->nodes), count($this->stages));
        foreach ($this->nodes as $key) {
            $packed .= Packed::ofText($key);
        }
        foreach ([$this->mean, ...array_merge(...$this->stages), $this->judge, $this->own, [$this->spread]] as $numbers) {
            $packed .= pack('V', count($numbers)).pack('g*', ...$numbers);
        }

        return $packed;
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $read = new Packed($packed);
        [$count, $many] = $read->ints('v', 2);
        $nodes = [];
        for ($i = 0; $i < $count; $i++) {
            $nodes[] = $read->text();
        }
        $next = static fn (int $wanted): array => ($n = $read->ints('V', 1)[0]) === $wanted ? $read->floats($n) : throw InvalidValue::at('poses', $n, "{$wanted} numbers");
        $said = $count * self::around(max(1, $count)) + 1;
        $mean = $next(2 * $count);
        $stages = [];
        for ($stage = 0; $stage < $many; $stage++) {
            for ($i = 0; $i < 2 * $count; $i++) {
                $stages[$stage][] = $next($said);
            }
        }
        $model = new self($nodes, $mean, $stages, $next($said), $next($count), $next(1)[0]);
        $read->end();

        return $model;
    }
}
