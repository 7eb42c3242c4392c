<?php

declare(strict_types=1);

namespace App\Help;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Trial\Alike;

/** What people have made of what models suggested: left as it was, moved, given another class, dropped; and what the models missed. */
final class Outcomes
{
    /** From how alike on a confirmed shape is the suggested one: what rounding leaves. */
    private const SAME = 0.999;

    /** Changed shapes that are held against what was suggested; of more, the newest. */
    private const COMPARED = 2000;

    /** States of turns whose work is given away. */
    public const GIVEN = ['submitted', 'accepted', 'returned'];

    /**
     * @param  list<int>  $runs  ids of runs of one project
     * @return array{suggested: int, untouched: int, moved: int, alike: ?float, class_changed: int, dropped: int, left: int, open: int, missed: int, items: int, seconds: ?float, by_hand: ?float, said: array{suggested: int, right: int, changed: int, dropped: int, left: int, open: int}}
     *                                                                                                                                                                           alike: of what was moved, to where it was suggested; left: on items that were given away without anybody having decided; open: on others;
     *                                                                                                                                                                           missed: what a hand has drawn on items that were given away; seconds: at the bench, for an object on these items; by_hand: the same on items of the project on which nothing was suggested;
     * said: of the words about whole items
     */
    public function of(array $runs): array
    {
        $suggested = static fn (): Builder => DB::table('layers')->whereIn('layers.run_id', $runs)->join('marks as s', 's.layer_id', '=', 'layers.id');
        $decided = static fn (): Builder => $suggested()->join('marks as c', 'c.suggestion_id', '=', 's.id')->whereNull('c.deleted_at');
        [$moved, $alike, $same] = $this->changed((clone $decided())->whereColumn('c.class', 's.class')->whereColumn('c.geometry', '!=', 's.geometry'));
        $given = DB::table('layers')->whereIn('layers.run_id', $runs)->whereExists(static fn (Builder $turn) => $turn->from('turns')->whereColumn('turns.item_id', 'layers.item_id')->where('turns.stage', 'label')->whereIn('turns.state', self::GIVEN))->distinct()->pluck('layers.item_id');
        $undecided = $suggested()->whereNull('s.deleted_at')
            ->whereNotExists(static fn (Builder $c) => $c->from('marks as c')->whereColumn('c.suggestion_id', 's.id')->whereNull('c.deleted_at'))
            ->whereNotExists(static fn (Builder $d) => $d->from('suggestion_drops as d')->whereColumn('d.suggestion_id', 's.id'));
        $left = $missed = $objects = $seconds = 0;
        foreach ($given->chunk(500) as $items) {
            $left += (clone $undecided)->whereIn('layers.item_id', $items)->count();
            $missed += DB::table('marks')->whereIn('item_id', $items)->where('layer', LayerKind::Agreed->value)->whereNull('deleted_at')->whereNull('suggestion_id')->count();
            $objects += (int) DB::table('items')->whereIn('id', $items)->sum('mark_count');
            $seconds += (int) DB::table('turns')->whereIn('item_id', $items)->where('stage', 'label')->sum('seconds');
        }

        return [
            'suggested' => $suggested()->count(),
            'untouched' => $decided()->whereColumn('c.class', 's.class')->whereColumn('c.geometry', 's.geometry')->count() + $same,
            'moved' => $moved,
            'alike' => $alike,
            'class_changed' => $decided()->whereColumn('c.class', '!=', 's.class')->count(),
            'dropped' => $suggested()->join('suggestion_drops as d', 'd.suggestion_id', '=', 's.id')->count(),
            'left' => $left,
            'open' => $undecided->count() - $left,
            'missed' => $missed,
            'items' => $given->count(),
            'seconds' => $objects === 0 ? null : round($seconds / $objects, 1),
            'by_hand' => ByHand::seconds((int) DB::table('runs')->whereIn('id', $runs)->value('project_id')),
            'said' => $this->said($runs),
        ];
    }

    /**
     * What is said now of the items, beside what was suggested to be said.
     *
     * @param  list<int>  $runs
     * @return array{suggested: int, right: int, changed: int, dropped: int, left: int, open: int}
     */
    private function said(array $runs): array
    {
        $given = "exists (select 1 from turns where turns.item_id = w.item_id and turns.stage = 'label' and turns.state in ('".implode("','", self::GIVEN)."'))";
        // what stands there now: a tag, or the answer as it is written
        $now = "case when w.answer is null then (select 'tag' from json_each(a.tags) where value = w.key) else json_extract(a.answers, '$.\"' || w.key || '\"') end";
        $meant = "case when w.answer is null then 'tag' else json(w.answer) end";
        $dropped = 'exists (select 1 from suggestion_drops d where d.suggestion_id = w.id)';
        $of = DB::query()->fromSub(DB::table('layers')->whereIn('layers.run_id', $runs)->join('suggested_words as w', 'w.layer_id', '=', 'layers.id')->join('layers as a', static fn ($join) => $join->on('a.item_id', '=', 'w.item_id')->where('a.name', LayerKind::Agreed->name()))
            ->selectRaw("{$now} as now, {$meant} as meant, {$dropped} as dropped, {$given} as given, w.deleted_at is null as there"), 'words')
            ->selectRaw('count(*) as suggested, coalesce(sum(now = meant), 0) as "right", coalesce(sum(now is not null and now != meant), 0) as changed, coalesce(sum(now is null and dropped), 0) as dropped,
                coalesce(sum(now is null and not dropped and there and given), 0) as "left", coalesce(sum(now is null and not dropped and there and not given), 0) as open')->first();

        return ['suggested' => (int) ($of->suggested ?? 0), 'right' => (int) ($of->right ?? 0), 'changed' => (int) ($of->changed ?? 0), 'dropped' => (int) ($of->dropped ?? 0), 'left' => (int) ($of->left ?? 0), 'open' => (int) ($of->open ?? 0)];
    }

    /**
     * Of shapes that are not written alike: how many lie elsewhere, how alike those are to what was suggested, and how many are the same all the same.
     *
     * @return array{int, ?float, int}
     */
    private function changed(Builder $pairs): array
    {
        $all = (clone $pairs)->count();
        $alike = [];
        $same = 0;
        $rows = $pairs->join('items', 'items.id', '=', 'c.item_id')->join('assets', 'assets.id', '=', 'items.asset_id')->orderByDesc('c.id')->limit(self::COMPARED)->get(['s.kind as before_kind', 's.geometry as before', 'c.kind', 'c.geometry', 'assets.width', 'assets.height']);
        foreach ($rows as $row) {
            $shape = static fn (string $kind, string $geometry) => Shape::from($kind)->geometry(Fields::of(json_decode($geometry, true)), 'geometry', true);
            $like = Alike::of($shape((string) $row->kind, (string) $row->geometry), $shape((string) $row->before_kind, (string) $row->before), (int) $row->width, (int) $row->height);
            if ($like >= self::SAME) {
                $same++;
            } else {
                $alike[] = $like;
            }
        }

        return [$all - $same, $alike === [] ? null : round(array_sum($alike) / count($alike), 4), $same];
    }
}
