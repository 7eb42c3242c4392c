<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Assist\Conversion;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Found;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\Mend;
use Skeno\Core\Raster\ScanConversion;

/**
 * Finds things that cover an area by what their pixels look like: a forest over features of each pixel says how likely it is of which class; a
 * second one that also sees what the first says round each pixel (auto-context, after Tu, 2008) tells the inside of a thing from its rim; from
 * the insides single things are grown, and each is told from what is none by its size, form and how sure its pixels are.
 */
final class Regions
{
    /** Examples it needs at least. */
    public const LEAST = 4;

    /** Things of each class it needs at least. */
    public const THINGS = 8;

    private const MOST = 160;

    /** px a thing of middling size should be across when it is looked at. */
    private const ACROSS = 20.0;

    private const SMALLEST = 160;

    private const LARGEST = 448;

    /** Pixels learned from, of each picture. */
    private const SAMPLES = 2600;

    private const TREES = 6;

    /** How deep from the rim on pixels are the inside of a thing, as a share of its half width. */
    private const CORE = 0.42;

    /** What must be inside. */
    private const FROM = 0.5;

    /** Share of the usual area below which it is a speck. */
    private const SPECK = 0.03;

    private const LEAST_SURE = 0.02;

    /** How likely a class is close to a pixel, of 255, that is not looked at twice. */
    private const NOTHING = 20;

    private const RISE = 0.12;

    /**
     * @param  list<string>  $classes
     * @param  array<int, float>  $across  of each class px of the work size
     * @param  list<array{float, float, float, float}>  $trim  of each class: what its boxes lack left, above, right, below, as shares of their sides
     * @param  array<int, array<int, float>>  $judge  of each class: weights of what is said of a thing, the last one alone
     * @param  list<string>  $drawn  of each class how its things are drawn: box, turned_box, ellipse, polygon or mask
     */
    private function __construct(public readonly array $classes, public readonly int $side, private array $across, private Forest $plain, private Forest $seeing, private array $trim, private array $judge, private array $drawn)
    {
    }

    /**
     * @param  list<Example>  $examples
     * @param  list<string>  $classes  keys
     * @param  null|callable(float): void  $progress  told from 0 to 1; what it throws ends it
     * @param  bool  $boxes  whether the box round a thing is all that is asked for, however it is drawn
     *
     * @throws InvalidValue when there is too little to learn from
     */
    public static function learn(array $examples, array $classes, int $seed = 1, ?callable $progress = null, bool $boxes = false): self
    {
        $progress ??= static function (float $part): void {
        };
        if (count($examples) < self::LEAST) {
            throw InvalidValue::at('examples', count($examples), 'at least '.self::LEAST.' accepted items');
        }
        $examples = self::some($examples, $seed);
        [$side, $across, $how] = self::scale($examples, $classes);
        $how = $boxes ? array_fill(0, count($classes), Shape::Box->value) : $how;
        $count = count($classes);
        $random = new Randomizer(new Mt19937($seed));
        // two halves: what the first forest says of a picture it has learned from would be too good to learn from
        [$halves, $again] = [[new Drawn, new Drawn], [new Drawn, new Drawn]];
        $pixels = [];
        foreach ($examples as $e => $example) {
            [$width, $height] = self::size($side, $example->width, $example->height);
            $target = self::target($example, $classes, $width, $height);
            $halves[$e % 2]->take(Features::of($example->picture($width, $height)), $pixels[$e] = self::draw($target, $count, $random), $target);
            $progress(0.25 * ($e + 1) / count($examples));
        }
        $plain = static fn (int $half): Forest => Forest::grow($halves[$half]->columns, $halves[$half]->plainly(), $count + 1, $halves[$half]->weights($count + 1, false), self::TREES, 6, $seed + $half, static fn (float $p) => $progress(0.25 + 0.1 * ($half + $p)));
        $first = [$plain(0), $plain(1)];
        foreach ($examples as $e => $example) {
            [$width, $height] = self::size($side, $example->width, $example->height);
            $features = Features::of($example->picture($width, $height));
            $again[$e % 2]->take([...$features, ...self::context($first[1 - $e % 2]->likely($features), $width, $height, $across)], $pixels[$e], self::target($example, $classes, $width, $height));
            $progress(0.45 + 0.2 * ($e + 1) / count($examples));
        }
        $seeing = static fn (int $half): Forest => Forest::grow($again[$half]->columns, $again[$half]->labels, 2 * $count + 1, $again[$half]->weights(2 * $count + 1, true), self::TREES, 6, $seed + 2 + $half, static fn (float $p) => $progress(0.65 + 0.05 * ($half + $p)));
        $second = [$seeing(0), $seeing(1)];
        $bare = static fn (Forest $plain, Forest $seeing): self => new self($classes, $side, $across, $plain, $seeing, array_fill(0, $count, [0.0, 0.0, 0.0, 0.0]), array_fill(0, $count, []), $how);
        $model = $bare($first[0]->with($first[1]), $second[0]->with($second[1]));
        $model->calibrate($examples, [$bare($first[1], $second[1]), $bare($first[0], $second[0])], static fn (float $p) => $progress(0.75 + 0.25 * $p));

        return $model;
    }

