<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/**
 * The outline of the object in a rough box: the colours of the box and of what lies round it are held against each other as mixtures, and the
 * cheapest border between them is found (C. Rother, V. Kolmogorov and A. Blake, "GrabCut", ACM TOG 23, 2004), small first and then along its
 * border at full size. A click or stroke is binding where it is, and counts the less the more colours change on the way from there.
 *
 * Everything is in px of the part of the picture it is made of.
 */
final class Cutout
{
    /** px to which the longer side of the box is brought at first. */
    private const LONG = 128;

    /** What it costs to part two pixels of the same colour, in nats: small, and along the border at full size. */
    private const SMOOTH = 18.0;

    private const SMOOTH_FINE = 30.0;

    /** Nats by which a colour may speak for one side. */
    private const CAP = 5.0;

    /** Distributions of which the object's and the ground's colours are made up. */
    private const INSIDE = 5;

    private const OUTSIDE = 6;

    /** How often the colours are learned again from what was found. */
    private const REFITS = 4;

    /** How much a colour that is as frequent outside of the box counts less in it. */
    private const DISCOUNT = 0.8;

    /** Nats the middle of a box speaks for the object, and its corners against it: things fill their boxes, but seldom the corners. */
    private const MIDDLE = 1.0;

    private const INSISTING = 4.0;

    /** Nats a pixel gets next to a click, and the way of colours over which that fades to nothing. */
    private const BONUS = 6.0;

    private const REACH = 60;

    private const BINDING = 1_000_000_000;

    /** Nats to whole numbers. */
    private const UNIT = 1000;

    /** Parts below these shares of the largest part are specks and pinholes. */
    private const SPECK = 0.06;

    private const PINHOLE = 0.006;

    /** How much larger the picture gets from step to step, and within how many px of its border an object is looked at again there. */
    private const STEP = 2.5;

    private const BAND = 3;

    /** Neighbours in the order of the graph's slots. */
    private const AROUND = [[1, 0], [-1, 0], [0, 1], [0, -1], [1, 1], [-1, -1], [-1, 1], [1, -1]];

    private int $width;

    private int $height;

    /** of the work picture per px of the part */
    private float $scaleX;

    private float $scaleY;

    /** @var list<int> packed colours of the work picture: r << 16 | g << 8 | b */
    private array $pixels;

    /** the box in the work picture, right and lower side exclusive */
    private int $left;

    private int $top;

    private int $right;

    private int $bottom;

    /** @var array<int, int> index of a bin by its colour in steps of 8 levels */
    private array $binAt = [];

    /** @var list<int> bin of each pixel of the work picture */
    private array $bins = [];

    /** @var list<float> mean colour of each bin */
    private array $r = [];

    /** @var list<float> */
    private array $g = [];

    /** @var list<float> */
    private array $b = [];

    private Mixture $object;

    private Mixture $ground;

    /** @var array<int, int> what a bin speaks for, in units, by its colour in steps */
    private array $speaks = [];

    private ?MinCut $cut = null;

    /** @var array<int, int> what each node prefers now */
    private array $preference = [];

    /** @var array<int, int> what strokes say of each node, beside its colour */
    private array $said = [];

    /** @var array<int, int> BINDING, -BINDING or 0 */
    private array $bound = [];

    /** @var array<int, int> what its place says of each node */
    private array $place = [];

    /** of each node of the box, row by row */
    private string $labels = '';

    private ?Mask $base = null;

    /** @var array<int, Colours> the part in sizes between */
    private array $levels = [];

    /**
     * @param  Colours  $part  of a picture, with the box and as much round it as tells what the ground looks like
     * @param  Box  $box  in px of the part
     * @param  ?Mask  $before  where it was when it was cut out last, on the part: it is looked for about there
     *
     * @throws InvalidValue when nothing of the box lies on the part
     */
    public function __construct(private Colours $part, Box $box, private ?Mask $before = null)
    {
        $box = $box->clippedTo($part->width, $part->height);
        if ($box === null || $box->width < 2 || $box->height < 2) {
            throw InvalidValue::at('box', $box === null ? 'outside' : "{$box->width} × {$box->height}", 'a box of at least 2 × 2 px on the picture');
        }
        $scale = min(1.0, self::LONG / max($box->width, $box->height));
        $this->width = max(1, (int) round($part->width * $scale));
        $this->height = max(1, (int) round($part->height * $scale));
        $this->scaleX = $this->width / $part->width;
        $this->scaleY = $this->height / $part->height;
        $this->left = (int) floor($box->x * $this->scaleX);
        $this->top = (int) floor($box->y * $this->scaleY);
        $this->right = min($this->width, max($this->left + 1, (int) ceil($box->right() * $this->scaleX)));
        $this->bottom = min($this->height, max($this->top + 1, (int) ceil($box->bottom() * $this->scaleY)));
        $this->pixels = self::unpack($part->resized($this->width, $this->height));
        $this->bin();
        $this->object = $this->ground = Mixture::fit([], [], [], [], 1);
        $this->begin();
    }

