<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Item;
use App\Models\Project;
use App\Models\Turn;
use Illuminate\Database\Eloquent\Builder;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

/**
 * Whose agreed marks a person may change without opening the item on the bench: a manager all, a reviewer those of the assignments they
 * review, a labeller what they have open or what waits for them. What somebody else is drawing on just now, labellers can't reach.
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

        return $items->whereIn('items.id', self::turns($actor, $role)->where('turns.project_id', $project->id)->select('turns.item_id'));
    }

    /** The turn in whose course a labeller changes an item; null for who corrects beside the turns. */
    public static function turn(Actor $actor, Project $project, Item $item): ?Turn
    {
        return $actor->roleIn($project) === Role::Labeller ? self::turns($actor, Role::Labeller)->where('turns.item_id', $item->id)->orderByDesc('turns.id')->first() : null;
    }

    /** @return Builder<Turn> */
    private static function turns(Actor $actor, ?Role $role): Builder
    {
        $me = $actor->user->id;
        $in = static fn (string $part) => static fn ($people) => $people->from('assignment_people')->whereColumn('assignment_people.assignment_id', 'turns.assignment_id')->where('user_id', $me)->where('part', $part);

        return match ($role) {
            Role::Reviewer => Turn::query()->whereExists($in('reviewer')),
            Role::Labeller => Turn::query()->where('turns.layer', TurnKey::AGREED)->where(static fn (Builder $mine): Builder => $mine
                ->where(static fn (Builder $open): Builder => $open->where('turns.state', TurnState::Open)->where('turns.user_id', $me))
                ->orWhere(static fn (Builder $waiting): Builder => $waiting->where('turns.state', TurnState::Waiting)
                    ->where(static fn (Builder $whose): Builder => $whose->whereNull('turns.user_id')->orWhere('turns.user_id', $me))->whereExists($in('labeller')))),
            default => Turn::query()->whereRaw('1 = 0'),
        };
    }
}
