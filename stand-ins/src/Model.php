<?php

declare(strict_types=1);

namespace Skeno\StandIns;

use Skeno\Core\Inference\Tensor;
use Skeno\Core\InvalidValue;

/** A model of the stand-in server. */
interface Model
{
    /** @return array{inputs: list<array{name: string, datatype: string, shape: list<int>}>, outputs: list<array{name: string, datatype: string, shape: list<int>}>} */
    public function tensors(): array;

    /**
     * @param  array<string, Tensor>  $inputs
     * @return list<Tensor>
     *
     * @throws InvalidValue when it is not what it looks at
     */
    public function infer(array $inputs): array;
}