    /** The object. */
    public function mask(): Mask
    {
        return $this->base ??= $this->fine($this->labels);
    }

    /** Takes what a hand says. */
    public function stroke(Stroke $stroke): void
    {
        $stroke = $stroke->within(0, 0, $this->scaleX);
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        $radius = max(1.5, max($columns, $rows) * 0.028);
        $sign = $stroke->adds ? 1 : -1;
        $seeds = [];
        foreach ($stroke->dots($radius) as [$x, $y]) {
            $x -= $this->left;
            $y -= $this->top;
            for ($j = max(0, (int) ($y - $radius)); $j <= min($rows - 1, (int) ($y + $radius)); $j++) {
                for ($i = max(0, (int) ($x - $radius)); $i <= min($columns - 1, (int) ($x + $radius)); $i++) {
                    if (($i + 0.5 - $x) ** 2 + ($j + 0.5 - $y) ** 2 <= $radius * $radius || ($i === (int) $x && $j === (int) $y)) {
                        $at = $j * $columns + $i;
                        $this->bound[$at] = $sign * self::BINDING;
                        $seeds[$at] = true;
                    }
                }
            }
        }
        foreach ($this->near(array_keys($seeds)) as $at => $way) {
            $now = $sign * (int) (self::UNIT * self::BONUS * (1 - $way / self::REACH));
            // of two strokes that say different things the one that is nearer counts, and of equals the later
            $was = $this->said[$at];
            $this->said[$at] = $was * $sign < 0 && abs($now) >= abs($was) ? $now : $was + $now;
        }
        $this->base = null;
        $this->settle();
        $this->learn($this->labels);
        $this->settle();
    }

    /**
     * The object looser or tighter; strokes stay binding.
     *
     * @param  float  $by  nats by which every pixel belongs to it rather than not; 0 is as found, the more, the larger it gets
     */
    public function dialled(float $by): Mask
    {
        $base = $this->mask();
        if ($by === 0.0 || $this->cut === null) {
            return $base;
        }
        $more = array_fill(0, count($this->preference), (int) (self::UNIT * $by));
        $this->cut->prefer($more);
        $labels = $this->cut->solve();
        $this->cut->prefer(array_map(static fn (int $n): int => -$n, $more));
        $mask = $this->fine($labels, (int) (self::UNIT * $by));

        return $by > 0 ? $mask->union($base) : $mask->intersection($base);
    }

    /** How much colours of the object and of the ground have in common, 0 to 1. */
    public function alike(): float
    {
        [$inside, $outside] = $this->counted($this->labels);
        [$a, $b] = [array_sum($inside), array_sum($outside)];
        $common = 0.0;
        foreach ($inside as $bin => $n) {
            $common += sqrt($n * $outside[$bin]);
        }

        return $a > 0 && $b > 0 ? $common / sqrt($a * $b) : 0.0;
    }

    /**
     * Sides of the box the outline runs along for longer than an object in a box around it does.
     *
     * @return list<'left'|'top'|'right'|'bottom'>
     */
    public function touches(): array
    {
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        $share = static fn (int $n, callable $at, string $labels): float => count(array_filter(range(0, $n - 1), static fn (int $i): bool => $labels[$at($i)] === "\1")) / $n;
        $along = [
            'left' => $this->left > 0 ? $share($rows, static fn (int $i): int => $i * $columns, $this->labels) : 0.0,
            'top' => $this->top > 0 ? $share($columns, static fn (int $i): int => $i, $this->labels) : 0.0,
            'right' => $this->right < $this->width ? $share($rows, static fn (int $i): int => $i * $columns + $columns - 1, $this->labels) : 0.0,
            'bottom' => $this->bottom < $this->height ? $share($columns, static fn (int $i): int => ($rows - 1) * $columns + $i, $this->labels) : 0.0,
        ];

        return array_keys(array_filter($along, static fn (float $share): bool => $share > 0.4));
    }

