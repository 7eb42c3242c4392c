<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** Something of an object that was left out although the object came in; counted by its words. */
final readonly class Notice
{
    public function __construct(public string $what)
    {
    }
}