    /**
     * Not more than can be learned from in some minutes.
     *
     * @param  list<Example>  $examples
     * @return list<Example>
     */
    private static function some(array $examples, int $seed): array
    {
        return count($examples) <= self::MOST ? $examples : array_slice((new Randomizer(new Mt19937($seed)))->shuffleArray($examples), 0, self::MOST);
    }

    /**
     * The longest side pictures are looked at with, so that things of the smallest class can be told; how large things are then, and how most are drawn.
     *
     * @param  list<Example>  $examples
     * @param  list<string>  $classes
     * @return array{int, array<int, float>, list<string>}
     *
     * @throws InvalidValue
     */
    private static function scale(array $examples, array $classes): array
    {
        $shares = $kinds = array_fill_keys($classes, []);
        foreach ($examples as $example) {
            foreach ($example->things as ['class' => $class, 'geometry' => $shape]) {
                if (isset($shares[$class]) && ($shape instanceof Region || $shape instanceof Mask)) {
                    $box = $shape->bounds();
                    $shares[$class][] = sqrt(max(1.0, $box->width * $box->height)) / max($example->width, $example->height);
                    $kind = Shape::of($shape)->value;
                    $kinds[$class][$kind] = ($kinds[$class][$kind] ?? 0) + 1;
                }
            }
        }
        $medians = $how = [];
        foreach ($shares as $class => $all) {
            if (count($all) < self::THINGS) {
                throw InvalidValue::at('classes', $class, 'a class with at least '.self::THINGS.' accepted things that cover an area; there are '.count($all));
            }
            sort($all);
            $medians[] = $all[intdiv(count($all), 2)];
            arsort($kinds[$class]);
            $how[] = (string) array_key_first($kinds[$class]);
        }
        $side = (int) round(min(self::LARGEST, max(self::SMALLEST, self::ACROSS / min(1.0, ...$medians))));

        return [$side, array_map(static fn (float $share): float => $share * $side, $medians), $how];
    }

    /** @return array{int, int} */
    private static function size(int $side, int $width, int $height): array
    {
        $by = min(1.0, $side / max($width, $height));

        return [max(8, (int) round($width * $by)), max(8, (int) round($height * $by))];
    }

