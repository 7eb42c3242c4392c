<?php

declare(strict_types=1);

namespace App\Help;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\LayerKind;

/** What an object takes by hand, which what a model does is held against. */
final class ByHand
{
    /** Turns that are looked at, the newest. */
    private const MOST = 2000;

    /** Seconds at the bench for an object, on items that were given away and on which nothing was suggested; null: there is none yet. */
    public static function seconds(int $project): ?float
    {
        $of = DB::query()->fromSub(DB::table('turns')->where('turns.project_id', $project)->where('turns.stage', 'label')->whereIn('turns.state', Outcomes::GIVEN)->where('turns.seconds', '>', 0)->join('items', 'items.id', '=', 'turns.item_id')->where('items.mark_count', '>', 0)
            ->whereNotExists(static fn (Builder $suggested) => $suggested->from('layers')->whereColumn('layers.item_id', 'items.id')->where('layers.kind', LayerKind::Suggestion->value))
            ->orderByDesc('turns.id')->limit(self::MOST)->selectRaw('items.id, items.mark_count, turns.seconds'), 'done')->groupBy('id')->selectRaw('max(mark_count) as objects, sum(seconds) as seconds')->get();
        $objects = (int) $of->sum('objects');

        return $objects === 0 ? null : round((int) $of->sum('seconds') / $objects, 1);
    }
}
