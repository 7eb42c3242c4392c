<?php

declare(strict_types=1);

namespace Skeno\Demo;

use RuntimeException;

/**
 * The demo project "Row scan": what a scanner on the picking cart sees between two rows, a turn after another. Ground, posts, trunks and bins
 * stand still, another cart drives ahead; each ray ends on what it meets first, so what is hidden is not there, and what every point is of is known.
 */
final class RowScan
{
    public const FRAMES = 6;

    /** Rays of a turn, one above the other. */
    private const RINGS = 64;

    private const COLUMNS = 1_800;

    /** Degrees of the lowest ring and of the highest. */
    private const FROM = -30.0;

    private const TO = 12.0;

    /** Metres: over the ground, and as far as it sees. */
    private const EYE = 1.7;

    private const FAR = 34.0;

    /** Metres the cart goes on from a turn to the next. */
    private const STEP = 1.1;

    /** Points of an object from where on it counts as seen. */
    private const SEEN = 25;

    /** @var list<array{class: string, track: string, x: float, y: float, z: float, size: array{float, float, float}, heading: float, vx: float, vy: float, round: bool, glow: float}> */
    private array $things = [];

    /** @var list<array{float, float, float, float, float}> canopies: where their middle is, how wide and how high they reach from it */
    private array $canopies = [];

    private readonly Noise $noise;

    public function __construct(private readonly Chance $chance)
    {
        $this->noise = new Noise($chance->int(1, 1 << 30));
        foreach ([-2.7, 2.7] as $row) {
            for ($x = -24.0, $n = 0; $x < 40.0; $x += 2.5, $n++) {
                if ($n % 3 === 0) {
                    $this->thing('post', $x + 1.2, $row, [0.12, 0.12, $chance->between(2.1, 2.3)], 0.0, 0.55);
                }
                $radius = $chance->between(0.07, 0.11);
                $at = [$x + $chance->between(-0.2, 0.2), $row + $chance->between(-0.12, 0.12)];
                $this->thing('trunk', $at[0], $at[1], [2 * $radius, 2 * $radius, $chance->between(1.05, 1.3)], 0.0, 0.3, true);
                $this->canopies[] = [$at[0], $at[1], $chance->between(1.9, 2.2), $chance->between(0.75, 1.05), $chance->between(0.8, 1.0)];
            }
        }
        // bins left beside the way, each as somebody put it down
        $x = $chance->between(2.5, 4.0);
        for ($n = 0; $n < 6; $n++) {
            $side = $n % 2 === 0 ? 1 : -1;
            $this->thing('bin', $x, $side * $chance->between(1.25, 1.6), [1.2, 1.0, 0.78], $chance->normal(14.0) + ($side > 0 ? 0.0 : 180.0), 0.75);
            $x += $chance->between(2.2, 4.4);
        }
        $turn = $chance->normal(3.0);
        $this->thing('cart', $chance->between(6.5, 8.0), $chance->between(-0.3, 0.3), [1.9, 1.15, 1.35], $turn, 0.9, false, 1.6 * cos(deg2rad($turn)), 1.6 * sin(deg2rad($turn)));
    }

    /** @param  array{float, float, float}  $size */
    private function thing(string $class, float $x, float $y, array $size, float $heading, float $glow, bool $isRound = false, float $vx = 0.0, float $vy = 0.0): void
    {
        $this->things[] = ['class' => $class, 'track' => $class.'-'.(count($this->things) + 1), 'x' => $x, 'y' => $y, 'z' => $size[2] / 2, 'size' => $size, 'heading' => $heading, 'vx' => $vx, 'vy' => $vy, 'round' => $isRound, 'glow' => $glow];
    }

    /** @return list<array{path: string, seed: string}> by the folder of their frames */
    public static function plan(): array
    {
        return [['path' => 'north terrace/pass-1', 'seed' => 'row scan/1'], ['path' => 'north terrace/pass-2', 'seed' => 'row scan/2']];
    }

