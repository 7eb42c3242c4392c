<?php

declare(strict_types=1);

namespace App\Http;

use App\Models\Turn;
use App\Work\Stations;
use Illuminate\Http\Request;
use Skeno\Core\People\Ability;
use Skeno\Core\Workflow\TurnState;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** A turn the person may see: their own, one handed out to them, one they review; managers see all. */
final class VisibleTurn
{
    public static function of(Request $request): Turn
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $turn = Turn::query()->where('project_id', $project->id)->with(['item.asset', 'item.set', 'layer', 'assignment.stations', 'user', 'project'])->findOrFail(Input::id($request, 'turn'));
        $me = $actor->user->id;
        $labels = ! $turn->stage->decides();
        $ok = $turn->user_id === $me || ($labels && $turn->last_user_id === $me)
            || $actor->may(Ability::ManageProject, $project)
            || Stations::hasPart($actor, $turn->assignment_id, true)
            // what waits for anybody of the assignment, and what is open elsewhere (to be told so), but not others' finished work
            || ($labels && in_array($turn->state, [TurnState::Waiting, TurnState::Open], true) && Stations::hasPart($actor, $turn->assignment_id, false));

        return $ok ? $turn : throw new NotFoundHttpException('there is no such turn');
    }
}
