<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\Keys;
use App\Items\MarkShape;
use App\Models\DecisionRow;
use App\Models\MarkRow;
use App\Models\Turn;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\EditAction;
use Skeno\Core\Workflow\Decision;

/** The marks of an item as they were when it was last returned, worked out from their history: what has been done about it since. */
final class Earlier
{
    /** @return array{at: ?string, marks: list<array<string, mixed>>, keys: list<array<string, mixed>>} no marks where it was never returned; keys of the tracks that were changed since */
    public function of(Turn $turn): array
    {
        $returned = DecisionRow::query()->whereIn('turn_id', $turn->chain()->select('id'))->where('decision', Decision::Return)->whereNull('taken_back_at')->orderByDesc('id')->first();
        if ($returned === null) {
            return ['at' => null, 'marks' => [], 'keys' => []];
        }
        $since = fn (): Builder => DB::table('mark_history')->where('layer_id', $turn->layer_id)->whereNotNull('mark_id')->where('created_at', '>', $returned->created_at);
        // of each mark the first change since then says what it was before (a key of a track says nothing of the rest of it)
        $before = DB::table('mark_history')->whereIn('id', $since()->where('action', '!=', EditAction::Key)->groupBy('mark_id')->selectRaw('min(id)'))->pluck('before', 'mark_id');
        $marks = $tracks = [];
        foreach (MarkRow::query()->where('layer_id', $turn->layer_id)->orderBy('id')->get() as $row) {
            // not there then: drawn since, or taken away before
            if ($before->has($row->id) ? $before[$row->id] === null : $row->deleted_at !== null) {
                continue;
            }
            if ($before->has($row->id)) {
                $was = json_decode((string) $before[$row->id], true, flags: JSON_THROW_ON_ERROR);
                $row = $row->replicate()->forceFill(['id' => $row->id, 'class' => $was['class'], 'kind' => $was['kind'], 'geometry' => $was['geometry'], 'answers' => $was['answers'] ?? [], 'stack' => $was['stack'] ?? null, 'part_of' => $was['part_of'] ?? null, 'flags' => $was['flags'] ?? [], 'place' => $was['place'] ?? null, 'stretches' => $was['stretches'] ?? null, 'deleted_at' => null]);
            }
            $marks[] = MarkShape::of($row);
            if ($row->stretches !== null) {
                $tracks[$row->id] = true;
            }
        }
        $changed = array_values(array_filter($since()->distinct()->pluck('mark_id')->map(static fn (mixed $id): string => (string) $id)->all(), static fn (string $id): bool => isset($tracks[$id])));

        return ['at' => $returned->created_at->toIso8601ZuluString(), 'marks' => $marks, 'keys' => $this->keys($since(), $changed)];
    }

    /**
     * Keys as they were: as they are now, but for those of which the first change since says what they were before.
     *
     * @param  Builder  $since  history of the layer since then
     * @param  list<string>  $marks
     * @return list<array<string, mixed>> as the API shows keys
     */
    private function keys(Builder $since, array $marks): array
    {
        $keys = [];
        foreach (Keys::ofMarks($marks) as $mark => $now) {
            foreach ($now as $key) {
                $keys[$mark][$key->place] = Keys::shown($mark, $key->toArray());
            }
        }
        $first = $since->where('action', EditAction::Key)->groupBy('mark_id', DB::raw("json_extract(coalesce(before, after), '$.key.place')"))->selectRaw('min(id)');
        foreach (DB::table('mark_history')->whereIn('id', $first)->get(['mark_id', 'before', 'after']) as $row) {
            $was = $row->before === null ? null : json_decode((string) $row->before, true, flags: JSON_THROW_ON_ERROR)['key'];
            if ($was !== null) {
                $keys[(string) $row->mark_id][(int) $was['place']] = Keys::shown((string) $row->mark_id, $was);
            } else {
                unset($keys[(string) $row->mark_id][(int) json_decode((string) $row->after, true, flags: JSON_THROW_ON_ERROR)['key']['place']]);
            }
        }
        $all = [];
        foreach (array_intersect_key($keys, array_flip($marks)) as $of) {
            ksort($of);
            array_push($all, ...array_values($of));
        }

        return $all;
    }
}
