<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\LabelClass;

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
        foreach (DB::table('items')->join('sets', 'sets.id', '=', 'items.set_id')->where('items.project_id', $project->id)->whereNull('items.archived_at')->groupBy('sets.path', 'items.state')->orderBy('sets.path')->selectRaw('sets.path as path, items.state as state, count(*) as n')->get() as $row) {
            $sets[(string) $row->path][(string) $row->state] = (int) $row->n;
        }

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
        $rows = DB::table('turns')->join('users', 'users.id', '=', 'turns.user_id')->where('turns.project_id', $project->id)->groupBy('users.id', 'users.name', 'turns.state')
            ->selectRaw('users.id as id, users.name as name, turns.state as state, count(*) as n, sum(turns.seconds) as seconds')->orderBy('users.name')->get();
        foreach ($rows as $row) {
            $people[(int) $row->id] ??= ['id' => (int) $row->id, 'name' => (string) $row->name, 'states' => [], 'seconds' => 0, 'decided' => 0];
            $people[(int) $row->id]['states'][(string) $row->state] = (int) $row->n;
            $people[(int) $row->id]['seconds'] += (int) $row->seconds;
        }
        $decided = DB::table('decisions')->join('turns', 'turns.id', '=', 'decisions.turn_id')->where('turns.project_id', $project->id)->whereNotNull('decisions.reviewer_id')->groupBy('decisions.reviewer_id')->selectRaw('decisions.reviewer_id as id, count(*) as n')->get();
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
        $mine = static fn ($query) => $query->when($user !== null, static fn ($query) => $query->where('turns.user_id', $user));
        $count('submitted', $mine(DB::table('turns')->where('project_id', $project->id)->whereNotNull('submitted_at')->whereNotNull('user_id'))->groupByRaw('substr(submitted_at, 1, 10)')->selectRaw('substr(submitted_at, 1, 10) as day, count(*) as n')->get());
        foreach (['accepted' => 'accept', 'returned' => 'return'] as $name => $decision) {
            $count($name, $mine(DB::table('decisions')->join('turns', 'turns.id', '=', 'decisions.turn_id')->where('turns.project_id', $project->id)->where('decision', $decision))->groupByRaw('substr(decisions.created_at, 1, 10)')->selectRaw('substr(decisions.created_at, 1, 10) as day, count(*) as n')->get());
        }
        ksort($days);

        return array_values($days);
    }

    /** @return list<array{key: string, name: string, marks: int}> */
    private function classes(Project $project): array
    {
        $counts = $this->ints(DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('marks.project_id', $project->id)->whereNull('items.archived_at')->whereNull('deleted_at')->where('layer', 'agreed')->where('kind', '!=', 'item')->groupBy('class')->selectRaw('class, count(*) as n')->pluck('n', 'class')->all());

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
