<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use App\Access\Actor;
use App\Models\Project;
use App\Models\User;
use Closure;
use Illuminate\Auth\Access\AuthorizationException;
use Illuminate\Http\Request;
use Skeno\Core\People\Ability;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/**
 * The policy of a route: `right:<ability>[,<or another>]`. A project one is not in does not exist (404); a missing right in a
 * project one is in is 403. What the route is about is put on the request for the controller.
 */
final class Right
{
    public function handle(Request $request, Closure $next, string ...$abilities): Response
    {
        $user = $request->user();
        assert($user instanceof User);
        $actor = new Actor($user);
        $wanted = array_map(Ability::from(...), $abilities);
        if ($request->route('project') !== null) {
            $id = $request->route('project');
            $project = is_string($id) && ctype_digit($id) ? Project::query()->find((int) $id) : null;
            if ($project === null || ! $actor->may(Ability::SeeProject, $project)) {
                throw new NotFoundHttpException('there is no such project');
            }
            $request->attributes->set('project', $project);
        }
        foreach ($wanted as $ability) {
            if ($actor->may($ability, $project ?? null)) {
                $request->attributes->set('actor', $actor);

                return $next($request);
            }
        }
        throw new AuthorizationException('your role does not allow this');
    }
}
