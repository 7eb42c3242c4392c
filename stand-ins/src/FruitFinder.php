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
class FruitFinder implements Model
{
    protected const WIDTH = 640;

    protected const HEIGHT = 480;

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
        $spots = $this->found($inputs);
        $n = count($spots);

        return [
            Tensor::of('boxes', DataType::Fp32, [1, $n, 4], array_merge(...array_column($spots, 'box'), ...[[]])),
            Tensor::of('scores', DataType::Fp32, [1, $n], array_column($spots, 'score')),
            Tensor::of('classes', DataType::Int64, [1, $n], array_fill(0, $n, 0)),
        ];
    }

    /**
     * Fruit on a picture, the surest first.
     *
     * @param  array<string, Tensor>  $inputs
     * @return list<array{box: array{float, float, float, float}, score: float, pixels: list<int>}>
     */
    final protected function found(array $inputs): array
    {
        $image = self::picture($inputs, self::WIDTH, self::HEIGHT);
        $spots = [...$this->spots($this->like($image->values, red: true)), ...$this->spots($this->like($image->values, red: false))];
        usort($spots, static fn (array $a, array $b): int => $b['score'] <=> $a['score']);
        $kept = [];
        foreach ($spots as $spot) {
            foreach ($kept as ['box' => [$l, $t, $r, $b]]) {
                // a red cheek on a yellow fruit is one fruit
                $common = max(0, min($r, $spot['box'][2]) - max($l, $spot['box'][0])) * max(0, min($b, $spot['box'][3]) - max($t, $spot['box'][1]));
                $less = min(($r - $l) * ($b - $t), ($spot['box'][2] - $spot['box'][0]) * ($spot['box'][3] - $spot['box'][1]));
                if ($common > 0.5 * $less) {
                    continue 2;
                }
            }
            $kept[] = $spot;
        }

        return $kept;
    }

    /**
     * The picture that was sent.
     *
     * @param  array<string, Tensor>  $inputs
     *
     * @throws InvalidValue when it is none of this size
     */
    public static function picture(array $inputs, int $width, int $height): Tensor
    {
        $image = $inputs['image'] ?? throw InvalidValue::at('image', null, 'a picture');
        if ($image->type !== DataType::Uint8 || $image->ranked(3)->shape !== [$height, $width, 3]) {
            throw InvalidValue::at('image.shape', '['.implode(', ', $image->shape).']', "[1, {$height}, {$width}, 3] of UINT8");
        }

        return $image;
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
     * @return list<array{box: array{float, float, float, float}, score: float, pixels: list<int>}>
     */
    private function spots(string $is): array
    {
        $spots = [];
        foreach (Blobs::of($is, self::WIDTH) as $blob) {
            [$left, $top, $right, $bottom] = Blobs::box($blob, self::WIDTH);
            [$w, $h] = [$right - $left, $bottom - $top];
            if (min($w, $h) < self::SMALLEST || max($w, $h) > self::LARGEST) {
                continue;
            }
            // a disc fills 0.785 of its box, and is as wide as high
            $full = count($blob) / ($w * $h);
            $score = max(0.05, min(0.98, 1.25 * min(1.0, $full / 0.72) * (min($w, $h) / max($w, $h)) - 0.27));
            $spots[] = ['box' => [(float) $left, (float) $top, (float) $right, (float) $bottom], 'score' => round($score, 4), 'pixels' => $blob];
        }

        return $spots;
    }
}
