<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** How often the labels of a project use each word of its codebook, over all layers. */
final readonly class Census
{
    /**
     * @param  array<string, array<string, int>>  $marks  per class key and kind
     * @param  array<string, array<string, array<string, int>>>  $answers  per class key ('' for the item as a whole), question key and answer as JSON
     * @param  array<string, int>  $tags  per tag key
     * @param  array<string, array<string, int>>  $nodes  per class key and node key; may be left out where no skeleton changes
     */
    public function __construct(public array $marks = [], public array $answers = [], public array $tags = [], public array $nodes = [])
    {
    }
}
