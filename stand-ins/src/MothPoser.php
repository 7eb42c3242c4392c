<?php

declare(strict_types=1);

namespace Skeno\StandIns;

use Skeno\Core\Inference\DataType;
use Skeno\Core\Inference\Tensor;

/**
 * Finds moths on a pale card as dark blobs, and their bodies by the line across which a blob mirrors itself best; the head is at the wider end.
 * It takes two that lie on each other for one, and now and then a moth for its own mirror image.
 */
final class MothPoser implements Model
{
    private const WIDTH = 640;

    private const HEIGHT = 480;

    /** px in a blob: smaller ones are flies and dust. */
    private const LEAST = 500;

    private const MOST = 9000;

    private const NODES = 6;

    public function tensors(): array
    {
        return [
            'inputs' => [['name' => 'image', 'datatype' => 'UINT8', 'shape' => [1, self::HEIGHT, self::WIDTH, 3]]],
            'outputs' => [['name' => 'boxes', 'datatype' => 'FP32', 'shape' => [1, -1, 4]], ['name' => 'scores', 'datatype' => 'FP32', 'shape' => [1, -1]], ['name' => 'keypoints', 'datatype' => 'FP32', 'shape' => [1, -1, self::NODES, 3]]],
        ];
    }

    public function infer(array $inputs): array
    {
        $values = FruitFinder::picture($inputs, self::WIDTH, self::HEIGHT)->values;
        $is = '';
        for ($i = 0, $n = self::WIDTH * self::HEIGHT * 3; $i < $n; $i += 3) {
            // the card is pale and yellow, moths are brown and grey
            $is .= $values[$i] + $values[$i + 1] < 330 && $values[$i + 2] > 0.6 * $values[$i] ? "\1" : "\0";
        }
        $moths = [];
        foreach (Blobs::of($is, self::WIDTH) as $blob) {
            if (count($blob) >= self::LEAST && count($blob) <= self::MOST) {
                $moths[] = $this->moth($blob);
            }
        }
        usort($moths, static fn (array $a, array $b): int => $b['score'] <=> $a['score']);
        $n = count($moths);

        return [
            Tensor::of('boxes', DataType::Fp32, [1, $n, 4], array_merge(...array_column($moths, 'box'), ...[[]])),
            Tensor::of('scores', DataType::Fp32, [1, $n], array_column($moths, 'score')),
            Tensor::of('keypoints', DataType::Fp32, [1, $n, self::NODES, 3], array_merge(...array_column($moths, 'nodes'), ...[[]])),
        ];
    }

    /**
     * @param  non-empty-list<int>  $blob
     * @return array{box: list<float>, score: float, nodes: list<float>} nodes: x, y, how sure, of head, tail, fore and hind wings left and right
     */
    private function moth(array $blob): array
    {
        $n = count($blob);
        $there = array_flip($blob);
        $cx = array_sum(array_map(static fn (int $i): int => $i % self::WIDTH, $blob)) / $n;
        $cy = array_sum(array_map(static fn (int $i): int => intdiv($i, self::WIDTH), $blob)) / $n;
        $step = max(1, intdiv($n, 350));
        [$best, $angle] = [-1.0, 0.0];
        for ($k = 0; $k < 60; $k++) {
            $turn = M_PI * $k / 60;
            [$cos, $sin] = [cos(2 * $turn), sin(2 * $turn)];
            $same = $all = 0;
            for ($j = 0; $j < $n; $j += $step) {
                $dx = $blob[$j] % self::WIDTH - $cx;
                $dy = intdiv($blob[$j], self::WIDTH) - $cy;
                $x = (int) round($cx + $dx * $cos + $dy * $sin);
                $y = (int) round($cy + $dx * $sin - $dy * $cos);
                $all++;
                $same += isset($there[$y * self::WIDTH + $x]) ? 1 : 0;
            }
            if ($same / $all > $best) {
                [$best, $angle] = [$same / $all, $turn];
            }
        }
        // along the body, and across it how wide
        [$ux, $uy] = [cos($angle), sin($angle)];
        [$low, $high, $left, $right] = [INF, -INF, [0.0, 0.0], [0.0, 0.0]];
        foreach ($blob as $i) {
            $dx = $i % self::WIDTH - $cx;
            $dy = intdiv($i, self::WIDTH) - $cy;
            [$along, $across] = [$dx * $ux + $dy * $uy, -$dx * $uy + $dy * $ux];
            [$low, $high] = [min($low, $along), max($high, $along)];
            $half = $along < 0 ? 0 : 1;
            $left[$half] = min($left[$half], $across);
            $right[$half] = max($right[$half], $across);
        }
        // the fore wings are the wider ones
        if ($right[1] - $left[1] > $right[0] - $left[0]) {
            [$ux, $uy, $low, $high] = [-$ux, -$uy, -$high, -$low];
            [$left, $right] = [[-$right[1], -$right[0]], [-$left[1], -$left[0]]];
        }
        $length = $high - $low;
        $place = static fn (float $along, float $across): array => [$cx + $along * $ux - $across * $uy, $cy + $along * $uy + $across * $ux];
        $head = $low + 0.04 * $length;
        $nodes = [$place($head, 0.0), $place($high, 0.0), $place($head + 0.27 * $length, $right[0]), $place($head + 0.27 * $length, $left[0]), $place($head + 0.76 * $length, 0.94 * $right[1]), $place($head + 0.76 * $length, 0.94 * $left[1])];
        // a whole moth mirrors itself well and fills about half of its box
        [$l, $t, $r, $b] = Blobs::box($blob, self::WIDTH);
        $score = max(0.05, min(0.97, 2.4 * ($best - 0.6) * min(1.0, 2.2 * $n / (($r - $l) * ($b - $t)))));
        $flat = [];
        foreach ($nodes as $k => [$x, $y]) {
            array_push($flat, $x, $y, round($k < 2 ? $score : 0.85 * $score, 4));
        }

        return ['box' => [(float) $l, (float) $t, (float) $r, (float) $b], 'score' => round($score, 4), 'nodes' => $flat];
    }
}
