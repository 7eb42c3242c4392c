<?php

declare(strict_types=1);

namespace App\Help;

use Skeno\Core\Inference\Saying;
use Skeno\Core\Marks\Mark;

/** What is suggested on an item. */
final readonly class Suggestions
{
    /**
     * @param  list<Mark>  $marks
     * @param  list<Saying>  $sayings
     * @param  array<string, int>  $sums  what else a run adds up over its items, by name
     */
    public function __construct(public array $marks, public array $sayings, public array $sums = [])
    {
    }
}
