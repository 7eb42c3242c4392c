<?php

declare(strict_types=1);

namespace Skeno\Demo;

use RuntimeException;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Volume\Grid;
use Skeno\Core\Volume\Laid;

/**
 * The demo project "Fruit CT": apples in a scanner, each with its core, some with a bruise under the skin or a tunnel that a larva has eaten. An
 * apple is a few formulas of radius and direction, so what every voxel is of is known.
 */
final class FruitCt
{
    /** Voxels, first axis fastest, and mm of each. */
    public const SIZES = [96, 96, 72];

    public const SPACING = [0.9, 0.9, 1.2];

    /** As a scanner measures: air is -1000, water 0. */
    private const AIR = -1000.0;

    private const FLESH = -170.0;

    private const SKIN = -60.0;

    private const CAVITY = -720.0;

    private const SEED = 130.0;

    private const BRUISE = -45.0;

    private const TUNNEL = -830.0;

    /** mm over which one thing goes over into the next. */
    private const SOFT = 0.7;

    private readonly float $radius;

    private readonly float $turn;

    /** @var ?array{float, float, float, float, float} direction of the bruise, its radius and how deep it goes, mm */
    private readonly ?array $bruise;

    /** @var list<array{float, float, float}> where the tunnel leads, mm from the middle */
    private readonly array $tunnel;

    private readonly Noise $noise;

    public function __construct(Chance $chance, bool $isBruised, bool $isEaten)
    {
        $this->radius = $chance->between(34.0, 36.5);
        $this->turn = $chance->between(0, 2 * M_PI);
        $angle = $chance->between(0, 2 * M_PI);
        $this->bruise = $isBruised ? [cos($angle) * 0.94, sin($angle) * 0.94, 0.34, $chance->between(16.0, 19.0), $chance->between(8.0, 10.0)] : null;
        $tunnel = [];
        $from = $angle + $chance->between(1.8, 2.6);
        for ($i = 0; $isEaten && $i <= 16; $i++) {
            // winding from below the equator at the skin into the core
            $t = $i / 16;
            $r = (1 - $t) * ($this->radius + 1.5) + $t * 6.0;
            $tunnel[] = [$r * cos($from + 0.9 * $t + 0.18 * sin(9 * $t)), $r * sin($from + 0.9 * $t), -11.0 + 9.0 * $t + 1.6 * sin(7 * $t)];
        }
        $this->tunnel = $tunnel;
        $this->noise = new Noise($chance->int(1, 1 << 30));
    }

    /** @return list<array{path: string, seed: string, bruised: bool, eaten: bool}> */
    public static function plan(): array
    {
        return [
            ['path' => 'winterholt/apple-1.nii.gz', 'seed' => 'ct/1', 'bruised' => true, 'eaten' => true],
            ['path' => 'winterholt/apple-2.nii.gz', 'seed' => 'ct/2', 'bruised' => true, 'eaten' => false],
        ];
    }

    public static function grid(): Grid
    {
        [$x, $y, $z] = self::SPACING;

        return Grid::of(self::SIZES, [-$x, 0.0, 0.0, 47.5 * $x, 0.0, -$y, 0.0, 47.5 * $y, 0.0, 0.0, $z, -35.5 * $z], true);
    }

