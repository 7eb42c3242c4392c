<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Actor;
use App\Items\ItemShape;
use App\Models\DecisionRow;
use App\Models\Membership;
use App\Models\Pin;
use App\Models\Project;
use App\Models\Proposal;
use App\Models\Turn;
use App\Projects\Needs;
use App\Projects\Progress;
use App\Work\ProposalShape;
use App\Work\Stations;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** My work: what waits, what came back and why, one's own pace. */
final class WorkController
{
    public function __construct(private readonly Progress $progress, private readonly Needs $needs)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $actor = new Actor($request->user());
        $me = $actor->user->id;
        $projects = [];
        foreach (Project::query()->whereIn('id', Membership::query()->where('user_id', $me)->select('project_id'))->orderBy('name')->get() as $project) {
            $own = Turn::present($project->id)->where('stage', Stage::Label)->where('user_id', $me)->groupBy('state')->selectRaw('state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();
            $returned = $this->returned($project, $me);
            $projects[] = [
                'id' => $project->id,
                'name' => $project->name,
                'role' => $actor->roleIn($project)?->value,
                'waiting' => $this->waiting($project, $me),
                'open' => $own['open'] ?? 0,
                'submitted' => $own['submitted'] ?? 0,
                'accepted' => $own['accepted'] ?? 0,
                'returned' => $returned,
                'parked' => $this->parked($project, $me),
                'to_review' => $actor->may(Ability::Review, $project) ? Stations::reviewable($actor, $project)->count() : 0,
                'days' => array_slice($this->progress->days($project, $me), -14),
                'seconds' => (int) Turn::query()->where('project_id', $project->id)->where('user_id', $me)->sum('seconds'),
            ];
        }

        return new JsonResponse(['projects' => $projects, 'answers' => $this->answers($me), 'needs' => $this->needs($actor)]);
    }

    /** @return list<array<string, mixed>> what waits for this person as a manager, project by project */
    private function needs(Actor $actor): array
    {
        $managed = Project::query()->whereIn('id', Membership::query()->where('user_id', $actor->user->id)->where('role', Role::Manager)->select('project_id'))->orderBy('name')->get();
        $needs = [];
        foreach ($managed as $project) {
            foreach ($this->needs->of($project) as $need) {
                $needs[] = ['project' => ['id' => $project->id, 'name' => $project->name]] + $need;
            }
        }

        return $needs;
    }

    /** @return list<array<string, mixed>> what became of one's own proposals in the last two weeks */
    private function answers(int $me): array
    {
        return array_values(Proposal::query()->where('author_id', $me)->where('answered_at', '>', now()->subDays(14))->with(['project', 'author', 'answerer', 'item.asset', 'item.set'])->orderByDesc('answered_at')->limit(20)->get()
            ->map(static fn (Proposal $proposal): array => ['project' => $proposal->project->name, 'proposal' => ProposalShape::of($proposal)])->all());
    }

    private function waiting(Project $project, int $me): int
    {
        return Turn::present($project->id)->where('stage', Stage::Label)
            ->where(static fn ($query) => $query->where(static fn ($waits) => $waits->where('state', TurnState::Waiting)->where(static fn ($whose) => $whose->whereNull('user_id')->orWhere('user_id', $me)))
                // what somebody has let lie, though nobody has taken note of it yet
                ->orWhere(static fn ($lapsed) => $lapsed->where('state', TurnState::Open)->where('leased_until', '<=', now())->where('round', 1)->where('user_id', '!=', $me)))
            ->whereIn('station_id', DB::table('station_people')->where('user_id', $me)->select('station_id'))->count();
    }

    /** @return list<array<string, mixed>> what this person has set aside, and why */
    private function parked(Project $project, int $me): array
    {
        return array_values(Turn::present($project->id)->where('user_id', $me)->where('state', 'parked')->with(['item.asset', 'item.set'])->orderBy('updated_at')->get()
            ->map(static fn (Turn $turn): array => ['turn' => $turn->id, 'name' => basename($turn->item->path), 'thumb' => ItemShape::of($turn->item)['picture']['thumb'], 'reason' => $turn->parked_because])->all());
    }

    /** @return list<array<string, mixed>> */
    private function returned(Project $project, int $me): array
    {
        $turns = Turn::present($project->id)->where('user_id', $me)->where('stage', Stage::Label)->where('state', TurnState::Returned)->with(['item.asset', 'item.set'])->orderBy('decided_at')->get();

        return array_values($turns->map(static function (Turn $turn): array {
            $decision = Stations::decision($turn);
            $last = $decision?->decisions()->whereNull('taken_back_at')->with('reviewer')->orderByDesc('id')->first();

            return [
                'turn' => $turn->id,
                'name' => basename($turn->item->path),
                'thumb' => ItemShape::of($turn->item)['picture']['thumb'],
                'reason' => $last instanceof DecisionRow ? $last->reason : '',
                'by' => $last instanceof DecisionRow ? ($last->reviewer->name ?? '') : '',
                'pins' => array_values(Pin::query()->where('turn_id', $decision?->id)->orderBy('id')->pluck('text')->map(strval(...))->all()),
            ];
        })->all());
    }
}
