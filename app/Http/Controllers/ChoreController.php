<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Chores\Chores;
use App\Http\Input;
use App\Models\Chore;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** Work on many items that goes on behind the page: how far it is, stopped, tried again. */
final class ChoreController
{
    public function __construct(private readonly Chores $chores)
    {
    }

    /** What goes on or has failed, and what came to its end in the last day. */
    public function index(Request $request): JsonResponse
    {
        $found = Chore::query()->where('project_id', Input::project($request)->id)->where(static fn ($query) => $query->whereIn('state', ['waiting', 'working', 'failed'])->orWhere('updated_at', '>', now()->subDay()))->with('user')->orderByDesc('id')->limit(20)->get();

        return new JsonResponse(['data' => $found->map(self::shape(...))->all()]);
    }

    public function cancel(Request $request): JsonResponse
    {
        return new JsonResponse(self::shape($this->chores->cancel($this->one($request))));
    }

    public function retry(Request $request): JsonResponse
    {
        return new JsonResponse(self::shape($this->chores->retry($this->one($request))));
    }

    private function one(Request $request): Chore
    {
        return Chore::query()->where('project_id', Input::project($request)->id)->with('user')->findOrFail(Input::id($request, 'chore'));
    }

    /** @return array<string, mixed> */
    public static function shape(Chore $chore): array
    {
        return ['id' => $chore->id, 'kind' => $chore->kind, 'state' => $chore->state, 'done' => $chore->done, 'total' => $chore->total, 'report' => $chore->report, 'error' => $chore->error, 'by' => $chore->user->name ?? '', 'at' => $chore->created_at->toIso8601ZuluString()];
    }
}
