<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Turn;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnKey;

/** Keeps on the item what queries need of its turns and marks. Called in the transaction that changed them. */
final class ItemStates
{
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