    /**
     * Everything that can't be worked out again quickly, so that the next click of a hand goes on from here.
     *
     * @return array{size: array{int, int, int, int}, part: string, work: string, box: array{int, int, int, int}, nodes: array{string, string, string, string}, models: array{Mixture, Mixture}, cut: ?MinCut, labels: string}
     */
    public function __serialize(): array
    {
        return [
            'size' => [$this->part->width, $this->part->height, $this->width, $this->height], 'part' => $this->part->bytes, 'work' => pack('l*', ...$this->pixels),
            'box' => [$this->left, $this->top, $this->right, $this->bottom],
            'nodes' => [pack('q*', ...$this->preference), pack('q*', ...$this->said), pack('q*', ...$this->bound), pack('q*', ...$this->place)],
            'models' => [$this->object, $this->ground], 'cut' => $this->cut, 'labels' => $this->labels,
        ];
    }

    /** @param  array{size: array{int, int, int, int}, part: string, work: string, box: array{int, int, int, int}, nodes: array{string, string, string, string}, models: array{Mixture, Mixture}, cut: ?MinCut, labels: string}  $data */
    public function __unserialize(array $data): void
    {
        [$width, $height, $this->width, $this->height] = $data['size'];
        $this->part = Colours::of($width, $height, $data['part']);
        $this->scaleX = $this->width / $width;
        $this->scaleY = $this->height / $height;
        $this->before = null;
        [$this->left, $this->top, $this->right, $this->bottom] = $data['box'];
        $this->pixels = self::numbers('l*', $data['work']);
        $this->bin();
        [$this->preference, $this->said, $this->bound, $this->place] = array_map(static fn (string $bytes): array => self::numbers('q*', $bytes), $data['nodes']);
        [$this->object, $this->ground] = $data['models'];
        ['cut' => $this->cut, 'labels' => $this->labels] = $data;
    }

    /** @return list<int> */
    private static function numbers(string $format, string $bytes): array
    {
        /** @var list<int> $numbers */
        $numbers = array_values(unpack($format, $bytes) ?: []);

        return $numbers;
    }

    /** Pixels of the work picture by their colour in steps, and the mean of each step. */
    private function bin(): void
    {
        $at = [];
        $bins = [];
        $count = $r = $g = $b = [];
        foreach ($this->pixels as $rgb) {
            $key = ($rgb >> 9 & 0x7C00) | ($rgb >> 6 & 0x3E0) | ($rgb >> 3 & 0x1F);
            $bin = $at[$key] ?? -1;
            if ($bin < 0) {
                $at[$key] = $bin = count($count);
                $count[] = 0;
                $r[] = $g[] = $b[] = 0;
            }
            $bins[] = $bin;
            $count[$bin]++;
            $r[$bin] += $rgb >> 16;
            $g[$bin] += $rgb >> 8 & 255;
            $b[$bin] += $rgb & 255;
        }
        foreach ($count as $bin => $n) {
            $this->r[] = $r[$bin] / $n;
            $this->g[] = $g[$bin] / $n;
            $this->b[] = $b[$bin] / $n;
        }
        $this->binAt = $at;
        $this->bins = $bins;
    }

    private function begin(): void
    {
        $before = $this->before;
        if ($before !== null) {
            $this->unsaid();
            $labels = $this->placed($before);
            $this->build();
            $this->learn($labels);
            $this->converge();

            return;
        }
        foreach ([self::MIDDLE, self::INSISTING] as $middle) {
            $this->unsaid();
            $this->guess($middle);
            $this->build();
            $this->converge();
            // where all of the box looks like what lies round it, its middle is taken for the object, and said to be like its ground
            if (substr_count($this->labels, "\1") > strlen($this->labels) / 50) {
                return;
            }
        }
    }

    private function unsaid(): void
    {
        $this->said = $this->bound = $this->place = array_fill(0, ($this->right - $this->left) * ($this->bottom - $this->top), 0);
    }