    /**
     * What each pixel is: 0 ground, 2k + 1 inside of class k, 2k + 2 its rim, 255 not known.
     *
     * @param  list<string>  $classes
     */
    private static function target(Example $example, array $classes, int $width, int $height): string
    {
        $target = str_repeat("\0", $width * $height);
        $fx = $width / $example->width;
        $fy = $height / $example->height;
        $paint = static function (Mask $mask, string $value, bool $over = true) use (&$target, $width): void {
            foreach ($mask->columns() as $x => $rows) {
                for ($k = 0, $n = count($rows); $k < $n; $k += 2) {
                    for ($y = $rows[$k]; $y < $rows[$k + 1]; $y++) {
                        if ($over || $target[$y * $width + $x] === "\0") {
                            $target[$y * $width + $x] = $value;
                        }
                    }
                }
            }
        };
        foreach ($example->unknown as $shape) {
            $mask = self::mask($shape, $width, $height, $fx, $fy);
            if ($mask !== null) {
                $paint($mask, "\xff");
            }
        }
        $places = array_flip($classes);
        foreach ($example->things as $thing) {
            $k = $places[$thing['class']] ?? null;
            $mask = $k === null ? null : self::mask($thing['geometry'], $width, $height, $fx, $fy);
            if ($k === null || $mask === null) {
                continue;
            }
            if ($thing['geometry'] instanceof Box) {
                // what lies in the corners of a box is mostly ground, but who knows
                $paint($mask, "\xff", false);
                $box = $thing['geometry'];
                $paint(self::disc($box, 0.94, $width, $height, $fx, $fy), chr(2 * $k + 2));
                $paint(self::disc($box, 1 - self::CORE, $width, $height, $fx, $fy), chr(2 * $k + 1));

                continue;
            }
            $paint($mask, chr(2 * $k + 2));
            $paint(self::core($mask), chr(2 * $k + 1));
        }

        return $target;
    }

    private static function disc(Box $box, float $part, int $width, int $height, float $fx, float $fy): Mask
    {
        $ring = [];
        for ($i = 0; $i < 24; $i++) {
            $ring[] = $fx * ($box->x + $box->width / 2 * (1 + $part * cos($i * M_PI / 12)));
            $ring[] = $fy * ($box->y + $box->height / 2 * (1 + $part * sin($i * M_PI / 12)));
        }

        return ScanConversion::mask([$ring], $width, $height);
    }

    private static function mask(mixed $shape, int $width, int $height, float $fx, float $fy): ?Mask
    {
        if ($shape instanceof Mask) {
            // each pixel of the smaller picture is what lies in its middle
            $columns = [];
            $all = $shape->columns();
            for ($x = 0; $x < $width; $x++) {
                $rows = $all[(int) (($x + 0.5) / $fx)] ?? [];
                for ($k = 0, $n = count($rows); $k < $n; $k += 2) {
                    $from = (int) ceil($rows[$k] * $fy - 0.5);
                    $to = min($height, (int) ceil($rows[$k + 1] * $fy - 0.5));
                    if ($from < $to) {
                        $columns[$x][] = $from;
                        $columns[$x][] = $to;
                    }
                }
            }

            return Mask::ofColumns($width, $height, $columns);
        }
        if (! $shape instanceof Region) {
            return null;
        }
        $rings = [];
        foreach ($shape->rings() as $ring) {
            foreach ($ring as $i => $value) {
                $ring[$i] = $value * ($i % 2 === 0 ? $fx : $fy);
            }
            $rings[] = $ring;
        }

        return ScanConversion::mask($rings, $width, $height);
    }

    /** What is left of a mask when its rim is peeled off until only its inside is there. */
    private static function core(Mask $mask): Mask
    {
        $peels = [];
        for ($left = $mask; ! $left->isEmpty(); $left = $left->intersection($left->moved(1, 0))->intersection($left->moved(-1, 0))->intersection($left->moved(0, 1))->intersection($left->moved(0, -1))) {
            $peels[] = $left;
        }

        return $peels === [] ? $mask : $peels[(int) round(self::CORE * (count($peels) - 1))];
    }

