<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Items\ItemShape;
use App\Models\Turn;
use App\Work\Stations;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Workflow\Stage;

/** The reviewer's queue. */
final class ReviewController
{
    public function __invoke(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $waiting = Stations::reviewable($actor, $project)->with(['item.asset', 'item.set', 'user'])->orderBy('turns.id')->limit(200)->get();
        $work = Turn::query()->whereIn('item_id', $waiting->pluck('item_id'))->where('stage', Stage::Label)->where('followed', false)->with('user')->get()->groupBy(static fn (Turn $turn): string => "{$turn->item_id}/{$turn->assignment_id}");
        $counts = Turn::query()->where('project_id', $project->id)->where('stage', Stage::Label)->where('followed', false)->groupBy('state')->selectRaw('state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();

        return new JsonResponse([
            'counts' => ['waiting' => Stations::reviewable($actor, $project)->count(), 'accepted' => $counts['accepted'] ?? 0, 'returned' => $counts['returned'] ?? 0],
            'data' => array_values($waiting->map(static function (Turn $turn) use ($actor, $work): array {
                $labelled = $work["{$turn->item_id}/{$turn->assignment_id}"] ?? collect();

                return [
                    'turn' => $turn->id,
                    'item' => ItemShape::of($turn->item),
                    'stage' => $turn->stage->value,
                    'labeller' => $labelled->map(static fn (Turn $work): string => $work->user->name ?? 'import')->unique()->implode(', ') ?: 'import',
                    'round' => $turn->round,
                    'submitted_at' => $labelled->max('submitted_at')?->toIso8601ZuluString(),
                    'reopened_because' => (string) $labelled->max('reopened_because'),
                    'held_by' => $turn->isHeld() && $turn->user_id !== $actor->user->id ? ['id' => $turn->user_id, 'name' => $turn->user->name ?? ''] : null,
                ];
            })->all()),
        ]);
    }
}
