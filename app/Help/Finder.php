<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Item;
use App\Support\Refusal;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;

/** Whoever a run asks about its items. */
interface Finder
{
    /** Whether it looks for objects, and not only for what is said of the whole. */
    public function looksForObjects(): bool;

    /**
     * What it suggests on an item, in the words of a codebook.
     *
     * @return ?Suggestions null: it is not asked about such items
     *
     * @throws Refusal|InvalidValue when it can't be asked, or does not say what it should
     */
    public function suggest(Item $item, Codebook $codebook): ?Suggestions;
}
