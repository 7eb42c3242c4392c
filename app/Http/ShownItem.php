<?php

declare(strict_types=1);

namespace App\Http;

use App\Access\Actor;
use App\Models\Item;
use App\Models\Turn;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Ability;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** An item whose files this person may see: labellers see those of the work that concerns them, not the whole project. */
final class ShownItem
{
    public static function of(Request $request): Item
    {
        $project = Input::project($request);
        $item = Item::query()->where('project_id', $project->id)->with(['asset', 'set'])->findOrFail(Input::id($request, 'item'));
        $actor = Input::actor($request);
        if (! $actor->may(Ability::SeeItems, $project) && ! self::concerns($actor, $item)) {
            throw new NotFoundHttpException('there is no such item');
        }

        return $item;
    }

    private static function concerns(Actor $actor, Item $item): bool
    {
        return Turn::query()->where('item_id', $item->id)->where(static fn ($query) => $query
            ->where('user_id', $actor->user->id)
            ->orWhereIn('assignment_id', DB::table('stations')->join('station_people', 'station_people.station_id', '=', 'stations.id')->where('user_id', $actor->user->id)->select('assignment_id')))->exists();
    }
}
