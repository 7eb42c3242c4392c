<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\MarkRow;

/** A mark as the API shows it. */
final class MarkShape
{
    /** @return array<string, mixed> */
    public static function of(MarkRow $row): array
    {
        return [
            'id' => $row->id,
            'class' => $row->class,
            'kind' => $row->kind,
            'geometry' => (object) $row->geometry,
            'answers' => (object) $row->answers,
            'stack' => $row->stack,
            'part_of' => $row->part_of,
            'flags' => $row->flags ?? [],
            'place' => $row->place,
            'stretches' => $row->stretches,
            'revision' => $row->revision,
            'author_id' => $row->author_id,
            'source' => $row->source,
            'confidence' => $row->confidence,
            'suggestion' => $row->suggestion_id,
            'deleted' => $row->deleted_at !== null,
        ];
    }
}
