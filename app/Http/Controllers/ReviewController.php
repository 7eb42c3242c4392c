<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\Turn;
use App\Work\ItemShape;
use App\Work\Turns;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** The reviewer's queue. */
final class ReviewController
{
    public function __invoke(Request $request, Turns $turns): JsonResponse
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $waiting = $turns->reviewable($actor, $project)->with(['item.asset', 'item.set', 'user', 'assignment'])->orderBy('submitted_at')->limit(200)->get();
        $counts = Turn::query()->where('project_id', $project->id)->groupBy('state')->selectRaw('state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();

        return new JsonResponse([
            'counts' => ['waiting' => $turns->reviewable($actor, $project)->count(), 'accepted' => $counts['accepted'] ?? 0, 'returned' => $counts['returned'] ?? 0],
            'data' => array_values($waiting->map(static fn (Turn $turn): array => [
                'turn' => $turn->id,
                'item' => ItemShape::of($turn->item),
                'labeller' => $turn->user->name ?? 'import',
                'round' => $turn->round,
                'submitted_at' => $turn->submitted_at?->toIso8601ZuluString(),
                'taken' => $turn->reviewer_id !== null && $turn->reviewer_id !== $actor->user->id && $turn->review_leased_until?->isFuture() === true,
            ])->all()),
        ]);
    }
}
