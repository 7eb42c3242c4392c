<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\ItemShape;
use App\Models\Proposal;

/** A proposal, or a question asked at an item, as the API shows it. */
final class ProposalShape
{
    /** Asked about an item, and answered there. */
    public const QUESTION = 'question';

    /** @return array<string, mixed> */
    public static function of(Proposal $proposal): array
    {
        return [
            'id' => $proposal->id, 'kind' => $proposal->kind, 'name' => $proposal->name, 'text' => $proposal->text, 'by' => $proposal->author->name ?? '', 'at' => $proposal->created_at->toIso8601ZuluString(),
            'item' => $proposal->item === null ? null : ['id' => $proposal->item->id, 'name' => basename($proposal->item->path), 'thumb' => ItemShape::of($proposal->item)['picture']['thumb']],
            'turn' => $proposal->turn_id, 'mark' => $proposal->mark_id,
            'state' => $proposal->state, 'answer' => $proposal->answer, 'answered_by' => $proposal->answerer->name ?? null, 'answered_at' => $proposal->answered_at?->toIso8601ZuluString(),
        ];
    }
}
