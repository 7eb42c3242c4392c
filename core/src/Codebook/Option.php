<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

final readonly class Option
{
    public function __construct(public string $key, public string $name, public ?string $description = null)
    {
    }
}