    /**
     * Writes the frames as PCD, `0001.pcd` and so on, what a camera saw of each, `camera/0001.jpg`, and where it is, `cameras.json`.
     *
     * @return list<array{class: string, track: string, frames: array<int, array{center: array{float, float, float}, size: array{float, float, float}, heading: float, points: int}>}> what is there truly, in the axes of each frame
     */
    public function write(string $folder): array
    {
        $truth = [];
        @mkdir("{$folder}/camera");
        if (file_put_contents("{$folder}/cameras.json", json_encode(RowCamera::calibration(), JSON_PRETTY_PRINT | JSON_THROW_ON_ERROR)."\n") === false) {
            throw new RuntimeException("{$folder} can't be written");
        }
        $camera = new RowCamera($this->noise);
        for ($frame = 0; $frame < self::FRAMES; $frame++) {
            $gone = self::STEP * $frame;
            $camera->write(
                sprintf('%s/camera/%04d.jpg', $folder, $frame + 1),
                array_map(static fn (array $thing): array => ['x' => $thing['x'] + $thing['vx'] * $frame - $gone, 'y' => $thing['y'] + $thing['vy'] * $frame] + $thing, $this->things),
                array_map(static fn (array $canopy): array => [$canopy[0] - $gone, $canopy[1], $canopy[2], $canopy[3], $canopy[4]], $this->canopies),
                $gone,
            );
            [$points, $counts] = $this->turn($frame);
            $header = "# .PCD v0.7 - made up\nVERSION 0.7\nFIELDS x y z intensity\nSIZE 4 4 4 4\nTYPE F F F F\nCOUNT 1 1 1 1\nWIDTH ".count($points)."\nHEIGHT 1\nVIEWPOINT 0 0 ".self::EYE." 1 0 0 0\nPOINTS ".count($points)."\nDATA binary\n";
            if (file_put_contents(sprintf('%s/%04d.pcd', $folder, $frame + 1), $header.implode('', $points)) === false) {
                throw new RuntimeException("{$folder} can't be written");
            }
            foreach ($this->things as $n => $thing) {
                if (($counts[$n] ?? 0) >= self::SEEN) {
                    $truth[$n] ??= ['class' => $thing['class'], 'track' => $thing['track'], 'frames' => []];
                    $truth[$n]['frames'][$frame] = ['center' => [round($thing['x'] + ($thing['vx'] - self::STEP) * $frame, 4), round($thing['y'] + $thing['vy'] * $frame, 4), round($thing['z'], 4)], 'size' => $thing['size'], 'heading' => round($thing['heading'], 3), 'points' => $counts[$n]];
                }
            }
        }

        return array_values($truth);
    }

    /** @return array{list<string>, array<int, int>} points, and how many are of each thing */
    private function turn(int $frame): array
    {
        $near = [];
        foreach ($this->things as $n => $thing) {
            $x = $thing['x'] + ($thing['vx'] - self::STEP) * $frame;
            $y = $thing['y'] + $thing['vy'] * $frame;
            $this->over($near, [$n, $x, $y], hypot($thing['size'][0], $thing['size'][1]) / 2);
        }
        foreach ($this->canopies as $n => [$x, $y, , $wide]) {
            $this->over($near, [-$n - 1, $x - self::STEP * $frame, $y], $wide);
        }
        $tans = [];
        for ($ring = 0; $ring < self::RINGS; $ring++) {
            $tans[] = tan(deg2rad(self::FROM + (self::TO - self::FROM) * $ring / (self::RINGS - 1)));
        }
        $points = [];
        $counts = [];
        for ($column = 0; $column < self::COLUMNS; $column++) {
            $angle = 2 * M_PI * ($column + $this->chance->between(0, 0.6)) / self::COLUMNS - M_PI;
            [$c, $s] = [cos($angle), sin($angle)];
            $met = [];
            foreach ($near[$column] ?? [] as [$n, $x, $y]) {
                $through = $n >= 0 ? self::through($this->things[$n], $x, $y, $c, $s) : self::circle($x, $y, $this->canopies[-$n - 1][3], $c, $s);
                if ($through !== null) {
                    $met[] = [$n, $x, $y, ...$through];
                }
            }
            foreach ($tans as $tan) {
                $best = $tan < 0 ? -self::EYE / $tan : self::FAR;
                [$of, $glow] = [null, 0.18];
                foreach ($met as [$n, $x, $y, $t0, $t1]) {
                    if ($n >= 0) {
                        $top = $this->things[$n]['size'][2];
                        $high = self::EYE + $t0 * $tan;
                        $t = $high <= $top && $high >= 0 ? $t0 : ($high > $top && $tan < 0 ? ($top - self::EYE) / $tan : INF);
                        if ($t <= $t1 && $t < $best) {
                            [$best, $of, $glow] = [$t, $n, $this->things[$n]['glow']];
                        }
                    } elseif ($t0 < $best) {
                        [, , $middle, $wide, $tall] = $this->canopies[-$n - 1];
                        // leaves with air between: a ray gets in some way, or through
                        $t = $t0 + ($t1 - $t0) * $this->chance->between(0, 1) ** 2;
                        $high = self::EYE + $t * $tan - $middle;
                        $flat = (($t * $c - $x) ** 2 + ($t * $s - $y) ** 2) / $wide ** 2;
                        if ($flat + ($high / $tall) ** 2 < 1 && $t < $best && $this->chance->yes(0.55)) {
                            [$best, $of, $glow] = [$t, $n, 0.42];
                        }
                    }
                }
                if ($best >= self::FAR) {
                    continue;
                }
                $t = $best + $this->chance->between(-0.012, 0.012);
                [$x, $y, $z] = [$t * $c, $t * $s, self::EYE + $t * $tan];
                if ($of === null) {
                    // grass, and the ruts of the wheels
                    $z += 0.05 * $this->noise->at($x / 1.3 + self::STEP * $frame / 1.3, $y / 1.3, 0.0) - 0.04 * exp(-((abs($y) - 0.75) / 0.18) ** 2);
                } elseif ($of >= 0) {
                    $counts[$of] = ($counts[$of] ?? 0) + 1;
                }
                $points[] = pack('g4', $x, $y, $z, round(max(0.0, min(1.0, $glow * $this->chance->between(0.75, 1.2) / (1 + $best / 60))), 3));
            }
        }

        return [$points, $counts];
    }

