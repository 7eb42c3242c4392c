<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Geometry\Flat;

/** One thing a model has found: of which class by the model's own names, how sure it is, and its shapes. */
final readonly class Found
{
    /**
     * @param  list<Flat>  $shapes  of one thing: its box, mask, pose; the finest last
     * @param  array<string, float>  $nodes  how sure it is of each node, by the model's names
     * @param  array<string, array{string|bool, float}>  $answers  what it answers to questions of the project, and how sure it is
     */
    public function __construct(public string $class, public float $confidence, public array $shapes, public array $nodes = [], public array $answers = [])
    {
    }

    /**
     * The same with other shapes.
     *
     * @param  list<Flat>  $shapes
     * @param  array<string, float>  $nodes
     */
    public function as(array $shapes, float $confidence, array $nodes = []): self
    {
        return new self($this->class, $confidence, $shapes, $nodes, $this->answers);
    }

    /** @param  array<string, array{string|bool, float}>  $answers */
    public function saying(array $answers): self
    {
        return new self($this->class, $this->confidence, $this->shapes, $this->nodes, $answers);
    }
}