    /** The colours of object and ground as they are to be expected from the box, and where in it the object is. */
    private function guess(float $middle): void
    {
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        [$inside, $outside] = $this->counted(str_repeat("\1", $columns * $rows));
        $around = array_sum($outside);
        $n = $columns * $rows;
        $weights = [];
        foreach ($inside as $bin => $count) {
            // a colour that is as frequent outside is hardly the object's
            $weights[] = $count > 0 && $around > 0 ? $count * max(0.0, 1 - self::DISCOUNT * ($outside[$bin] / $around) / ($count / $n)) : $count;
        }
        $this->object = Mixture::fit($this->r, $this->g, $this->b, array_sum($weights) > 0 ? $weights : $inside, self::INSIDE);
        $this->ground = Mixture::fit($this->r, $this->g, $this->b, $around > 0 ? $outside : $inside, self::OUTSIDE);
        for ($y = 0, $k = 0; $y < $rows; $y++) {
            for ($x = 0; $x < $columns; $x++) {
                $u = ($x + 0.5) / $columns * 2 - 1;
                $v = ($y + 0.5) / $rows * 2 - 1;
                $this->place[$k++] = (int) (self::UNIT * $middle * (1 - $u * $u - $v * $v));
            }
        }
    }

    private function converge(): void
    {
        $this->settle();
        for ($i = 0; $i < self::REFITS; $i++) {
            $before = $this->labels;
            $this->learn($before);
            $this->settle();
            if (self::differ($before, $this->labels) <= strlen($before) / 500) {
                break;
            }
        }
    }

    /**
     * How often each colour is on either side of a division of the box; what lies outside of it is ground.
     *
     * @return array{list<float>, list<float>} object, ground
     */
    private function counted(string $labels): array
    {
        $inside = $outside = array_fill(0, count($this->r), 0.0);
        $columns = $this->right - $this->left;
        for ($y = 0, $at = 0; $y < $this->height; $y++) {
            $row = $y >= $this->top && $y < $this->bottom ? ($y - $this->top) * $columns - $this->left : null;
            for ($x = 0; $x < $this->width; $x++, $at++) {
                if ($row !== null && $x >= $this->left && $x < $this->right && $labels[$row + $x] === "\1") {
                    $inside[$this->bins[$at]]++;
                } else {
                    $outside[$this->bins[$at]]++;
                }
            }
        }

        return [array_values($inside), array_values($outside)];
    }

    /** The graph of the box's pixels. */
    private function build(): void
    {
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        $n = $columns * $rows;
        $pixels = $this->pixels;
        $width = $this->width;
        $sum = 0;
        $pairs = 0;
        for ($y = $this->top; $y < $this->bottom; $y++) {
            for ($x = $this->left; $x < $this->right; $x++) {
                $a = $pixels[$y * $width + $x];
                if ($x + 1 < $width) {
                    $b = $pixels[$y * $width + $x + 1];
                    $sum += (($a >> 16) - ($b >> 16)) ** 2 + (($a >> 8 & 255) - ($b >> 8 & 255)) ** 2 + (($a & 255) - ($b & 255)) ** 2;
                    $pairs++;
                }
                if ($y + 1 < $this->height) {
                    $b = $pixels[($y + 1) * $width + $x];
                    $sum += (($a >> 16) - ($b >> 16)) ** 2 + (($a >> 8 & 255) - ($b >> 8 & 255)) ** 2 + (($a & 255) - ($b & 255)) ** 2;
                    $pairs++;
                }
            }
        }
        $table = self::costs($pairs > 0 ? $sum / $pairs : 0.0, self::SMOOTH);
        $neighbours = array_fill(0, 8 * $n, -1);
        $cost = array_fill(0, 8 * $n, 0);
        $rim = array_fill(0, $n, 0);
        foreach ([[1, 0, false], [0, 1, false], [1, 1, true], [-1, 1, true]] as $k => [$dx, $dy, $slanted]) {
            for ($y = -1; $y < $rows; $y++) {
                $row = ($y + $this->top) * $width + $this->left;
                if ($y + $this->top < 0 || $y + $dy + $this->top >= $this->height) {
                    continue;
                }
                for ($x = -1; $x <= $columns; $x++) {
                    $u = $x + $dx;
                    $v = $y + $dy;
                    $isIn = $x >= 0 && $x < $columns && $y >= 0;
                    $isOther = $u >= 0 && $u < $columns && $v >= 0 && $v < $rows;
                    if ((! $isIn && ! $isOther) || $x + $this->left < 0 || $x + $this->left >= $width || $u + $this->left < 0 || $u + $this->left >= $width) {
                        continue;
                    }
                    $a = $pixels[$row + $x];
                    $b = $pixels[$row + $dy * $width + $u];
                    $r = ($a >> 16) - ($b >> 16);
                    $g = ($a >> 8 & 255) - ($b >> 8 & 255);
                    $c = ($a & 255) - ($b & 255);
                    $d = ($r * $r + $g * $g + $c * $c) >> 3;
                    $between = $table[$d > 4095 ? 4095 : $d];
                    if ($slanted) {
                        $between = (int) ($between * M_SQRT1_2);
                    }
                    if ($isIn && $isOther) {
                        $i = $y * $columns + $x;
                        $j = $v * $columns + $u;
                        $neighbours[($i << 3) + 2 * $k] = $j;
                        $neighbours[($j << 3) + 2 * $k + 1] = $i;
                        $cost[($i << 3) + 2 * $k] = $cost[($j << 3) + 2 * $k + 1] = $between;
                    } else {
                        // what lies outside is ground
                        $rim[$isIn ? $y * $columns + $x : $v * $columns + $u] -= $between;
                    }
                }
            }
        }
        foreach ($rim as $i => $less) {
            $this->place[$i] += $less;
        }
        $this->preference = array_fill(0, $n, 0);
        $this->cut = new MinCut($neighbours, $cost, $this->preference);
    }

