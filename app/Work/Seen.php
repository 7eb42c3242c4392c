<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Item;
use App\Models\Project;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Workflow\SeenGrid;

/** Which parts of an item a person has looked at close up; kept over reloads and rounds. */
final class Seen
{
    public static function of(Item $item, int $person): SeenGrid
    {
        $grid = SeenGrid::of(max(1, $item->asset->width), max(1, $item->asset->height));
        $cells = DB::table('seen')->where('item_id', $item->id)->where('user_id', $person)->value('cells');

        return is_string($cells) && strlen($cells) === strlen($grid->cells) ? $grid->with($cells) : $grid;
    }

    /** Adds what has been seen; nothing that was seen is forgotten. */
    public static function add(Item $item, int $person, string $cells): SeenGrid
    {
        return DB::transaction(static function () use ($item, $person, $cells): SeenGrid {
            $grid = self::of($item, $person)->with($cells);
            DB::table('seen')->upsert([['item_id' => $item->id, 'user_id' => $person, 'cells' => $grid->cells, 'updated_at' => now()]], ['item_id', 'user_id'], ['cells', 'updated_at']);

            return $grid;
        });
    }

    /** @throws Refusal where the project asks for all to be seen and something was not */
    public static function mustBeAll(Project $project, Item $item, Actor $actor): void
    {
        // (of a clip it is its frames that are gone through, and a text is read)
        if (! $project->require_seen || $item->kind !== 'picture') {
            return;
        }
        $grid = self::of($item, $actor->user->id);
        if (! $grid->isAll()) {
            $rest = max(1, (int) round(100 * (1 - $grid->share())));
            throw Refusal::because('not_seen', "{$rest} % of the picture has not been looked at close up; what is left is shaded");
        }
    }
}
