<?php

declare(strict_types=1);

namespace Skeno\Core\Programs;

/** How a program ended. */
final readonly class Ended
{
    /**
     * @param  int  $code  0: all is well; above 128: a signal ended it
     * @param  string  $complaint  what it wrote to where errors go, cut
     */
    public function __construct(public int $code, public string $complaint)
    {
    }
}
