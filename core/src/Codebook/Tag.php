<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** A word that can be put on an item. Tags of one group exclude each other. */
final readonly class Tag
{
    public function __construct(public string $key, public string $name, public ?string $group = null, public string $scope = 'item', public ?string $description = null)
    {
    }
}
