<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Items\ItemShape;
use App\Models\Turn;
use App\Support\Rows;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use PDO;

/** What lies around an item in a person's queue, and the history of its marks. */
final class Queue
{
    private const EACH_SIDE = 30;

    /** Entries shown of what is found. */
    private const FOUND = 60;

    /**
     * The turns of the same assignment a person can go to, in the order of the queue: their own and those that wait;
     * for a reviewer those that are submitted.
     *
     * @return array{place: int, total: int, done: int, data: list<array<string, mixed>>}
     */
    public function around(Actor $actor, Turn $turn): array
    {
        [$query, $reviewing] = $this->reachable($actor, $turn);
        $side = static fn (string $than, string $order): array => (clone $query)->whereRaw("(turns.place, turns.item_id, turns.id) {$than} (?, ?, ?)", [$turn->place, $turn->item_id, $turn->id])->orderBy('turns.place', $order)->orderBy('turns.item_id', $order)->orderBy('turns.id', $order)->limit(self::EACH_SIDE)->with(['item.asset', 'item.set'])->get()->all();
        $before = (clone $query)->whereRaw('(turns.place, turns.item_id, turns.id) < (?, ?, ?)', [$turn->place, $turn->item_id, $turn->id])->count();
        $total = (clone $query)->count();
        // the turn itself is in its ribbon, also while it is somebody else's
        $isIn = (clone $query)->whereKey($turn->id)->exists();
        $rows = [...array_reverse($side('<', 'desc')), $turn->load(['item.asset', 'item.set']), ...$side('>', 'asc')];

        return [
            'place' => $before + 1,
            'total' => $total + ($isIn ? 0 : 1),
            'done' => $reviewing ? 0 : (clone $query)->whereIn('turns.state', ['submitted', 'accepted'])->count(),
            'data' => array_map(self::row(...), $rows),
        ];
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
        // the whole queue once, in its order: from it come the total, the places, and which turn a number means
        $queue = self::column((clone $query)->orderBy('turns.place')->orderBy('turns.item_id')->orderBy('turns.id')->select('turns.id'));
        $matching = (clone $query)->join('items', 'items.id', '=', 'turns.item_id');
        match ($sort) {
            'state' => $matching->orderBy('turns.state'),
            'time' => $matching->orderByDesc('turns.updated_at'),
            'name' => null,
        };
        $matching->orderBy('items.path')->orderBy('turns.id');
        if ($find === '') {
            $states = (clone $query)->groupBy('turns.state')->selectRaw('turns.state as state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();
            $ids = self::column($matching->when($state !== null, static fn (Builder $of): Builder => $of->where('turns.state', $state))->limit(self::FOUND)->select('turns.id'));
        } else {
            // a number is a place; also a name may have it
            $numbered = ctype_digit($find) && strlen($find) < 9 ? $queue[(int) $find - 1] ?? 0 : 0;
            $matching->where(static fn (Builder $either): Builder => $either->whereRaw("items.path like ? escape '\\'", ['%'.addcslashes($find, '%_\\').'%'])->orWhere('turns.id', $numbered));
            $found = $matching->select('turns.id', 'turns.state')->toBase()->pluck('state', 'id')->map(static fn (mixed $of): string => (string) $of);
            $states = $found->countBy()->all();
            $ids = $found->when($state !== null, static fn ($all) => $all->filter(static fn (string $of): bool => $of === $state))->keys()->take(self::FOUND)->all();
        }
        $rows = Turn::query()->whereIn('id', $ids)->with(['item.asset', 'item.set'])->get()->keyBy('id');
        $places = array_flip($queue);

        return ['total' => count($queue), 'states' => $states, 'data' => array_map(static fn (int $id): array => self::row($rows[$id]) + ['place' => ($places[$id] ?? 0) + 1], array_values(array_filter($ids, static fn (int $id): bool => isset($rows[$id]))))];
    }

    /** @param  Builder<Turn>  $query  of one column @return list<int> */
    private static function column(Builder $query): array
    {
        return array_map(static fn (mixed $id): int => is_numeric($id) ? (int) $id : 0, Rows::of($query->toBase())->fetchAll(PDO::FETCH_COLUMN));
    }

    /** @return array<string, mixed> */
    private static function row(Turn $row): array
    {
        return ['turn' => $row->id, 'state' => $row->state->value, 'name' => basename($row->item->path), 'thumb' => ItemShape::of($row->item)['picture']['thumb'], 'labelled' => $row->item->labelled()->value];
    }

    /**
     * The turns a person can go to from this one, and whether they decide there.
     *
     * @return array{0: Builder<Turn>, 1: bool}
     */
    private function reachable(Actor $actor, Turn $turn): array
    {
        if ($turn->stage->decides()) {
            return [Stations::reviewable($actor, $turn->project), true];
        }
        $me = $actor->user->id;

        $mine = Turn::present($turn->project_id, $turn->station_id)->where(static fn (Builder $query): Builder => $query->where('turns.user_id', $me)->orWhere(static fn (Builder $free): Builder => $free->where('turns.state', 'waiting')->whereNull('turns.user_id')));

        // what came in with the data is of no assignment, so of no station
        return [$turn->station_id === null ? $mine->whereNull('turns.station_id')->where('turns.assignment_id', $turn->assignment_id)->where('turns.stage', $turn->stage) : $mine, false];
    }

    /**
     * What became of a mark of the layer this turn works on, or when null of what is said of the item there.
     *
     * @return list<array<string, mixed>> newest first
     */
    public function history(Turn $turn, ?string $mark): array
    {
        $rows = DB::table('mark_history')->leftJoin('users', 'users.id', '=', 'mark_history.user_id')->where('mark_history.layer_id', $turn->layer_id)->where('mark_id', $mark)
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
