<?php

declare(strict_types=1);

namespace Skeno\StandIns;

use Skeno\Core\Inference\DataType;
use Skeno\Core\Inference\Tensor;
use Skeno\Core\InvalidValue;

/**
 * Finds round fruit by its colour: pixels that are redder, or yellower and smoother, than leaves are gathered into spots, and a spot is the
 * surer the rounder and the more even it is. It misses green fruit among leaves, cuts off what a leaf hides, and takes a pair for one.
 */
final class FruitFinder implements Model
{
    private const WIDTH = 640;

    private const HEIGHT = 480;

    /** px across: smaller spots are specks, larger ones no fruit. */
    private const SMALLEST = 18;

    private const LARGEST = 110;

    public function tensors(): array
    {
        return [
            'inputs' => [['name' => 'image', 'datatype' => 'UINT8', 'shape' => [1, self::HEIGHT, self::WIDTH, 3]]],
            'outputs' => [['name' => 'boxes', 'datatype' => 'FP32', 'shape' => [1, -1, 4]], ['name' => 'scores', 'datatype' => 'FP32', 'shape' => [1, -1]], ['name' => 'classes', 'datatype' => 'INT64', 'shape' => [1, -1]]],
        ];
    }

    public function infer(array $inputs): array
    {
        $image = $inputs['image'] ?? throw InvalidValue::at('image', null, 'a picture');
        if ($image->type !== DataType::Uint8 || $image->ranked(3)->shape !== [self::HEIGHT, self::WIDTH, 3]) {
            throw InvalidValue::at('image.shape', '['.implode(', ', $image->shape).']', '[1, '.self::HEIGHT.', '.self::WIDTH.', 3] of UINT8');
        }
        $spots = [...$this->spots($this->like($image->values, red: true)), ...$this->spots($this->like($image->values, red: false))];
        usort($spots, static fn (array $a, array $b): int => $b['score'] <=> $a['score']);
        $boxes = $scores = [];
        foreach ($spots as $spot) {
            foreach ($boxes as [$l, $t, $r, $b]) {
                // a red cheek on a yellow fruit is one fruit
                $common = max(0, min($r, $spot['box'][2]) - max($l, $spot['box'][0])) * max(0, min($b, $spot['box'][3]) - max($t, $spot['box'][1]));
                $less = min(($r - $l) * ($b - $t), ($spot['box'][2] - $spot['box'][0]) * ($spot['box'][3] - $spot['box'][1]));
                if ($common > 0.5 * $less) {
                    continue 2;
                }
            }
            $boxes[] = $spot['box'];
            $scores[] = $spot['score'];
        }
        $n = count($boxes);

        return [
            Tensor::of('boxes', DataType::Fp32, [1, $n, 4], array_merge(...$boxes, ...[[]])),
            Tensor::of('scores', DataType::Fp32, [1, $n], $scores),
            Tensor::of('classes', DataType::Int64, [1, $n], array_fill(0, $n, 0)),
        ];
    }

    /**
     * Pixels that look like fruit.
     *
     * @param  list<int|float>  $values
     * @return string a byte each
     */
    private function like(array $values, bool $red): string
    {
        $is = '';
        for ($i = 0, $n = self::WIDTH * self::HEIGHT * 3; $i < $n; $i += 3) {
            [$r, $g, $b] = [$values[$i], $values[$i + 1], $values[$i + 2]];
            $is .= ($red ? $r > 60 && $r > 1.45 * $g && $r > 1.5 * $b : $r > 96 && $g > 96 && $r > 0.8 * $g && $r < 1.4 * $g && $b < 0.62 * $g && $r + $g > 2.9 * $b + 60) ? "\1" : "\0";
        }

        return $is;
    }

    /**
     * Connected spots of the size of fruit.
     *
     * @return list<array{box: array{float, float, float, float}, score: float}>
     */
    private function spots(string $is): array
    {
        $seen = str_repeat("\0", strlen($is));
        $spots = [];
        for ($begin = strpos($is, "\1"); $begin !== false; $begin = strpos($is, "\1", $begin + 1)) {
            if ($seen[$begin] !== "\0") {
                continue;
            }
            $seen[$begin] = "\1";
            $part = [$begin];
            [$left, $top, $right, $bottom] = [self::WIDTH, self::HEIGHT, 0, 0];
            for ($k = 0; $k < count($part); $k++) {
                $x = $part[$k] % self::WIDTH;
                $y = intdiv($part[$k], self::WIDTH);
                [$left, $top, $right, $bottom] = [min($left, $x), min($top, $y), max($right, $x + 1), max($bottom, $y + 1)];
                foreach ([$x > 0 ? $part[$k] - 1 : -1, $x + 1 < self::WIDTH ? $part[$k] + 1 : -1, $part[$k] - self::WIDTH, $part[$k] + self::WIDTH] as $to) {
                    if ($to >= 0 && $to < strlen($is) && $seen[$to] === "\0" && $is[$to] === "\1") {
                        $seen[$to] = "\1";
                        $part[] = $to;
                    }
                }
            }
            [$w, $h] = [$right - $left, $bottom - $top];
            if (min($w, $h) < self::SMALLEST || max($w, $h) > self::LARGEST) {
                continue;
            }
            // a disc fills 0.785 of its box, and is as wide as high
            $full = count($part) / ($w * $h);
            $score = max(0.05, min(0.98, 1.25 * min(1.0, $full / 0.72) * (min($w, $h) / max($w, $h)) - 0.27));
            $spots[] = ['box' => [(float) $left, (float) $top, (float) $right, (float) $bottom], 'score' => round($score, 4)];
        }

        return $spots;
    }
}
