<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Chores\Chores;
use App\Http\Input;
use App\Models\Assignment;
use App\Models\User;
use App\Work\HandOut;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\SeenWhole;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** Hand out. */
final class AssignmentController
{
    public function __construct(private readonly HandOut $handOut)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $found = Input::project($request)->assignments()->with('stations.people')->orderByDesc('id')->get();

        $counts = $this->counts($found->modelKeys());

        return new JsonResponse(['data' => $found->map(fn (Assignment $assignment): array => $this->shape($assignment, $counts))->all()]);
    }

    /** How many items the sentence means now. */
    public function preview(Request $request): JsonResponse
    {
        $lot = $this->handOut->cover(Input::project($request), Input::body($request));

        return new JsonResponse($this->handOut->effect($lot->items ?? $this->handOut->items(Input::project($request), Input::body($request))) + ['lot' => $lot?->toArray()]);
    }

    public function store(Request $request, Chores $chores): JsonResponse
    {
        $project = Input::project($request);
        $user = Input::actor($request)->user;
        $chore = null;
        $turns = function (Assignment $assignment, array $items, bool $onlyNew) use ($chores, $project, $user, &$chore): void {
            if (count($items) <= Chores::AT_ONCE) {
                $this->handOut->turns($assignment, $items, $onlyNew);
            } else {
                $chore = $chores->begin($project, $user, 'hand_out', ['assignment' => $assignment->id, 'items' => $items, 'only_new' => $onlyNew], count($items))->id;
            }
        };
        $assignment = $this->handOut->make($project, $user, Input::body($request), $turns);

        return new JsonResponse($this->shape($assignment->load('stations.people')) + ['chore' => $chore], 201);
    }

    public function update(Request $request): JsonResponse
    {
        $in = Input::body($request);
        // what somebody else changes meanwhile stays
        $assignment = DB::transaction(function () use ($request, $in): Assignment {
            $assignment = $this->assignment($request);
            $rules = $assignment->rules;
            if (array_key_exists('sure', $in->all())) {
                $rules['sure'] = $in->optionalNumber('sure');
                $rules['sure'] === null || new SeenWhole($rules['sure']);
            }
            $assignment->update(['rules' => $rules, 'note' => $in->optionalString('note') ?? $assignment->note, 'priority' => $in->optionalInt('priority', -10, 10) ?? $assignment->priority]);

            return $assignment;
        });

        return new JsonResponse($this->shape($assignment));
    }

    public function destroy(Request $request, Chores $chores): JsonResponse
    {
        $assignment = $this->assignment($request);
        // first what would go on making turns
        $chores->cancelHandOut($assignment);
        $count = $this->handOut->unbegun($assignment);
        if ($count > Chores::AT_ONCE) {
            return new JsonResponse(['withdrawn' => 0, 'chore' => $chores->begin(Input::project($request), Input::actor($request)->user, 'withdraw', ['assignment' => $assignment->id], $count)->id], 202);
        }

        return new JsonResponse(['withdrawn' => $this->handOut->withdraw($assignment), 'chore' => null]);
    }

    private function assignment(Request $request): Assignment
    {
        return Input::project($request)->assignments()->with('stations.people')->findOrFail(Input::id($request, 'assignment'));
    }

    /**
     * How far the labelling of assignments is; of several rounds only the last counts.
     *
     * @param  list<int>  $assignments
     * @return array<int, array{items: int, states: array<string, int>, begun: int}>
     */
    private function counts(array $assignments): array
    {
        $turns = static fn () => DB::table('turns')->whereIn('assignment_id', $assignments)->where('stage', Stage::Label->value)->where('followed', false);
        $rows = $turns()->groupBy('assignment_id', 'state')->selectRaw('assignment_id, state, count(*) as n, count(last_user_id) as begun')->get()->groupBy('assignment_id');
        // where several people label each item there are more turns than items
        $several = DB::table('stations')->whereIn('assignment_id', $assignments)->where('stage', Stage::Label->value)->where('overlap', '>', 1)->pluck('assignment_id');
        $items = $turns()->whereIn('assignment_id', $several)->groupBy('assignment_id')->selectRaw('assignment_id, count(distinct item_id) as n')->pluck('n', 'assignment_id');
        $counts = [];
        foreach ($rows as $assignment => $of) {
            $counts[(int) $assignment] = [
                'items' => (int) ($items[$assignment] ?? $of->sum('n')),
                'states' => array_map(intval(...), $of->pluck('n', 'state')->all()),
                'begun' => (int) ($of->firstWhere('state', TurnState::Waiting->value)->begun ?? 0),
            ];
        }

        return $counts;
    }

    /**
     * @param  array<int, array{items: int, states: array<string, int>, begun: int}>|null  $counts
     * @return array<string, mixed>
     */
    private function shape(Assignment $assignment, ?array $counts = null): array
    {
        $counts ??= $this->counts([$assignment->id]);
        $of = $counts[$assignment->id] ?? ['items' => 0, 'states' => [], 'begun' => 0];
        $people = static fn (Stage $stage): array => $assignment->station($stage)?->people->sortBy('name')->values()->map(static fn (User $user): array => ['id' => $user->id, 'name' => $user->name])->all() ?? [];
        $review = $assignment->station(Stage::Review);

        return [
            'id' => $assignment->id,
            'note' => $assignment->note,
            'priority' => $assignment->priority,
            'needs_review' => $review !== null || $assignment->station(Stage::Expert) !== null,
            'overlap' => $assignment->station(Stage::Label)->overlap ?? 1,
            'share' => $review->share ?? 1.0,
            'rules' => (object) $assignment->rules,
            'labellers' => $people(Stage::Label),
            'reviewers' => $people(Stage::Review),
            'experts' => $people(Stage::Expert),
            'items' => $of['items'],
            'states' => (object) $of['states'],
            'begun' => $of['begun'],
            'at' => $assignment->created_at->toIso8601ZuluString(),
        ];
    }
}
