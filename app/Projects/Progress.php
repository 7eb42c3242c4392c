<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Stage;

/** Counts of a project, always taken from the work itself. */
final class Progress
{
    /** @return array<string, int> items by state; archived ones apart */
    public function states(Project $project): array
    {
        return $this->ints(DB::table('items')->where('project_id', $project->id)->groupBy('state')->selectRaw('state, count(*) as n')->pluck('n', 'state')->all());
    }

    /** @return array<string, mixed> */
    public function of(Project $project): array
    {
        $sets = [];
        $paths = DB::table('sets')->where('project_id', $project->id)->pluck('path', 'id');
        foreach (DB::table('items')->where('project_id', $project->id)->whereNull('archived_at')->groupBy('set_id', 'state')->selectRaw('set_id, state, count(*) as n')->get() as $row) {
            $sets[(string) $paths[$row->set_id]][(string) $row->state] = (int) $row->n;
        }
        ksort($sets, SORT_STRING);

        return [
            'states' => (object) $this->states($project),
            'sets' => array_map(static fn (string $path, array $states): array => ['path' => $path, 'states' => $states], array_map(strval(...), array_keys($sets)), array_values($sets)),
            'people' => $this->people($project),
            'days' => $this->days($project),
            'classes' => $this->classes($project),
        ];
    }

    /** @return list<array<string, mixed>> */
    private function people(Project $project): array
    {
        $people = [];
        $names = DB::table('users')->orderBy('name')->orderBy('id')->pluck('name', 'id');
        // person by person, as the index has them
        $rows = DB::table('turns')->whereIntegerInRaw('user_id', $names->keys()->all())->where('project_id', $project->id)->where('stage', Stage::Label->value)->groupBy('user_id', 'state')
            ->selectRaw('user_id as id, state, count(*) as n, sum(seconds) as seconds')->get()->groupBy('id');
        foreach ($names->intersectByKeys($rows) as $id => $name) {
            $people[(int) $id] = ['id' => (int) $id, 'name' => (string) $name, 'states' => $this->ints($rows[$id]->pluck('n', 'state')->all()), 'seconds' => (int) $rows[$id]->sum('seconds'), 'decided' => 0];
        }
        $decided = DB::table('decisions')->join('turns', 'turns.id', '=', 'decisions.turn_id')->where('turns.project_id', $project->id)->whereNotNull('decisions.reviewer_id')->whereNull('decisions.taken_back_at')->groupBy('decisions.reviewer_id')->selectRaw('decisions.reviewer_id as id, count(*) as n')->get();
        foreach ($decided as $row) {
            $id = (int) $row->id;
            $people[$id] ??= ['id' => $id, 'name' => User::query()->find($id)->name ?? '', 'states' => [], 'seconds' => 0, 'decided' => 0];
            $people[$id]['decided'] = (int) $row->n;
        }

        return array_values(array_map(static fn (array $person): array => ['states' => (object) $person['states']] + $person, $people));
    }

    /** @return list<array{day: string, submitted: int, accepted: int, returned: int}> days on which something happened, oldest first */
    public function days(Project $project, ?int $user = null): array
    {
        $days = [];
        $count = static function (string $name, iterable $rows) use (&$days): void {
            foreach ($rows as $row) {
                $days[(string) $row->day] ??= ['day' => (string) $row->day, 'submitted' => 0, 'accepted' => 0, 'returned' => 0];
                $days[(string) $row->day][$name] = (int) $row->n;
            }
        };
        $count('submitted', DB::table('turns')->where('project_id', $project->id)->where('stage', 'label')->whereNotNull('submitted_at')->whereNotNull('user_id')->when($user !== null, static fn ($query) => $query->where('user_id', $user))->groupByRaw('substr(submitted_at, 1, 10)')->selectRaw('substr(submitted_at, 1, 10) as day, count(*) as n')->get());
        // who submitted nothing had nothing decided on either
        foreach ($user !== null && $days === [] ? [] : ['accepted' => 'accept', 'returned' => 'return'] as $name => $decision) {
            $decided = DB::table('decisions')->join('turns', 'turns.id', '=', 'decisions.turn_id')->where('turns.project_id', $project->id)->where('decision', $decision)->whereNull('decisions.taken_back_at')
                // what became of a person's work: a decision is a turn of its own over the same round
                ->when($user !== null, static fn ($query) => $query->whereExists(static fn ($work) => $work->from('turns as work')->whereColumn('work.item_id', 'turns.item_id')->whereColumn('work.assignment_id', 'turns.assignment_id')->whereColumn('work.round', 'turns.round')->where('work.stage', 'label')->where('work.user_id', $user)));
            $count($name, $decided->groupByRaw('substr(decisions.created_at, 1, 10)')->selectRaw('substr(decisions.created_at, 1, 10) as day, count(*) as n')->get());
        }
        ksort($days);

        return array_values($days);
    }

    /** @return list<array{key: string, name: string, marks: int}> */
    private function classes(Project $project): array
    {
        $counts = $this->ints(DB::table('mark_counts')->where('project_id', $project->id)->where('state', '!=', ItemState::Archived->value)->groupBy('class')->selectRaw('class, sum(marks) as n')->pluck('n', 'class')->all());

        return array_values(array_map(static fn (LabelClass $class): array => ['key' => $class->key, 'name' => $class->name, 'marks' => $counts[$class->key] ?? 0], $project->codebookVersion()->codebook()->classes));
    }

    /**
     * @param  array<array-key, mixed>  $counts
     * @return array<string, int>
     */
    private function ints(array $counts): array
    {
        $ints = [];
        foreach ($counts as $key => $n) {
            $ints[(string) $key] = is_numeric($n) ? (int) $n : 0;
        }

        return $ints;
    }
}