    /**
     * Pixels to learn from: of each thing as many as of the ground.
     *
     * @return list<int>
     */
    private static function draw(string $target, int $classes, Randomizer $random): array
    {
        $of = [];
        for ($i = 0, $n = strlen($target); $i < $n; $i++) {
            $value = ord($target[$i]);
            if ($value !== 255) {
                $of[$value === 0 ? 0 : intdiv($value + 1, 2)][] = $i;
            }
        }
        $drawn = [];
        foreach ($of as $class => $pixels) {
            $many = min(count($pixels), $class === 0 ? intdiv(self::SAMPLES, 2) : intdiv(self::SAMPLES, 2 * $classes));
            foreach ($random->pickArrayKeys($pixels, max(1, $many)) as $key) {
                $drawn[] = $pixels[$key];
            }
        }

        return $drawn;
    }

    /**
     * What is said of the surroundings of each pixel: blurred, and beside it in four directions.
     *
     * @param  array<int, array<int, float>>  $likely
     * @param  array<int, float>  $across
     * @return list<string>
     */
    private static function context(array $likely, int $width, int $height, array $across): array
    {
        $features = [];
        foreach ($likely as $k => $map) {
            $bytes = '';
            foreach ($map as $p) {
                $bytes .= chr((int) (255 * $p));
            }
            $image = Features::plane($bytes, $width, $height);
            foreach ([0.06, 0.16, 0.4] as $part) {
                $features[] = $now = Features::ofPlane(Features::blurred($image, max(0.7, $part * $across[$k])));
                if ($part === 0.16) {
                    foreach ([0.42, 0.75] as $far) {
                        $d = max(1, (int) round($far * $across[$k]));
                        array_push($features, self::beside($now, $width, $height, $d, 0), self::beside($now, $width, $height, -$d, 0), self::beside($now, $width, $height, 0, $d), self::beside($now, $width, $height, 0, -$d));
                    }
                }
            }
        }

        return $features;
    }

    /**
     * Pixels near which the first forest has seen anything: what is ground there is not looked at again. On the demo's pictures nothing that is found
     * from 0.3 on changes by it.
     *
     * @param  list<string>  $context
     * @return list<int>
     */
    private static function worthwhile(array $context, int $classes): array
    {
        $each = intdiv(count($context), $classes);
        // what was seen of each class close by
        $near = [];
        for ($k = 0; $k < $classes; $k++) {
            $near[] = $context[$k * $each + 1];
        }
        $pixels = [];
        for ($i = 0, $n = strlen($context[0]); $i < $n; $i++) {
            foreach ($near as $map) {
                if (ord($map[$i]) > self::NOTHING) {
                    $pixels[] = $i;

                    break;
                }
            }
        }

        return $pixels;
    }

    /** What lies so far beside each pixel; beyond the edge, the edge. */
    private static function beside(string $map, int $width, int $height, int $dx, int $dy): string
    {
        $out = '';
        for ($y = 0; $y < $height; $y++) {
            $row = substr($map, $width * min($height - 1, max(0, $y + $dy)), $width);
            if ($dx > 0) {
                $row = substr($row, min($dx, $width)).str_repeat($row[$width - 1], min($dx, $width));
            } elseif ($dx < 0) {
                $row = str_repeat($row[0], min(-$dx, $width)).substr($row, 0, max(0, $width + $dx));
            }
            $out .= $row;
        }

        return $out;
    }

    /**
     * Everything that might be a thing, with what is said of it.
     *
     * @return list<array{class: int, pixels: list<int>, said: array<int, float>, box: array{float, float, float, float}}> box: left, top, right, bottom in work px
     */
    private function candidates(Colours $picture): array
    {
        $width = $picture->width;
        $height = $picture->height;
        $features = Features::of($picture);
        // what is round a pixel is blurred anyway: half of the trees say it as well
        $context = self::context($this->plain->every(2)->likely($features), $width, $height, $this->across);
        $seen = $this->seeing->likely([...$features, ...$context], self::worthwhile($context, count($this->classes)));
        $found = [];
        foreach ($this->classes as $k => $_) {
            $core = $seen[2 * $k];
            $rim = $seen[2 * $k + 1];
            $inside = [];
            $bytes = '';
            foreach ($core as $i => $p) {
                $inside[] = $p + $rim[$i];
                $bytes .= chr((int) (255 * $p));
            }
            $deep = [];
            foreach (str_split(Features::ofPlane(Features::blurred(Features::plane($bytes, $width, $height), max(0.7, 0.09 * $this->across[$k])))) as $byte) {
                $deep[] = ord($byte) / 255;
            }
            foreach (Spots::of($inside, $deep, $width, self::FROM, self::RISE) as $pixels) {
                $thing = $this->told($pixels, $inside, $deep, $k, $width, $height);
                if ($thing !== null) {
                    $found[] = ['class' => $k] + $thing;
                }
            }
        }

        return $found;
    }