    /**
     * Writes the scan as NIfTI-1.
     *
     * @return array<string, array<int, array{size: array{int, int}, counts: string}>> what its parts truly are on the slices of the sheet, by class, then slice
     */
    public function write(string $target): array
    {
        [$width, $height, $depth] = self::SIZES;
        $grid = self::grid();
        $header = str_pad(pack('V', 348), 348, "\0");
        foreach ([40 => pack('v8', 3, $width, $height, $depth, 1, 1, 1, 1), 70 => pack('v2', 4, 16), 76 => pack('g4', 1, ...self::SPACING), 108 => pack('g3', 352, 1, 0), 123 => "\2", 148 => 'an apple, made up', 252 => pack('v2', 0, 1), 280 => pack('g12', ...$grid->affine), 344 => "n+1\0"] as $at => $bytes) {
            $header = substr_replace($header, $bytes, $at, strlen($bytes));
        }
        $out = gzopen($target, 'wb6') ?: throw new RuntimeException("{$target} can't be written");
        gzwrite($out, "{$header}\0\0\0\0");
        $columns = [];
        $laid = Laid::of($grid);
        for ($k = 0; $k < $depth; $k++) {
            $slice = '';
            $of = [];
            for ($j = 0; $j < $height; $j++) {
                for ($i = 0; $i < $width; $i++) {
                    [$value, $class] = $this->at(($i - 47.5) * self::SPACING[0], ($j - 47.5) * self::SPACING[1], ($k - 35.5) * self::SPACING[2]);
                    $slice .= pack('v', (int) round($value) & 0xFFFF);
                    if ($class !== '') {
                        $of[$class][$i][$j] = true;
                    }
                }
            }
            gzwrite($out, $slice);
            // (the scan lies on the sheet as in its file)
            foreach ($of as $class => $voxels) {
                ksort($voxels);
                $columns[$class][$laid->slice($k)] = Mask::ofColumns($width, $height, array_map(self::runs(...), $voxels))->toArray();
            }
        }
        gzclose($out);

        return $columns;
    }

    /**
     * @param  array<int, true>  $rows
     * @return list<int>
     */
    private static function runs(array $rows): array
    {
        ksort($rows);
        $runs = [];
        $last = -2;
        foreach (array_keys($rows) as $y) {
            if ($y !== $last + 1) {
                if ($last >= 0) {
                    $runs[] = $last + 1;
                }
                $runs[] = $y;
            }
            $last = $y;
        }
        $runs[] = $last + 1;

        return $runs;
    }

    /** @return array{float, string} what is measured there, and what class it is of; empty: none */
    private function at(float $x, float $y, float $z): array
    {
        $flat = sqrt($x * $x + $y * $y);
        $r = sqrt($flat * $flat + $z * $z);
        $angle = atan2($y, $x);
        // an apple: wider above, five soft ribs, a hollow at the stalk and one at the eye
        $up = $r > 0 ? $z / $r : 0.0;
        $skin = $this->radius * (1 + 0.07 * $up - 0.03 * $up * $up + 0.012 * cos(5 * ($angle + $this->turn)) * (1 - $up * $up));
        $hollow = $z > 0 ? 13.0 * exp(-($flat / 7.5) ** 2) : 8.0 * exp(-($flat / 7.0) ** 2);
        $inside = $skin - $r - $hollow * abs($up) ** 6;
        $cloud = $this->noise->at($x / 9, $y / 9, $z / 9);
        $value = self::AIR;
        $class = '';
        $value = self::mix($value, self::SKIN, $inside);
        $value = self::mix($value, self::FLESH + 55 * $cloud - 1.2 * max(0.0, $inside), $inside - 1.3);
        if ($this->bruise !== null && $inside > 0) {
            [$bx, $by, $bz, $wide, $deep] = $this->bruise;
            $across = $r > 0 ? max(0.0, 1 - (($x * $bx + $y * $by + $z * $bz) / $r) ** 2) : 1.0;
            $ahead = $x * $bx + $y * $by + $z * $bz > 0;
            $in = $ahead ? 1 - (sqrt($across) * $r / $wide) ** 2 - ($inside / $deep) ** 2 + 0.25 * $cloud : -1.0;
            $value = self::mix($value, self::BRUISE + 30 * $cloud, 4 * $in);
            $class = $in > 0 && $inside > 0.6 ? 'bruise' : $class;
        }
        // the core: five chambers round the middle, a seed in each
        $core = 1 - ($flat / (11.5 - 1.5 * cos(5 * ($angle + $this->turn)))) ** 2 - (($z + 1.5) / 14.0) ** 2;
        if ($core > 0) {
            $value = self::mix($value, self::FLESH + 95, 6 * $core);
            $class = 'core';
            $part = fmod($angle + $this->turn + 2 * M_PI, 2 * M_PI / 5) - M_PI / 5;
            [$out, $side] = [$flat * cos($part), $flat * sin($part)];
            $chamber = 1 - (($out - 6.0) / 4.4) ** 2 - ($side / 2.1) ** 2 - (($z + 1.5) / 8.5) ** 2;
            $value = self::mix($value, self::CAVITY, 2.5 * $chamber);
            $seed = 1 - (($out - 5.6) / 1.9) ** 2 - (($side - 0.4) / 1.25) ** 2 - (($z + 2.5) / 4.2) ** 2;
            $value = self::mix($value, self::SEED, 2 * $seed);
        }
        $near = 1e9;
        $last = abs($z + 6.5) < 10 && $inside > -0.5 ? count($this->tunnel) - 1 : 0;
        for ($i = 0; $i < $last; $i++) {
            [$ax, $ay, $az] = $this->tunnel[$i];
            [$dx, $dy, $dz] = [$this->tunnel[$i + 1][0] - $ax, $this->tunnel[$i + 1][1] - $ay, $this->tunnel[$i + 1][2] - $az];
            $t = min(1.0, max(0.0, (($x - $ax) * $dx + ($y - $ay) * $dy + ($z - $az) * $dz) / ($dx * $dx + $dy * $dy + $dz * $dz)));
            $near = min($near, ($x - $ax - $t * $dx) ** 2 + ($y - $ay - $t * $dy) ** 2 + ($z - $az - $t * $dz) ** 2);
        }
        $in = 2.0 + 0.5 * $cloud - sqrt($near);
        if ($in > -2) {
            $value = self::mix($value, self::TUNNEL + 180 * max(0.0, $cloud), $in);
            $class = $in > 0 && $inside > 0 ? 'tunnel' : $class;
        }
        $stalk = $z > 18 && $z < 42 ? 1.3 - sqrt(($x - 0.12 * ($z - 18)) ** 2 + $y * $y) : -9.0;
        $value = self::mix($value, 40.0, $stalk);

        return [max(-1024.0, $value + 14 * $this->noise->grain($x, $y, $z)), $class];
    }