    /**
     * What it costs to part two pixels, by the squared difference of their colours in steps of 8.
     *
     * @param  float  $usual  squared difference of neighbours, on average: what stands out from that is a border
     * @return list<int>
     */
    private static function costs(float $usual, float $smooth): array
    {
        $table = [];
        for ($i = 0; $i < 4096; $i++) {
            $table[] = (int) (self::UNIT * $smooth * ($usual > 0 ? exp(-(8 * $i + 4) / (2 * $usual)) : 1.0));
        }

        return $table;
    }

    /** Learns the colours from a division. */
    private function learn(string $labels): void
    {
        [$inside, $outside] = $this->counted($labels);
        // with nothing on one side there is nothing to learn
        if (array_sum($inside) >= 4 && array_sum($outside) >= 4) {
            $this->object = Mixture::fit($this->r, $this->g, $this->b, $inside, self::INSIDE);
            $this->ground = Mixture::fit($this->r, $this->g, $this->b, $outside, self::OUTSIDE);
            $this->speaks = [];
        }
    }

    /** Finds the cheapest division by what is known now. */
    private function settle(): void
    {
        $by = $speaks = [];
        foreach ($this->r as $bin => $r) {
            $speaks[$bin] = $this->speak($r, $this->g[$bin], $this->b[$bin]);
        }
        foreach ($this->binAt as $key => $bin) {
            $this->speaks[$key] = $speaks[$bin];
        }
        $columns = $this->right - $this->left;
        $preference = [];
        for ($y = $this->top, $k = 0; $y < $this->bottom; $y++) {
            $row = $y * $this->width;
            for ($x = $this->left; $x < $this->right; $x++, $k++) {
                $now = $this->bound[$k] !== 0 ? $this->bound[$k] : $speaks[$this->bins[$row + $x]] + $this->said[$k] + $this->place[$k];
                $by[] = $now - $this->preference[$k];
                $preference[] = $now;
            }
        }
        $this->preference = $preference;
        $this->cut?->prefer($by);
        $this->labels = $this->cut?->solve() ?? str_repeat("\0", $columns * ($this->bottom - $this->top));
    }

    private function speak(float $r, float $g, float $b): int
    {
        return (int) (self::UNIT * max(-self::CAP, min(self::CAP, $this->object->log($r, $g, $b) - $this->ground->log($r, $g, $b))));
    }

    /**
     * How far pixels are from some by the way on which colours change least, up to REACH: a shortest path by buckets (R. B. Dial, CACM 12, 1969).
     *
     * @param  list<int>  $seeds
     * @return array<int, int> by node
     */
    private function near(array $seeds): array
    {
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        $way = [];
        $most = self::REACH;
        $buckets = array_fill(0, $most + 1, []);
        foreach ($seeds as $seed) {
            $way[$seed] = 0;
            $buckets[0][] = $seed;
        }
        $done = [];
        for ($cost = 0; $cost <= $most; $cost++) {
            for ($q = 0; $q < count($buckets[$cost]); $q++) {
                $at = $buckets[$cost][$q];
                if (isset($done[$at])) {
                    continue;
                }
                $done[$at] = true;
                $x = $at % $columns;
                $y = intdiv($at, $columns);
                $a = $this->pixels[($y + $this->top) * $this->width + $this->left + $x];
                foreach ([[1, 0], [-1, 0], [0, 1], [0, -1]] as [$dx, $dy]) {
                    $u = $x + $dx;
                    $v = $y + $dy;
                    if ($u < 0 || $v < 0 || $u >= $columns || $v >= $rows) {
                        continue;
                    }
                    $b = $this->pixels[($v + $this->top) * $this->width + $this->left + $u];
                    $r = ($a >> 16) - ($b >> 16);
                    $g = ($a >> 8 & 255) - ($b >> 8 & 255);
                    $c = ($a & 255) - ($b & 255);
                    $next = $cost + 1 + (int) (sqrt($r * $r + $g * $g + $c * $c) / 2);
                    $to = $v * $columns + $u;
                    if ($next <= $most && $next < ($way[$to] ?? PHP_INT_MAX)) {
                        $way[$to] = $next;
                        $buckets[$next][] = $to;
                    }
                }
            }
        }

        return $way;
    }