    /**
     * @param  list<int>  $pixels
     * @param  array<int, float>  $inside
     * @param  array<int, float>  $deep
     * @return ?array{pixels: list<int>, said: array<int, float>, box: array{float, float, float, float}}
     */
    private function told(array $pixels, array $inside, array $deep, int $k, int $width, int $height): ?array
    {
        $n = count($pixels);
        $across = $this->across[$k];
        if ($n < max(6.0, self::SPECK * $across * $across)) {
            return null;
        }
        [$left, $top, $right, $bottom] = [$width, $height, 0, 0];
        $sum = $most = $sx = $sy = $sxx = $syy = $sxy = 0.0;
        foreach ($pixels as $i) {
            $x = $i % $width;
            $y = intdiv($i, $width);
            $left = min($left, $x);
            $right = max($right, $x + 1);
            $top = min($top, $y);
            $bottom = max($bottom, $y + 1);
            $sum += $inside[$i];
            $most = max($most, $deep[$i]);
            $sx += $x;
            $sy += $y;
            $sxx += $x * $x;
            $syy += $y * $y;
            $sxy += $x * $y;
        }
        $vx = $sxx / $n - ($sx / $n) ** 2 + 1 / 12;
        $vy = $syy / $n - ($sy / $n) ** 2 + 1 / 12;
        $c = $sxy / $n - $sx * $sy / $n / $n;
        // area to that of an ellipse with the same spread: 1 for a disc, less for what is ragged
        $full = $n / (4 * M_PI * sqrt(max(1e-6, $vx * $vy - $c * $c)));
        $root = sqrt(($vx - $vy) ** 2 + 4 * $c * $c);
        $long = sqrt(max(1.0, ($vx + $vy + $root) / max(1e-6, $vx + $vy - $root)));
        $w = $right - $left;
        $h = $bottom - $top;
        $size = log(sqrt($w * $h) / $across);

        return ['pixels' => $pixels, 'said' => [$sum / $n, $most, $size, $size * $size, $full, log($long), $n / ($w * $h), 1.0], 'box' => [(float) $left, (float) $top, (float) $right, (float) $bottom]];
    }

    /**
     * Learns from the examples what of what it finds is a thing, and how its boxes must be trimmed.
     *
     * @param  list<Example>  $examples
     * @param  array{self, self}  $halves  what has not learned from the even examples, and from the odd ones
     * @param  callable(float): void  $progress
     */
    private function calibrate(array $examples, array $halves, callable $progress): void
    {
        $said = $is = $off = array_fill(0, count($this->classes), []);
        foreach ($examples as $e => $example) {
            [$width, $height] = self::size($this->side, $example->width, $example->height);
            $fx = $width / $example->width;
            $fy = $height / $example->height;
            foreach ($halves[$e % 2]->candidates($example->picture($width, $height)) as $candidate) {
                [$l, $t, $r, $b] = $candidate['box'];
                $own = Box::of($l / $fx, $t / $fy, ($r - $l) / $fx, ($b - $t) / $fy);
                $best = 0.0;
                $fits = null;
                foreach ($example->things as $thing) {
                    if ($thing['class'] === $this->classes[$candidate['class']] && ($thing['geometry'] instanceof Region || $thing['geometry'] instanceof Mask)) {
                        $bounds = $thing['geometry']->bounds();
                        $iou = $bounds->iou($own);
                        if ($iou > $best) {
                            [$best, $fits] = [$iou, $bounds];
                        }
                    }
                }
                if ($fits === null || $best < 0.4) {
                    foreach ($example->unknown as $shape) {
                        if ($shape instanceof Region && $shape->bounds()->iou($own) > 0.2) {
                            continue 2;
                        }
                    }
                }
                $said[$candidate['class']][] = $candidate['said'];
                $is[$candidate['class']][] = $best >= 0.5 ? 1 : 0;
                if ($fits !== null && $best >= 0.5) {
                    $off[$candidate['class']][] = [($fits->x - $own->x) / $own->width, ($fits->y - $own->y) / $own->height, ($fits->right() - $own->right()) / $own->width, ($fits->bottom() - $own->bottom()) / $own->height];
                }
            }
            $progress(($e + 1) / count($examples));
        }
        foreach ($this->classes as $k => $_) {
            $this->judge[$k] = Logistic::fit($said[$k], $is[$k], 1.0);
            foreach ([0, 1, 2, 3] as $side) {
                $all = array_column($off[$k], $side);
                sort($all);
                $this->trim[$k][$side] = $all === [] ? 0.0 : $all[intdiv(count($all), 2)];
            }
        }
    }

