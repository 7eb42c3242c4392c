<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Actor;
use App\Models\DecisionRow;
use App\Models\Membership;
use App\Models\Pin;
use App\Models\Project;
use App\Models\Proposal;
use App\Models\Turn;
use App\Projects\Progress;
use App\Work\ItemShape;
use App\Work\Turns;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Ability;

/** My work: what waits, what came back and why, one's own pace. */
final class WorkController
{
    public function __construct(private readonly Turns $turns, private readonly Progress $progress)
    {
    }

    public function __invoke(Request $request): JsonResponse
    {
        $actor = new Actor($request->user());
        $me = $actor->user->id;
        $projects = [];
        foreach (Project::query()->whereIn('id', Membership::query()->where('user_id', $me)->select('project_id'))->orderBy('name')->get() as $project) {
            $this->turns->giveBackExpired($project);
            $own = Turn::present()->where('project_id', $project->id)->where('user_id', $me)->groupBy('state')->selectRaw('state, count(*) as n')->toBase()->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();
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
                'to_review' => $actor->may(Ability::Review, $project) ? $this->turns->reviewable($actor, $project)->count() : 0,
                'days' => array_slice($this->progress->days($project, $me), -14),
                'seconds' => (int) Turn::query()->where('project_id', $project->id)->where('user_id', $me)->sum('seconds'),
            ];
        }

        return new JsonResponse(['projects' => $projects, 'answers' => $this->answers($me)]);
    }

    /** @return list<array<string, mixed>> what became of one's own proposals in the last two weeks */
    private function answers(int $me): array
    {
        return array_values(Proposal::query()->where('author_id', $me)->where('answered_at', '>', now()->subDays(14))->with(['project', 'author', 'answerer', 'item.asset', 'item.set'])->orderByDesc('answered_at')->limit(20)->get()
            ->map(static fn (Proposal $proposal): array => ['project' => $proposal->project->name, 'proposal' => ProposalController::shape($proposal)])->all());
    }

    private function waiting(Project $project, int $me): int
    {
        return Turn::present()->where('project_id', $project->id)->where('state', 'waiting')->where(static fn ($query) => $query->whereNull('user_id')->orWhere('user_id', $me))
            ->whereIn('assignment_id', DB::table('assignment_people')->where('user_id', $me)->where('part', 'labeller')->select('assignment_id'))->count();
    }

    /** @return list<array<string, mixed>> what this person has set aside, and why */
    private function parked(Project $project, int $me): array
    {
        return array_values(Turn::present()->where('project_id', $project->id)->where('user_id', $me)->where('state', 'parked')->with(['item.asset', 'item.set'])->orderBy('updated_at')->get()
            ->map(static fn (Turn $turn): array => ['turn' => $turn->id, 'name' => basename($turn->item->path), 'thumb' => ItemShape::of($turn->item)['picture']['thumb'], 'reason' => $turn->parked_because])->all());
    }

    /** @return list<array<string, mixed>> */
    private function returned(Project $project, int $me): array
    {
        $turns = Turn::present()->where('project_id', $project->id)->where('user_id', $me)->where('state', 'returned')->with(['item.asset', 'item.set', 'decisions.reviewer'])
            ->whereNotExists(static fn ($later) => $later->from('turns as later')->whereColumn('later.item_id', 'turns.item_id')->whereColumn('later.assignment_id', 'turns.assignment_id')->whereColumn('later.pass', 'turns.pass')->whereColumn('later.round', '>', 'turns.round'))
            ->orderBy('decided_at')->get();

        return array_values($turns->map(static function (Turn $turn): array {
            $last = $turn->decisions->last();

            return [
                'turn' => $turn->id,
                'name' => basename($turn->item->path),
                'thumb' => ItemShape::of($turn->item)['picture']['thumb'],
                'reason' => $last instanceof DecisionRow ? $last->reason : '',
                'by' => $last instanceof DecisionRow ? ($last->reviewer->name ?? '') : '',
                'pins' => array_values(Pin::query()->where('turn_id', $turn->id)->orderBy('id')->pluck('text')->map(strval(...))->all()),
            ];
        })->all());
    }
}
