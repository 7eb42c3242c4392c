<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\Membership;
use App\Models\Project;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;

/** The people of a project: who comes, who gets another role, who leaves, and what becomes of the work of those. */
final class Members
{
    public function __construct(private readonly TakeTurn $take)
    {
    }

    /** Somebody of the installation joins a project. */
    public function add(Project $project, User $user, Role $role): Membership
    {
        return DB::transaction(static function () use ($project, $user, $role): Membership {
            if ($user->disabled_at !== null) {
                throw Refusal::because('disabled', "the account of {$user->name} is disabled");
            }
            if (Membership::query()->where('project_id', $project->id)->where('user_id', $user->id)->exists()) {
                throw Refusal::because('already_member', "{$user->name} is in this project already");
            }

            return Membership::query()->create(['project_id' => $project->id, 'user_id' => $user->id, 'role' => $role]);
        });
    }

    public function change(Membership $member, Role $role): void
    {
        DB::transaction(function () use ($member, $role): void {
            $member->update(['role' => $role]);
            $this->mustHaveManager($member->project_id);
        });
    }

    /**
     * Takes a person out of a project. What they did stays; what they hold, and what came back to them, goes to somebody else or back to
     * the queue.
     *
     * @return array{turns: int, without: list<int>} how many turns went on, and assignments that have work left and nobody to do it
     */
    public function remove(Membership $member, ?User $to): array
    {
        return DB::transaction(function () use ($member, $to): array {
            $project = $member->project()->firstOrFail();
            if ($to !== null && Membership::query()->where('project_id', $project->id)->where('user_id', $to->id)->whereKeyNot($member->id)->doesntExist()) {
                throw Refusal::because('not_able', "{$to->name} is not in this project");
            }
            $stations = static fn () => DB::table('stations')->join('assignments', 'assignments.id', '=', 'stations.assignment_id')->where('assignments.project_id', $project->id);
            $theirs = $stations()->whereExists(static fn ($at) => $at->from('station_people')->whereColumn('station_people.station_id', 'stations.id')->where('user_id', $member->user_id))->pluck('stations.id')->all();
            $member->delete();
            $this->mustHaveManager($project->id);
            DB::table('station_people')->where('user_id', $member->user_id)->whereIn('station_id', $theirs)->delete();
            if ($to !== null) {
                DB::table('station_people')->insertOrIgnore(array_map(static fn (mixed $station): array => ['station_id' => $station, 'user_id' => $to->id], $theirs));
            }
            $turns = $this->take->passAll($project, $member->user, $to);
            $without = $stations()->whereIn('stations.id', $theirs)->whereNotExists(static fn ($at) => $at->from('station_people')->whereColumn('station_people.station_id', 'stations.id'))
                ->whereExists(static fn ($left) => $left->from('turns')->whereColumn('turns.station_id', 'stations.id')->where('turns.followed', false)->whereIn('turns.state', ['waiting', 'returned', 'open', 'parked']))->distinct()->pluck('stations.assignment_id')->map(static fn (mixed $id): int => (int) $id)->all();

            return ['turns' => $turns, 'without' => array_values($without)];
        });
    }

    private function mustHaveManager(int $project): void
    {
        if (Membership::query()->where('project_id', $project)->where('role', Role::Manager)->doesntExist()) {
            throw Refusal::because('last_manager', 'a project needs a manager; make somebody else manager first');
        }
    }
}
