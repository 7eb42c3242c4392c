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
    private const GIVEN = ['submitted', 'accepted', 'returned'];

    /**
     * @param  list<int>  $runs  ids of runs of one project
     * @return array{suggested: int, untouched: int, moved: int, alike: ?float, class_changed: int, dropped: int, left: int, open: int, missed: int, items: int, seconds: ?float}
     *                                                                                                                                                                           alike: of what was moved, to where it was suggested; left: on items that were given away without anybody having decided; open: on others;
     *                                                                                                                                                                           missed: what a hand has drawn on items that were given away; seconds: at the bench, for an object on these items
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
        ];
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
            $shape = static fn (string $kind, string $geometry) => Shape::from($kind)->flat(Fields::of(json_decode($geometry, true)), 'geometry', true);
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
