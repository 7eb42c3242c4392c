<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** One thing labels use on its way into a new codebook. */
final readonly class Passage
{
    /**
     * @param  string  $address  what it is, as a Mapping names it
     * @param  string  $from  its name before
     * @param  ?string  $to  its name afterwards; null when it has no place
     * @param  bool  $rewrites  whether stored marks change by it
     */
    public function __construct(public Fate $fate, public string $address, public string $from, public ?string $to, public bool $rewrites)
    {
    }
}