    /**
     * Where it was before, as a division. What lies deep in it or far from it is likely to be as it was.
     */
    private function placed(Mask $before): string
    {
        $columns = $this->right - $this->left;
        $rows = $this->bottom - $this->top;
        $labels = '';
        for ($y = $this->top; $y < $this->bottom; $y++) {
            for ($x = $this->left; $x < $this->right; $x++) {
                $labels .= $before->has((int) (($x + 0.5) / $this->scaleX), (int) (($y + 0.5) / $this->scaleY)) ? "\1" : "\0";
            }
        }
        $most = max(2, (int) (max($columns, $rows) * 0.1));
        foreach (self::depth($labels, $columns, $rows, $most) as $k => $depth) {
            $this->place[$k] += (int) (self::UNIT * 5 * $depth / $most) * ($labels[$k] === "\1" ? 1 : -1);
        }

        return $labels;
    }

    /**
     * Steps from each pixel to the border of the division, up to $most.
     *
     * @return list<int>
     */
    private static function depth(string $labels, int $columns, int $rows, int $most): array
    {
        $depth = array_fill(0, $columns * $rows, $most);
        $now = [];
        foreach (array_keys($depth) as $k) {
            $x = $k % $columns;
            if (($x > 0 && $labels[$k - 1] !== $labels[$k]) || ($x + 1 < $columns && $labels[$k + 1] !== $labels[$k]) || ($k >= $columns && $labels[$k - $columns] !== $labels[$k]) || ($k + $columns < $columns * $rows && $labels[$k + $columns] !== $labels[$k])) {
                $depth[$k] = 0;
                $now[] = $k;
            }
        }
        for ($d = 1; $d < $most && $now !== []; $d++) {
            $next = [];
            foreach ($now as $k) {
                $x = $k % $columns;
                foreach ([$x > 0 ? $k - 1 : $k, $x + 1 < $columns ? $k + 1 : $k, $k >= $columns ? $k - $columns : $k, $k + $columns < $columns * $rows ? $k + $columns : $k] as $to) {
                    if ($depth[$to] > $d) {
                        $depth[$to] = $d;
                        $next[] = $to;
                    }
                }
            }
            $now = $next;
        }

        return $depth;
    }

    /** Without specks and pinholes no hand has asked for. */
    private function cleaned(string $labels): string
    {
        $columns = $this->right - $this->left;
        $n = strlen($labels);
        $seen = str_repeat("\0", $n);
        $parts = [];
        $largest = 0;
        for ($begin = 0; $begin < $n; $begin++) {
            if ($seen[$begin] !== "\0") {
                continue;
            }
            $kind = $labels[$begin];
            $seen[$begin] = "\1";
            $part = [$begin];
            $asked = $edge = false;
            for ($i = 0; $i < count($part); $i++) {
                $k = $part[$i];
                $x = $k % $columns;
                $asked = $asked || ($kind === "\1" ? $this->bound[$k] > 0 : $this->bound[$k] < 0);
                $edge = $edge || $x === 0 || $x === $columns - 1 || $k < $columns || $k >= $n - $columns;
                foreach ([$x > 0 ? $k - 1 : -1, $x + 1 < $columns ? $k + 1 : -1, $k - $columns, $k + $columns < $n ? $k + $columns : -1] as $to) {
                    if ($to >= 0 && $seen[$to] === "\0" && $labels[$to] === $kind) {
                        $seen[$to] = "\1";
                        $part[] = $to;
                    }
                }
            }
            if ($kind === "\1") {
                $largest = max($largest, count($part));
            }
            if (! $asked && ! ($kind === "\0" && $edge)) {
                $parts[] = $part;
            }
        }
        foreach ($parts as $part) {
            $isObject = $labels[$part[0]] === "\1";
            if (count($part) < $largest * ($isObject ? self::SPECK : self::PINHOLE)) {
                foreach ($part as $k) {
                    $labels[$k] = $isObject ? "\0" : "\1";
                }
            }
        }

        return $labels;
    }

