<?php

declare(strict_types=1);

namespace App\Work;

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
            'geometry' => $row->geometry,
            'answers' => (object) $row->answers,
            'stack' => $row->stack,
            'revision' => $row->revision,
            'author_id' => $row->author_id,
            'source' => $row->source,
            'deleted' => $row->deleted_at !== null,
        ];
    }
}
