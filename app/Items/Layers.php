<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;

/** The layers of items: found or made, read, counted. */
final class Layers
{
    public static function agreed(int $item): Layer
    {
        return Layer::query()->where('item_id', $item)->where('name', LayerKind::Agreed->name())->firstOrFail();
    }

    /**
     * A layer beside the agreed one; made when it is not there yet.
     *
     * @param  int  $of  the assignment, or the run of suggestions
     */
    public static function ensure(Item $item, LayerKind $kind, int $of, ?int $pass = null): Layer
    {
        return Layer::query()->firstOrCreate(
            ['item_id' => $item->id, 'name' => $kind->name($of, $pass)],
            ['project_id' => $item->project_id, 'kind' => $kind, 'pass' => $pass] + ($kind === LayerKind::Suggestion ? ['run_id' => $of] : ['assignment_id' => $of]),
        )->refresh();
    }

    /**
     * @param  bool  $telling  of tracks only the keys that say more than where it is
     * @return list<Mark> that stand in a layer, in order of age
     */
    public static function marks(Layer $layer, bool $telling = false): array
    {
        $rows = MarkRow::query()->where('layer_id', $layer->id)->whereNull('deleted_at')->orderBy('id')->get();
        $keys = $rows->contains(static fn (MarkRow $row): bool => $row->stretches !== null) ? Keys::ofLayer($layer->id, $telling) : [];

        return array_values($rows->map(static fn (MarkRow $row): Mark => $row->mark(keys: $keys[$row->id] ?? []))->all());
    }

    /** Keeps the count of the objects of a layer, of which relations between them are none; of the agreed one also on its item. Called in the transaction that changed its marks. */
    public static function count(Layer $layer): void
    {
        $layer->mark_count = MarkRow::query()->where('layer_id', $layer->id)->whereNull('deleted_at')->where('kind', '!=', Shape::Relation->value)->count();
        self::sayNothing($layer, $layer->nothing && $layer->mark_count === 0);
    }

    /** Somebody says that nothing is there, or no longer. */
    public static function sayNothing(Layer $layer, bool $nothing): void
    {
        $layer->nothing = $nothing;
        $layer->save();
        if ($layer->kind === LayerKind::Agreed) {
            Item::query()->whereKey($layer->item_id)->update(['mark_count' => $layer->mark_count, 'nothing' => $nothing]);
        }
    }
}
