<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\MarkShape;
use App\Models\DecisionRow;
use App\Models\MarkRow;
use App\Models\Turn;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\EditAction;
use Skeno\Core\Workflow\Decision;

/** The marks of an item as they were when it was last returned, worked out from their history: what has been done about it since. */
final class Earlier
{
    /** @return array{at: ?string, marks: list<array<string, mixed>>} no marks where it was never returned */
    public function of(Turn $turn): array
    {
        $returned = DecisionRow::query()->whereIn('turn_id', $turn->chain()->select('id'))->where('decision', Decision::Return)->whereNull('taken_back_at')->orderByDesc('id')->first();
        if ($returned === null) {
            return ['at' => null, 'marks' => []];
        }
        // of each mark the first change since then says what it was before (a key of a track says nothing of the rest of it)
        $first = DB::table('mark_history')->where('layer_id', $turn->layer_id)->whereNotNull('mark_id')->where('action', '!=', EditAction::Key)->where('created_at', '>', $returned->created_at)->groupBy('mark_id')->selectRaw('min(id)');
        $before = DB::table('mark_history')->whereIn('id', $first)->pluck('before', 'mark_id');
        $marks = [];
        foreach (MarkRow::query()->where('layer_id', $turn->layer_id)->orderBy('id')->get() as $row) {
            if (! $before->has($row->id)) {
                if ($row->deleted_at === null) {
                    $marks[] = MarkShape::of($row);
                }

                continue;
            }
            $was = $before[$row->id] === null ? null : json_decode((string) $before[$row->id], true, flags: JSON_THROW_ON_ERROR);
            if (is_array($was)) {
                $marks[] = MarkShape::of($row->replicate()->forceFill(['id' => $row->id, 'class' => $was['class'], 'kind' => $was['kind'], 'geometry' => $was['geometry'], 'answers' => $was['answers'] ?? [], 'stack' => $was['stack'] ?? null, 'part_of' => $was['part_of'] ?? null, 'flags' => $was['flags'] ?? [], 'deleted_at' => null]));
            }
        }

        return ['at' => $returned->created_at->toIso8601ZuluString(), 'marks' => $marks];
    }
}
