<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

/**
 * Colours as a mixture of normal distributions (C. Rother, V. Kolmogorov and A. Blake, "GrabCut", ACM TOG 23, 2004), fitted to colours that
 * are counted first, so that it costs what there are different ones.
 */
final readonly class Mixture
{
    private const SWEEPS = 4;

    /** Added to each variance, in squared levels: what the noise of a camera and the counting in steps blur anyway. */
    private const NOISE = 24.0;

    /** Nats below which nothing is told from nothing. */
    private const LEAST = -30.0;

    /** @param  list<array{float, float, float, float, float, float, float, float, float, float}>  $parts  mean r g b, inverse covariance rr rg rb gg gb bb, log of weight and norm */
    private function __construct(private array $parts)
    {
    }

    /**
     * @param  list<float>  $r  of each colour, 0 to 255
     * @param  list<float>  $g
     * @param  list<float>  $b
     * @param  list<float>  $weight  how much there is of each; colours of weight 0 don't count
     * @param  int  $most  distributions
     */
    public static function fit(array $r, array $g, array $b, array $weight, int $most): self
    {
        $n = count($r);
        $heaviest = -1;
        $total = 0.0;
        for ($i = 0; $i < $n; $i++) {
            $total += $weight[$i];
            if ($weight[$i] > 0 && ($heaviest < 0 || $weight[$i] > $weight[$heaviest])) {
                $heaviest = $i;
            }
        }
        if ($heaviest < 0) {
            return new self([]);
        }
        // begun with the most frequent colour, and then what is both frequent and far from all so far
        $centres = [[$r[$heaviest], $g[$heaviest], $b[$heaviest]]];
        $far = array_fill(0, $n, INF);
        $owner = array_fill(0, $n, 0);
        while (count($centres) < $most) {
            [$cr, $cg, $cb] = $centres[count($centres) - 1];
            $next = -1;
            $best = 0.0;
            for ($i = 0; $i < $n; $i++) {
                $d = ($r[$i] - $cr) ** 2 + ($g[$i] - $cg) ** 2 + ($b[$i] - $cb) ** 2;
                if ($d < $far[$i]) {
                    $far[$i] = $d;
                }
                if ($best < $far[$i] * $weight[$i]) {
                    $best = $far[$i] * $weight[$i];
                    $next = $i;
                }
            }
            if ($next < 0) {
                break;
            }
            $centres[] = [$r[$next], $g[$next], $b[$next]];
        }
        for ($sweep = 0; $sweep < self::SWEEPS; $sweep++) {
            $sums = self::zeros(count($centres), 4);
            for ($i = 0; $i < $n; $i++) {
                $w = $weight[$i];
                if ($w <= 0) {
                    continue;
                }
                [$x, $y, $z] = [$r[$i], $g[$i], $b[$i]];
                $least = INF;
                $mine = 0;
                foreach ($centres as $k => $c) {
                    $d = ($x - $c[0]) * ($x - $c[0]) + ($y - $c[1]) * ($y - $c[1]) + ($z - $c[2]) * ($z - $c[2]);
                    if ($d < $least) {
                        $least = $d;
                        $mine = $k;
                    }
                }
                $owner[$i] = $mine;
                $sums[4 * $mine] += $w;
                $sums[4 * $mine + 1] += $w * $x;
                $sums[4 * $mine + 2] += $w * $y;
                $sums[4 * $mine + 3] += $w * $z;
            }
            foreach ($centres as $k => $_) {
                [$w, $x, $y, $z] = [$sums[4 * $k], $sums[4 * $k + 1], $sums[4 * $k + 2], $sums[4 * $k + 3]];
                if ($w > 0) {
                    $centres[$k] = [$x / $w, $y / $w, $z / $w];
                }
            }
        }
        $spread = self::zeros(count($centres), 7);
        for ($i = 0; $i < $n; $i++) {
            $w = $weight[$i];
            if ($w > 0) {
                $k = $owner[$i];
                $x = $r[$i] - $centres[$k][0];
                $y = $g[$i] - $centres[$k][1];
                $z = $b[$i] - $centres[$k][2];
                $spread[7 * $k] += $w;
                $spread[7 * $k + 1] += $w * $x * $x;
                $spread[7 * $k + 2] += $w * $x * $y;
                $spread[7 * $k + 3] += $w * $x * $z;
                $spread[7 * $k + 4] += $w * $y * $y;
                $spread[7 * $k + 5] += $w * $y * $z;
                $spread[7 * $k + 6] += $w * $z * $z;
            }
        }
        $parts = [];
        foreach ($centres as $k => $centre) {
            [$w, $xx, $xy, $xz, $yy, $yz, $zz] = array_slice($spread, 7 * $k, 7);
            if ($w <= 0) {
                continue;
            }
            $xx = $xx / $w + self::NOISE;
            $yy = $yy / $w + self::NOISE;
            $zz = $zz / $w + self::NOISE;
            $xy /= $w;
            $xz /= $w;
            $yz /= $w;
            $a = $yy * $zz - $yz * $yz;
            $e = $xz * $yz - $xy * $zz;
            $f = $xy * $yz - $xz * $yy;
            $det = $xx * $a + $xy * $e + $xz * $f;
            $parts[] = [
                ...$centre,
                $a / $det, $e / $det, $f / $det, ($xx * $zz - $xz * $xz) / $det, ($xy * $xz - $xx * $yz) / $det, ($xx * $yy - $xy * $xy) / $det,
                log($w / $total) - 0.5 * log($det) - 1.5 * log(2 * M_PI),
            ];
        }

        return new self($parts);
    }

    /** @return array<int, float> */
    private static function zeros(int $parts, int $each): array
    {
        return array_fill(0, $parts * $each, 0.0);
    }

    /** How likely a colour is, as a natural logarithm: of the distribution it fits best. */
    public function log(float $r, float $g, float $b): float
    {
        $best = self::LEAST;
        foreach ($this->parts as [$mr, $mg, $mb, $rr, $rg, $rb, $gg, $gb, $bb, $norm]) {
            $x = $r - $mr;
            $y = $g - $mg;
            $z = $b - $mb;
            $value = $norm - 0.5 * ($rr * $x * $x + $gg * $y * $y + $bb * $z * $z) - $rg * $x * $y - $rb * $x * $z - $gb * $y * $z;
            if ($value > $best) {
                $best = $value;
            }
        }

        return $best;
    }

    public function isEmpty(): bool
    {
        return $this->parts === [];
    }
}