    /**
     * A division of the work picture at full size: its border is looked for again among the pixels near it, in steps from size to size.
     *
     * @param  int  $by  units by which every pixel belongs to the object rather than not
     */
    private function fine(string $labels, int $by = 0): Mask
    {
        $labels = $this->cleaned($labels);
        [$left, $top, $columns, $rows] = [$this->left, $this->top, $this->right - $this->left, $this->bottom - $this->top];
        $grows = $this->part->width / $this->width;
        $steps = $grows <= 1.01 ? 0 : (int) ceil(log($grows) / log(self::STEP));
        for ($step = 1; $step <= $steps; $step++) {
            $size = $step === $steps ? $this->part->width : (int) round($this->width * $grows ** ($step / $steps));
            $level = $this->levels[$step] ??= $step === $steps ? $this->part : $this->part->resized($size, max(1, (int) round($this->part->height * $size / $this->part->width)));
            [$fromX, $fromY] = [$level->width / $this->width, $level->height / $this->height];
            [$l, $t] = [(int) round($this->left * $fromX), (int) round($this->top * $fromY)];
            $c = max(1, (int) round($this->right * $fromX) - $l);
            $r = max(1, (int) round($this->bottom * $fromY) - $t);
            $labels = $this->along(self::enlarged($labels, $columns, $rows, $c, $r), $level, $l, $t, $c, $r, $by);
            [$left, $top, $columns, $rows] = [$l, $t, $c, $r];
        }
        $runs = [];
        for ($x = 0; $x < $columns; $x++) {
            $column = '';
            for ($k = $x, $n = $columns * $rows; $k < $n; $k += $columns) {
                $column .= $labels[$k];
            }
            for ($at = strpos($column, "\1"); $at !== false; $at = strpos($column, "\1", $end)) {
                $found = strpos($column, "\0", $at);
                $end = $found === false ? $rows : $found;
                $runs[$left + $x][] = $top + $at;
                $runs[$left + $x][] = $top + $end;
            }
        }

        return Mask::ofColumns($this->part->width, $this->part->height, $runs);
    }

    /** A division on more pixels. */
    private static function enlarged(string $labels, int $columns, int $rows, int $toColumns, int $toRows): string
    {
        $from = [];
        for ($x = 0; $x < $toColumns; $x++) {
            $from[] = min($columns - 1, (int) (($x + 0.5) * $columns / $toColumns));
        }
        $large = $row = '';
        $before = -1;
        for ($y = 0; $y < $toRows; $y++) {
            $at = min($rows - 1, (int) (($y + 0.5) * $rows / $toRows));
            if ($at !== $before) {
                $line = substr($labels, $at * $columns, $columns);
                $row = '';
                foreach ($from as $x) {
                    $row .= $line[$x];
                }
                $before = $at;
            }
            $large .= $row;
        }

        return $large;
    }

