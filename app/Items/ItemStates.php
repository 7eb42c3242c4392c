<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Item;
use App\Models\Project;
use Carbon\CarbonImmutable;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/**
 * Keeps on items the state that follows from their turns, many at a time, in the transaction that changed them. The database works out
 * what ItemState::of says; a test holds the two against each other.
 */
final class ItemStates
{
    /** Items a statement may name. */
    public const CHUNK = 500;

    /** @param  list<int>  $ids */
    public static function refresh(array $ids): void
    {
        foreach (array_chunk(array_values(array_unique($ids)), self::CHUNK) as $some) {
            DB::table('items')->whereIn('id', $some)->update(['state' => DB::raw(self::state())]);
        }
    }

    /**
     * Takes items out of queues and counts, or brings them back as they were. What is done on one that is open just now is kept.
     *
     * @param  list<int>  $ids  of items of the project
     * @return int how many changed
     */
    public static function archive(Project $project, array $ids, bool $archived): int
    {
        $changed = 0;
        foreach (array_chunk($ids, self::CHUNK) as $some) {
            // a transaction for each: whoever labels meanwhile does not wait for all of them
            $changed += DB::transaction(static function () use ($project, $some, $archived): int {
                $items = Item::query()->where('project_id', $project->id)->whereIn('id', $some);

                return $archived
                    ? $items->whereNull('archived_at')->update(['archived_at' => CarbonImmutable::now(), 'state' => ItemState::Archived])
                    : $items->whereNotNull('archived_at')->update(['archived_at' => null, 'state' => DB::raw(self::state(false))]);
            });
        }

        return $changed;
    }

    /** The state of a row of `items`, in words of the database. */
    private static function state(bool $mayBeArchived = true): string
    {
        $progress = $state = '';
        foreach (TurnState::cases() as $case) {
            $progress .= " when '{$case->value}' then {$case->progress()}";
            $state .= " when {$case->progress()} then '{$case->value}'";
        }
        $least = "select min(case t.state {$progress} end) from turns t where t.item_id = items.id and t.followed = 0 and t.beside = 0 and t.stage not in (".implode(', ', array_map(static fn (Stage $stage): string => "'{$stage->value}'", Stage::deciding())).')';
        $of = "coalesce(case ({$least}) {$state} end, 'new')";

        return $mayBeArchived ? "case when archived_at is not null then 'archived' else {$of} end" : $of;
    }

    /** Items of a project that are in none of its queues. @return Builder<object> */
    public static function archivedOf(int $project): Builder
    {
        return DB::table('items')->where('project_id', $project)->whereNotNull('archived_at')->select('id');
    }
}
