<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnKey;

/** Keeps on the item what queries need of its turns and marks. Called in the transaction that changed them. */
final class ItemStates
{
    /**
     * Takes items out of queues and counts, or brings them back as they were. What is done on one that is open just now is kept.
     *
     * @param  list<int>  $ids  of items of the project
     * @return int how many changed
     */
    public static function archive(Project $project, array $ids, bool $archived): int
    {
        return DB::transaction(static function () use ($project, $ids, $archived): int {
            $changed = 0;
            foreach (array_chunk($ids, 500) as $some) {
                $items = Item::query()->where('project_id', $project->id)->whereIn('id', $some);
                if ($archived) {
                    $changed += $items->whereNull('archived_at')->update(['archived_at' => CarbonImmutable::now(), 'state' => ItemState::Archived]);

                    continue;
                }
                foreach ($items->whereNotNull('archived_at')->get() as $item) {
                    $item->archived_at = null;
                    self::refresh($item);
                    $changed++;
                }
            }

            return $changed;
        });
    }

    public static function refresh(Item $item): void
    {
        $turns = Turn::query()->where('item_id', $item->id)->get()->map(static fn (Turn $turn): TurnKey => $turn->key())->all();
        $item->state = ItemState::of(array_values($turns), $item->archived_at !== null);
        $item->mark_count = MarkRow::query()->where('item_id', $item->id)->where('layer', TurnKey::AGREED)->where('kind', '!=', ItemAnswers::KIND)->whereNull('deleted_at')->count();
        if ($item->mark_count > 0) {
            $item->nothing = false;
        }
        $item->save();
    }
}