    /**
     * Looks for the border again among the pixels within BAND of it.
     *
     * @param  string  $labels  of the box on this level, row by row
     */
    private function along(string $labels, Colours $level, int $left, int $top, int $columns, int $rows, int $by): string
    {
        $n = $columns * $rows;
        $band = [];
        for ($y = 0, $k = 0; $y < $rows; $y++) {
            for ($x = 0; $x < $columns; $x++, $k++) {
                $mine = $labels[$k];
                if (($x + 1 < $columns && $labels[$k + 1] !== $mine) || ($y + 1 < $rows && $labels[$k + $columns] !== $mine) || ($mine === "\1" && ($x === 0 || $y === 0 || $x === $columns - 1 || $y === $rows - 1))) {
                    $u1 = max(0, $x - self::BAND);
                    $u2 = min($columns - 1, $x + self::BAND + 1);
                    for ($v = max(0, $y - self::BAND), $v2 = min($rows - 1, $y + self::BAND + 1); $v <= $v2; $v++) {
                        for ($u = $v * $columns + $u1, $end = $v * $columns + $u2; $u <= $end; $u++) {
                            $band[$u] = true;
                        }
                    }
                }
            }
        }
        if ($band === []) {
            return $labels;
        }
        $nodes = array_keys($band);
        sort($nodes);
        $node = array_flip($nodes);
        $bytes = $level->bytes;
        $width = $level->width;
        $height = $level->height;
        $pixel = [];
        foreach ($nodes as $k) {
            $x = $k % $columns + $left;
            $y = intdiv($k, $columns) + $top;
            for ($v = $y > 0 ? $y - 1 : 0, $v2 = $y + 1 < $height ? $y + 1 : $y; $v <= $v2; $v++) {
                for ($u = $x > 0 ? $x - 1 : 0, $u2 = $x + 1 < $width ? $x + 1 : $x; $u <= $u2; $u++) {
                    $at = $v * $width + $u;
                    if (! isset($pixel[$at])) {
                        $pixel[$at] = ord($bytes[3 * $at]) << 16 | ord($bytes[3 * $at + 1]) << 8 | ord($bytes[3 * $at + 2]);
                    }
                }
            }
        }
        $sum = 0;
        foreach ($nodes as $k) {
            $at = (intdiv($k, $columns) + $top) * $width + $k % $columns + $left;
            $rgb = $pixel[$at];
            foreach ([$at + 1, $at + $width] as $to) {
                $other = $pixel[$to] ?? $rgb;
                $sum += (($rgb >> 16) - ($other >> 16)) ** 2 + (($rgb >> 8 & 255) - ($other >> 8 & 255)) ** 2 + (($rgb & 255) - ($other & 255)) ** 2;
            }
        }
        $table = self::costs($sum / (2 * count($nodes)), self::SMOOTH_FINE);
        $m = count($nodes);
        $neighbours = array_fill(0, 8 * $m, -1);
        $cost = array_fill(0, 8 * $m, 0);
        $preference = [];
        $workColumns = $this->right - $this->left;
        $workRows = $this->bottom - $this->top;
        foreach ($nodes as $i => $k) {
            $x = $k % $columns;
            $y = intdiv($k, $columns);
            $at = ($y + $top) * $width + $x + $left;
            $rgb = $pixel[$at];
            $work = min($workRows - 1, (int) (($y + 0.5) * $workRows / $rows)) * $workColumns + min($workColumns - 1, (int) (($x + 0.5) * $workColumns / $columns));
            $key = ($rgb >> 9 & 0x7C00) | ($rgb >> 6 & 0x3E0) | ($rgb >> 3 & 0x1F);
            $prefers = $this->bound[$work] !== 0 ? $this->bound[$work] : $by + $this->said[$work] + ($this->speaks[$key] ??= $this->speak($rgb >> 16, $rgb >> 8 & 255, $rgb & 255));
            foreach (self::AROUND as $d => [$dx, $dy]) {
                $u = $x + $dx;
                $v = $y + $dy;
                if ($u + $left < 0 || $v + $top < 0 || $u + $left >= $width || $v + $top >= $height) {
                    continue;
                }
                $isInside = $u >= 0 && $v >= 0 && $u < $columns && $v < $rows;
                $j = $isInside ? $node[$v * $columns + $u] ?? -1 : -1;
                if ($j >= 0 && $d % 2 === 1) {
                    // told from the other side
                    continue;
                }
                $other = $pixel[$at + $dy * $width + $dx];
                $r = ($rgb >> 16) - ($other >> 16);
                $g = ($rgb >> 8 & 255) - ($other >> 8 & 255);
                $b = ($rgb & 255) - ($other & 255);
                $square = ($r * $r + $g * $g + $b * $b) >> 3;
                $between = $table[$square > 4095 ? 4095 : $square];
                if ($d > 3) {
                    $between = (int) ($between * M_SQRT1_2);
                }
                if ($j >= 0) {
                    $neighbours[8 * $i + $d] = $j;
                    $neighbours[8 * $j + ($d ^ 1)] = $i;
                    $cost[8 * $i + $d] = $cost[8 * $j + ($d ^ 1)] = $between;
                } else {
                    $prefers += $isInside && $labels[$v * $columns + $u] === "\1" ? $between : -$between;
                }
            }
            $preference[] = $prefers;
        }
        $found = (new MinCut($neighbours, $cost, $preference))->solve();
        foreach ($nodes as $i => $k) {
            $labels[$k] = $found[$i];
        }

        return $labels;
    }

    private static function differ(string $a, string $b): int
    {
        return strlen($a) - substr_count($a ^ $b, "\0");
    }

    /** @return list<int> */
    private static function unpack(Colours $colours): array
    {
        $pixels = [];
        $bytes = $colours->bytes;
        $n = strlen($bytes);
        for ($i = 0; $i < $n; $i += 3) {
            $pixels[] = ord($bytes[$i]) << 16 | ord($bytes[$i + 1]) << 8 | ord($bytes[$i + 2]);
        }

        return $pixels;
    }
}
