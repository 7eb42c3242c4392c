<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Turn;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;

/** What lies around an item in a person's queue, and the history of its marks. */
final class Queue
{
    private const EACH_SIDE = 30;

    public function __construct(private readonly Turns $turns)
    {
    }

    /**
     * The turns of the same assignment a person can go to, in the order of the items: their own and those that wait; for a
     * reviewer those that are submitted.
     *
     * @return array{place: int, total: int, done: int, data: list<array<string, mixed>>}
     */
    public function around(Actor $actor, Turn $turn): array
    {
        [$query, $reviewing] = $this->reachable($actor, $turn);
        $ids = (clone $query)->join('items', 'items.id', '=', 'turns.item_id')->orderBy('items.path')->orderBy('turns.id')->pluck('turns.id')->map(static fn (mixed $id): int => (int) $id)->all();
        if (! in_array($turn->id, $ids, true)) {
            array_unshift($ids, $turn->id);
        }
        $place = (int) array_search($turn->id, $ids, true);
        $window = array_slice($ids, max(0, $place - self::EACH_SIDE), 2 * self::EACH_SIDE + 1);
        $rows = Turn::query()->whereIn('id', $window)->with(['item.asset', 'item.set'])->get()->keyBy('id');
        $data = [];
        foreach ($window as $id) {
            $row = $rows->get($id);
            if ($row !== null) {
                $data[] = self::row($row);
            }
        }
        $done = $reviewing ? 0 : (clone $query)->whereIn('turns.state', ['submitted', 'accepted'])->count();

        return ['place' => $place + 1, 'total' => count($ids), 'done' => $done, 'data' => $data];
    }

    /**
     * Turns of the queue around this one, by number or a part of the name, and by state.
     *
     * @param  string  $find  a place in the queue (from 1), or a part of the name; empty: all
     * @param  ?string  $state  of the turn
     * @param  'name'|'state'|'time'  $sort
     * @return array{total: int, states: array<string, int>, data: list<array<string, mixed>>}
     */
    public function find(Actor $actor, Turn $turn, string $find, ?string $state, string $sort): array
    {
        [$query] = $this->reachable($actor, $turn);
        /** @var array<int, int> $places by turn */
        $places = array_flip(array_values((clone $query)->join('items', 'items.id', '=', 'turns.item_id')->orderBy('items.path')->orderBy('turns.id')->pluck('turns.id')->map(static fn (mixed $id): int => (int) $id)->all()));
        $matching = (clone $query)->join('items', 'items.id', '=', 'turns.item_id');
        if (ctype_digit($find) && strlen($find) < 9) {
            // a number is a place; also a name may have it
            $place = array_search((int) $find - 1, $places, true);
            $matching->where(static fn (Builder $either): Builder => $either->where('turns.id', $place === false ? 0 : $place)->orWhere('items.path', 'like', "%{$find}%"));
        } elseif ($find !== '') {
            $matching->whereRaw("items.path like ? escape '\\'", ['%'.addcslashes($find, '%_\\').'%']);
        }
        $states = (clone $matching)->groupBy('turns.state')->selectRaw('turns.state as state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();
        if ($state !== null) {
            $matching->where('turns.state', $state);
        }
        match ($sort) {
            'state' => $matching->orderBy('turns.state'),
            'time' => $matching->orderByDesc('turns.updated_at'),
            'name' => null,
        };
        $rows = $matching->orderBy('items.path')->orderBy('turns.id')->limit(60)->select('turns.*')->with(['item.asset', 'item.set'])->get();

        return ['total' => count($places), 'states' => $states, 'data' => array_values($rows->map(static fn (Turn $row): array => self::row($row) + ['place' => ($places[$row->id] ?? 0) + 1])->all())];
    }

    /** @return array<string, mixed> */
    private static function row(Turn $row): array
    {
        return ['turn' => $row->id, 'state' => $row->state->value, 'name' => basename($row->item->path), 'thumb' => ItemShape::of($row->item)['picture']['thumb'], 'labelled' => $row->item->labelled()->value];
    }

    /**
     * The turns a person can go to from this one, and whether they review.
     *
     * @return array{0: Builder<Turn>, 1: bool}
     */
    private function reachable(Actor $actor, Turn $turn): array
    {
        $me = $actor->user->id;
        $reviewing = $turn->reviewer_id === $me && $turn->user_id !== $me;
        $query = $reviewing
            ? $this->turns->reviewable($actor, $turn->project)
            : Turn::present()->where('turns.project_id', $turn->project_id)->where('turns.assignment_id', $turn->assignment_id)->where(static fn ($query) => $query->where('turns.user_id', $me)->orWhere(static fn ($free) => $free->where('turns.state', 'waiting')->whereNull('turns.user_id')))
                // of several rounds only the last
                ->whereNotExists(static fn ($later) => $later->from('turns as later')->whereColumn('later.item_id', 'turns.item_id')->whereColumn('later.assignment_id', 'turns.assignment_id')->whereColumn('later.pass', 'turns.pass')->whereColumn('later.round', '>', 'turns.round'));

        return [$query, $reviewing];
    }

    /** @return list<array<string, mixed>> newest first */
    public function history(Turn $turn, string $mark): array
    {
        $rows = DB::table('mark_history')->leftJoin('users', 'users.id', '=', 'mark_history.user_id')->where('item_id', $turn->item_id)->where('mark_id', $mark)
            ->orderByDesc('mark_history.id')->limit(200)->select('action', 'revision', 'before', 'after', 'mark_history.created_at', 'users.name')->get();

        return array_values($rows->map(static fn (object $row): array => [
            'action' => (string) $row->action,
            'revision' => (int) $row->revision,
            'by' => (string) ($row->name ?? 'import'),
            'at' => str_replace(' ', 'T', substr((string) $row->created_at, 0, 19)).'Z',
            'before' => $row->before === null ? null : json_decode((string) $row->before, true),
            'after' => $row->after === null ? null : json_decode((string) $row->after, true),
        ])->all());
    }
}