    /**
     * Notes under each column of rays what may be met there.
     *
     * @param  array<int, list<array{int, float, float}>>  $near
     * @param  array{int, float, float}  $what
     */
    private function over(array &$near, array $what, float $reach): void
    {
        [, $x, $y] = $what;
        $far = hypot($x, $y);
        if ($far - $reach > self::FAR) {
            return;
        }
        $half = $far <= $reach * 1.05 ? M_PI : asin(min(1.0, $reach / $far)) + 0.01;
        $middle = atan2($y, $x) + M_PI;
        $per = self::COLUMNS / (2 * M_PI);
        for ($column = (int) floor(($middle - $half) * $per), $last = (int) ceil(($middle + $half) * $per); $column <= $last; $column++) {
            $near[(($column % self::COLUMNS) + self::COLUMNS) % self::COLUMNS][] = $what;
        }
    }

    /**
     * Where a ray goes into a thing and out of it, as seen from above.
     *
     * @param  array{size: array{float, float, float}, heading: float, round: bool}  $thing
     * @return ?array{float, float}
     */
    public static function through(array $thing, float $x, float $y, float $c, float $s): ?array
    {
        if ($thing['round']) {
            return self::circle($x, $y, $thing['size'][0] / 2, $c, $s);
        }
        [$hc, $hs] = [cos(deg2rad($thing['heading'])), sin(deg2rad($thing['heading']))];
        [$from, $to] = [0.0, INF];
        foreach ([[-$x * $hc - $y * $hs, $c * $hc + $s * $hs, $thing['size'][0] / 2], [$x * $hs - $y * $hc, $s * $hc - $c * $hs, $thing['size'][1] / 2]] as [$at, $way, $half]) {
            if (abs($way) < 1e-9) {
                if (abs($at) > $half) {
                    return null;
                }

                continue;
            }
            [$a, $b] = [(-$half - $at) / $way, ($half - $at) / $way];
            [$from, $to] = [max($from, min($a, $b)), min($to, max($a, $b))];
        }

        return $from <= $to && $from > 0 ? [$from, $to] : null;
    }

    /** @return ?array{float, float} */
    public static function circle(float $x, float $y, float $radius, float $c, float $s): ?array
    {
        $along = $x * $c + $y * $s;
        $beside = $radius ** 2 - ($x ** 2 + $y ** 2 - $along ** 2);

        return $beside <= 0 || $along <= 0 ? null : [max(0.05, $along - sqrt($beside)), $along + sqrt($beside)];
    }

    /**
     * The work done so far: the first pass with its bins, the cart and some posts, each a little too large, from its first frame to its last; the second waits.
     *
     * @param  array<string, list<array{class: string, track: string, frames: array<int, array{center: array{float, float, float}, size: array{float, float, float}, heading: float, points: int}>}>>  $truth  by path
     * @return list<array<string, mixed>> as Season::work
     */
    public static function work(array $truth): array
    {
        $work = [];
        foreach (array_slice(array_keys($truth), 0, 1) as $path) {
            $marks = [];
            foreach ($truth[$path] as $n => $track) {
                $places = array_keys($track['frames']);
                if (count($places) < 2 || ($track['class'] === 'trunk' && $n % 4 !== 0)) {
                    continue;
                }
                $keys = [];
                foreach ([$places[0], $places[count($places) - 1]] as $place) {
                    $seen = $track['frames'][$place];
                    $keys[] = ['place' => $place, 'geometry' => ['center' => $seen['center'], 'size' => array_map(static fn (float $side): float => round($side * 1.04 + 0.02, 3), $seen['size']), 'heading' => round(fmod($seen['heading'] + 540.0, 360.0) - 180.0, 2)]];
                }
                $marks[] = ['class' => $track['class'], 'kind' => 'cuboid', 'geometry' => $keys[0]['geometry'], 'answers' => $track['class'] === 'bin' ? ['filled' => ['value' => $n % 2 === 0 ? 'part' : 'full']] : [], 'place' => $places[0], 'stretches' => [[$places[0], $places[count($places) - 1]]], 'keys' => array_slice($keys, 1)];
            }
            $work[] = ['path' => $path, 'labeller' => 'Ravi Sørby', 'days_ago' => 1, 'seconds' => 1260, 'said' => ['answers' => [], 'tags' => []], 'marks' => $marks, 'decision' => 'accept', 'reason' => '', 'pins' => []];
        }

        return $work;
    }
}
