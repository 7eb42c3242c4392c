<?php

declare(strict_types=1);

namespace Skeno\StandIns;

use Skeno\Core\Inference\DataType;
use Skeno\Core\Inference\Tensor;

/** The regions of the fruit the fruit finder sees, as masks four times as coarse as its picture. Holes and frayed edges are where leaves lie over fruit. */
final class FruitRegions extends FruitFinder
{
    private const BY = 4;

    public function tensors(): array
    {
        $tensors = parent::tensors();
        $tensors['outputs'][] = ['name' => 'masks', 'datatype' => 'FP32', 'shape' => [1, -1, intdiv(self::HEIGHT, self::BY), intdiv(self::WIDTH, self::BY)]];

        return $tensors;
    }

    public function infer(array $inputs): array
    {
        $spots = $this->found($inputs);
        $n = count($spots);
        [$columns, $rows] = [intdiv(self::WIDTH, self::BY), intdiv(self::HEIGHT, self::BY)];
        $values = [];
        foreach ($spots as $spot) {
            $share = array_fill(0, $columns * $rows, 0.0);
            foreach ($spot['pixels'] as $i) {
                $share[intdiv(intdiv($i, self::WIDTH), self::BY) * $columns + intdiv($i % self::WIDTH, self::BY)] += 1 / self::BY ** 2;
            }
            array_push($values, ...$share);
        }

        return [
            Tensor::of('boxes', DataType::Fp32, [1, $n, 4], array_merge(...array_column($spots, 'box'), ...[[]])),
            Tensor::of('scores', DataType::Fp32, [1, $n], array_column($spots, 'score')),
            Tensor::of('classes', DataType::Int64, [1, $n], array_fill(0, $n, 0)),
            Tensor::of('masks', DataType::Fp32, [1, $n, $rows, $columns], $values),
        ];
    }
}
