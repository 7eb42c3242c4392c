<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** A way two marks can belong together, from one to the other. Its key is no class's, so that either can be told by its key alone. */
final readonly class Relation
{
    /**
     * @param  list<string>  $from  keys of the classes it may lead from
     * @param  list<string>  $to  keys of the classes it may lead to
     */
    public function __construct(public int $index, public string $key, public string $name, public array $from, public array $to, public string $color, public ?string $description = null)
    {
    }

    public function joins(string $from, string $to): bool
    {
        return in_array($from, $this->from, true) && in_array($to, $this->to, true);
    }
}
