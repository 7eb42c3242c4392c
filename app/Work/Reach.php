<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Item;
use App\Models\Project;
use App\Models\Turn;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/**
 * Whose agreed marks a person may change without opening the item on the bench: a manager all; others by the part they have in the
 * assignment: who decides there all of its items, who labels there what they have open or what waits for them. What somebody else is
 * drawing on just now, labellers can't reach.
 */
final class Reach
{
    /** @return Builder<Item> items that are not archived */
    public static function items(Actor $actor, Project $project): Builder
    {
        $items = Item::query()->where('items.project_id', $project->id)->whereNull('items.archived_at');
        $role = $actor->roleIn($project);
        if ($role === Role::Manager) {
            return $items;
        }
        $labelled = self::labelling($actor)->where('turns.project_id', $project->id)->select('turns.item_id');
        $decided = self::deciding($actor, $project)->select('turns.item_id');

        return $items->where(static fn (Builder $either): Builder => $either->whereIn('items.id', $labelled)->when($role === Role::Reviewer, static fn (Builder $query): Builder => $query->orWhereIn('items.id', $decided)));
    }

    /** @return Builder<Item> items that are not archived and out of reach */
    public static function outside(Actor $actor, Project $project): Builder
    {
        $all = Item::query()->where('items.project_id', $project->id)->whereNull('items.archived_at');

        return $all->whereNotIn('items.id', self::items($actor, $project)->select('items.id'));
    }

    /**
     * How much of a project a person reaches: who reaches all of it, or nearly all, is spared the looking up of each item.
     *
     * @return array{within: int, outside: int} items that are not archived
     */
    public static function extent(Actor $actor, Project $project): array
    {
        $all = Item::query()->where('project_id', $project->id)->whereNull('archived_at')->count();
        $within = $actor->roleIn($project) === Role::Manager ? $all : self::items($actor, $project)->count();

        return ['within' => $within, 'outside' => $all - $within];
    }

    /** The turn in whose course somebody changes an item they label; null for who corrects beside the turns. */
    public static function turn(Actor $actor, Project $project, Item $item): ?Turn
    {
        return self::labelling($actor)->where('turns.item_id', $item->id)->orderByDesc('turns.id')->first();
    }

    /** @return Builder<Turn> */
    private static function deciding(Actor $actor, Project $project): Builder
    {
        // the few assignments first: asked of every turn, it takes seconds
        return Turn::query()->whereIn('turns.assignment_id', DB::table('stations')->join('assignments', 'assignments.id', '=', 'stations.assignment_id')->join('station_people', 'station_people.station_id', '=', 'stations.id')->where('assignments.project_id', $project->id)->whereIn('stations.stage', array_column(Stage::deciding(), 'value'))->where('station_people.user_id', $actor->user->id)->distinct()->pluck('stations.assignment_id'));
    }

    /** @return Builder<Turn> */
    private static function labelling(Actor $actor): Builder
    {
        $me = $actor->user->id;
        $stations = DB::table('station_people')->where('user_id', $me)->pluck('station_id');

        return Turn::query()->where('turns.stage', Stage::Label)->where('turns.followed', false)
            ->whereExists(static fn ($agreed) => $agreed->from('layers')->whereColumn('layers.id', 'turns.layer_id')->where('layers.kind', LayerKind::Agreed->value))
            ->where(static fn (Builder $mine): Builder => $mine
                ->where(static fn (Builder $open): Builder => $open->where('turns.state', TurnState::Open)->where('turns.user_id', $me))
                ->orWhere(static fn (Builder $waiting): Builder => $waiting->where('turns.state', TurnState::Waiting)
                    ->where(static fn (Builder $whose): Builder => $whose->whereNull('turns.user_id')->orWhere('turns.user_id', $me))
                    ->whereIn('turns.station_id', $stations)));
    }
}