    /**
     * @param  callable(int, int, int, int, int, int): Colours  $part  a part of the picture in a size: left, top, width, height, columns, rows
     * @param  int  $width  of the picture, in px, $height likewise
     * @return list<Found> in px of the picture, the surest first, from LEAST_SURE on
     */
    public function find(callable $part, int $width, int $height): array
    {
        [$columns, $rows] = self::size($this->side, $width, $height);
        $found = [];
        foreach ($this->candidates($part(0, 0, $width, $height, $columns, $rows)) as $candidate) {
            $sure = Logistic::of($this->judge[$candidate['class']], $candidate['said']);
            $shape = $sure < self::LEAST_SURE ? null : $this->shape($candidate, $columns, $rows, $width, $height);
            if ($shape !== null) {
                $found[] = new Found($this->classes[$candidate['class']], $sure, [$shape]);
            }
        }
        usort($found, static fn (Found $a, Found $b): int => $b->confidence <=> $a->confidence);

        return $found;
    }

    /**
     * A thing as its class is drawn; null when nothing is left of it.
     *
     * @param  array{class: int, pixels: list<int>, said: array<int, float>, box: array{float, float, float, float}}  $candidate
     */
    private function shape(array $candidate, int $columns, int $rows, int $width, int $height): ?Flat
    {
        $k = $candidate['class'];
        [$fx, $fy] = [$columns / $width, $rows / $height];
        if ($this->drawn[$k] === Shape::Box->value) {
            [$l, $t, $r, $b] = $candidate['box'];
            [$dl, $dt, $dr, $db] = $this->trim[$k];
            [$w, $h] = [$r - $l, $b - $t];
            $l = max(0.0, ($l + $dl * $w) / $fx);
            $t = max(0.0, ($t + $dt * $h) / $fy);
            $r = min((float) $width, ($r + $dr * $w) / $fx);
            $b = min((float) $height, ($b + $db * $h) / $fy);

            return $r - $l < 1 || $b - $t < 1 ? null : Box::of(round($l, 1), round($t, 1), round($r - $l, 1), round($b - $t, 1));
        }
        if ($this->drawn[$k] === Shape::Ellipse->value || $this->drawn[$k] === Shape::TurnedBox->value) {
            return $this->turned($candidate, $columns, $fx, $fy);
        }
        $lines = [];
        foreach ($candidate['pixels'] as $i) {
            $lines[$i % $columns][] = intdiv($i, $columns);
        }
        ksort($lines);
        $runs = [];
        foreach ($lines as $x => $ys) {
            sort($ys);
            $column = [];
            foreach ($ys as $y) {
                if ($column !== [] && $column[count($column) - 1] === $y) {
                    $column[count($column) - 1] = $y + 1;
                } else {
                    array_push($column, $y, $y + 1);
                }
            }
            $runs[$x] = $column;
        }
        // holes of a pixel are noise, and the stairs of large pixels are none of the thing's edge
        $outline = Conversion::outline(Mend::mask(Mask::ofColumns($columns, $rows, $runs), 4), 0.7);
        $rings = [];
        foreach ($outline->rings() as $ring) {
            foreach ($ring as $i => $value) {
                $ring[$i] = round($i % 2 === 0 ? min((float) $width, $value / $fx) : min((float) $height, $value / $fy), 1);
            }
            $rings[] = $ring;
        }
        if ($this->drawn[$k] === Shape::Mask->value) {
            $mask = ScanConversion::mask($rings, $width, $height);

            return $mask->isEmpty() ? null : $mask;
        }
        try {
            return Polygon::of($rings);
        } catch (InvalidValue) {
            // rounded to tenths of a pixel its edges meet: it is too thin to be outlined
            return null;
        }
    }

