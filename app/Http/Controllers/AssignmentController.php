<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\Assignment;
use App\Models\AssignmentPerson;
use App\Work\HandOut;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** Hand out. */
final class AssignmentController
{
    public function __construct(private readonly HandOut $handOut)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $found = Input::project($request)->assignments()->with('people.user')->orderByDesc('id')->get();

        return new JsonResponse(['data' => $found->map($this->shape(...))->all()]);
    }

    /** How many items the sentence means now. */
    public function preview(Request $request): JsonResponse
    {
        $lot = $this->handOut->cover(Input::project($request), Input::body($request));

        return new JsonResponse(['items' => $lot === null ? count($this->handOut->items(Input::project($request), Input::body($request))) : count($lot->items), 'lot' => $lot?->toArray()]);
    }

    public function store(Request $request): JsonResponse
    {
        $assignment = $this->handOut->make(Input::project($request), Input::actor($request)->user, Input::body($request));

        return new JsonResponse($this->shape($assignment->load('people.user')), 201);
    }

    public function update(Request $request): JsonResponse
    {
        $assignment = $this->assignment($request);
        $in = Input::body($request);
        $assignment->update(['note' => $in->optionalString('note') ?? $assignment->note, 'priority' => $in->optionalInt('priority', -10, 10) ?? $assignment->priority]);

        return new JsonResponse($this->shape($assignment));
    }

    public function destroy(Request $request): JsonResponse
    {
        return new JsonResponse(['withdrawn' => $this->handOut->withdraw($this->assignment($request))]);
    }

    private function assignment(Request $request): Assignment
    {
        return Input::project($request)->assignments()->with('people.user')->findOrFail(Input::id($request, 'assignment'));
    }

    /** @return array<string, mixed> */
    private function shape(Assignment $assignment): array
    {
        $people = static fn (string $part): array => $assignment->people->where('part', $part)->sortBy('user.name')->values()->map(static fn (AssignmentPerson $row): array => ['id' => $row->user_id, 'name' => $row->user->name])->all();

        return [
            'id' => $assignment->id,
            'note' => $assignment->note,
            'priority' => $assignment->priority,
            'needs_review' => $assignment->needs_review,
            'overlap' => $assignment->overlap,
            'rules' => (object) $assignment->rules,
            'labellers' => $people('labeller'),
            'reviewers' => $people('reviewer'),
            'states' => (object) $assignment->turns()->groupBy('state')->selectRaw('state, count(*) as n')->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all(),
            'at' => $assignment->created_at->toIso8601ZuluString(),
        ];
    }
}
