<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Layer;

/** What is said of an item as a whole on a layer, as the API shows it. */
final class SaidShape
{
    /** @return array<string, mixed> */
    public static function of(Layer $layer): array
    {
        return ['answers' => (object) $layer->answers, 'tags' => $layer->tags, 'stretches' => $layer->stretches, 'revision' => $layer->revision, 'author_id' => $layer->author_id, 'source' => $layer->source];
    }
}
