<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Skeno\Core\Geometry\Box;

/** What is truly on a picture: an apple, a spot of scab, or fruit too blurred to tell. */
final readonly class Fruit
{
    /**
     * @param  'apple'|'scab'|'blurred'  $class
     * @param  Box  $box  around what shows of it
     * @param  float  $visible  share that shows, 0 to 1
     * @param  array<string, array<string, mixed>>  $answers  as in a mark
     */
    public function __construct(public string $class, public Box $box, public float $visible, public array $answers)
    {
    }
}
