<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Assignment;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\LayerKind;

/**
 * How unsure models are of items, over all they have suggested there: at one half a suggestion is a whole doubt, at 0 or 1 it is none. Queues that
 * are ordered by it follow.
 */
final class Doubts
{
    /** Places of queues are whole numbers: this many for a doubt. */
    private const STEPS = 1000;

    /** After suggestions have come or gone, in the transaction in which they did. @param  list<int>  $items */
    public static function refresh(array $items): void
    {
        foreach (array_chunk($items, 500) as $some) {
            $in = implode(',', array_map(intval(...), $some));
            $of = static fn (string $table, string $more): string => "select confidence from {$table} where {$table}.item_id = items.id and {$table}.deleted_at is null and {$table}.confidence is not null{$more}";
            DB::update("update items set doubt = (select sum(1 - abs(2 * confidence - 1)) from ({$of('marks', " and marks.layer = '".LayerKind::Suggestion->value."'")} union all {$of('suggested_words', '')})) where id in ({$in})");
            foreach (self::queues($some) as $queue) {
                self::place($queue, "and item_id in ({$in})");
            }
        }
    }

    /** Puts what waits of an assignment in the order of doubt. @param  list<int>  $items at most some thousand */
    public static function order(Assignment $assignment, array $items): void
    {
        self::place($assignment->id, 'and item_id in ('.implode(',', $items).')');
    }

    private static function place(int $assignment, string $which): void
    {
        DB::update('update turns set place = -cast(round(coalesce((select doubt from items where items.id = turns.item_id), 0) * '.self::STEPS.") as integer) where assignment_id = ? and stage = 'label' and state = 'waiting' {$which}", [$assignment]);
    }

    /** @param  list<int>  $items @return list<int> assignments over any of them that are ordered by doubt */
    private static function queues(array $items): array
    {
        $of = DB::table('turns')->whereIntegerInRaw('item_id', $items)->whereNotNull('assignment_id')->distinct()->pluck('assignment_id')->all();

        return array_values(Assignment::query()->whereIntegerInRaw('id', $of)->get()->filter(static fn (Assignment $one): bool => $one->isByDoubt())->map(static fn (Assignment $one): int => $one->id)->all());
    }
}