    /** From one value to another across a rim, $in mm inside of it. */
    private static function mix(float $from, float $to, float $in): float
    {
        if ($in <= -self::SOFT || $in >= self::SOFT) {
            return $in > 0 ? $to : $from;
        }
        $t = ($in / self::SOFT + 1) / 2;

        return $from + ($to - $from) * $t * $t * (3 - 2 * $t);
    }

    /**
     * The work done so far: of the first apple every fourth slice painted and the ones between worked out, a little too large; the second waits.
     *
     * @param  array<string, array<string, array<int, mixed>>>  $truth  by path
     * @return list<array<string, mixed>> as Season::work
     */
    public static function work(array $truth): array
    {
        $work = [];
        foreach (array_slice(array_keys($truth), 0, 1) as $path) {
            $marks = [];
            foreach ($truth[$path] as $class => $slices) {
                $places = array_keys($slices);
                [$first, $last] = [(int) array_key_first($slices), (int) array_key_last($slices)];
                $keys = [];
                foreach ($places as $place) {
                    if (($place - $first) % 4 === 0 || $place === $last) {
                        $keys[] = ['place' => $place, 'geometry' => $slices[$place]];
                    }
                }
                $marks[] = ['class' => $class, 'kind' => 'mask', 'geometry' => $keys[0]['geometry'], 'answers' => $class === 'bruise' ? ['depth' => ['value' => 'flesh']] : [], 'place' => $first, 'stretches' => [[$first, $last]], 'keys' => array_slice($keys, 1)];
            }
            $work[] = ['path' => $path, 'labeller' => 'Mei Castellan', 'days_ago' => 2, 'seconds' => 1500, 'said' => ['answers' => ['stored' => ['value' => 'cold']], 'tags' => []], 'marks' => $marks, 'decision' => 'accept', 'reason' => '', 'pins' => []];
        }

        return $work;
    }
}