    /**
     * The ellipse, or the box round it, with the same middle, direction and spread.
     *
     * @param  array{class: int, pixels: list<int>, said: array<int, float>, box: array{float, float, float, float}}  $candidate
     */
    private function turned(array $candidate, int $columns, float $fx, float $fy): Flat
    {
        $n = count($candidate['pixels']);
        $sx = $sy = $sxx = $syy = $sxy = 0.0;
        foreach ($candidate['pixels'] as $i) {
            $x = ($i % $columns + 0.5) / $fx;
            $y = (intdiv($i, $columns) + 0.5) / $fy;
            $sx += $x;
            $sy += $y;
            $sxx += $x * $x;
            $syy += $y * $y;
            $sxy += $x * $y;
        }
        [$cx, $cy] = [$sx / $n, $sy / $n];
        [$vx, $vy, $c] = [$sxx / $n - $cx * $cx + 1 / (12 * $fx * $fx), $syy / $n - $cy * $cy + 1 / (12 * $fy * $fy), $sxy / $n - $cx * $cy];
        $root = sqrt(($vx - $vy) ** 2 + 4 * $c * $c);
        $angle = rad2deg(atan2(2 * $c, $vx - $vy) / 2);
        $long = sqrt(max(0.25, ($vx + $vy + $root) / 2));
        $short = sqrt(max(0.25, ($vx + $vy - $root) / 2));

        // half axes of an ellipse are twice its spread, half sides of a rectangle √3 times
        return $this->drawn[$candidate['class']] === Shape::Ellipse->value
            ? Ellipse::of(round($cx, 1), round($cy, 1), round(2 * $long, 1), round(2 * $short, 1), round(fmod($angle + 360, 360), 1))
            : TurnedBox::of(round($cx, 1), round($cy, 1), round(2 * sqrt(3) * $long, 1), round(2 * sqrt(3) * $short, 1), round(fmod($angle + 360, 360), 1));
    }

    public function pack(): string
    {
        $packed = pack('vv', count($this->classes), $this->side);
        foreach ($this->classes as $k => $class) {
            $packed .= Packed::ofText($class).Packed::ofText($this->drawn[$k]).pack('g5', $this->across[$k], ...$this->trim[$k]).pack('v', count($this->judge[$k])).pack('g*', ...$this->judge[$k]);
        }

        return $packed.Packed::ofText($this->plain->pack()).Packed::ofText($this->seeing->pack());
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $read = new Packed($packed);
        [$count, $side] = $read->ints('v', 2);
        $classes = $drawn = $across = $trim = $judge = [];
        for ($k = 0; $k < $count; $k++) {
            $classes[] = $read->text();
            $drawn[] = $read->text();
            [$across[], $l, $t, $r, $b] = $read->floats(5);
            $trim[] = [$l, $t, $r, $b];
            $judge[] = $read->floats($read->ints('v', 1)[0]);
        }
        $model = new self($classes, $side, $across, Forest::unpack($read->text()), Forest::unpack($read->text()), $trim, $judge, $drawn);
        $read->end();

        return $model;
    }
}
