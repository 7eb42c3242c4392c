<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\Project;
use Illuminate\Support\Facades\DB;

/** What in a project waits for its manager: nothing goes on there until somebody decides. */
final class Needs
{
    /** Days after which returned work that nobody has taken up again is named. */
    public const LONG = 3;

    /**
     * @return list<array{kind: string, count: int, since: string}> only what there is, the longest waiting first; `since` is the time of the
     *                                                              oldest
     */
    public function of(Project $project): array
    {
        $found = [
            'parked' => $this->turns($project, 'parked', 'turns.updated_at'),
            'returned' => $this->turns($project, 'returned', 'turns.decided_at', now()->subDays(self::LONG)->toDateTimeString()),
            'proposals' => $this->rows($project, 'proposals', static fn ($rows) => $rows->where('state', 'open')->where('kind', '!=', 'question')),
            'questions' => $this->rows($project, 'proposals', static fn ($rows) => $rows->where('state', 'open')->where('kind', 'question')),
            'imports' => $this->rows($project, 'imports', static fn ($rows) => $rows->where('state', 'failed')),
            'releases' => $this->rows($project, 'releases', static fn ($rows) => $rows->where('state', 'failed')),
            'chores' => $this->rows($project, 'chores', static fn ($rows) => $rows->where('state', 'failed')),
        ];
        $needs = [];
        foreach ($found as $kind => $row) {
            if ($row !== null && (int) $row->n > 0) {
                $needs[] = ['kind' => $kind, 'count' => (int) $row->n, 'since' => str_replace(' ', 'T', substr((string) $row->since, 0, 19)).'Z'];
            }
        }
        usort($needs, static fn (array $a, array $b): int => $a['since'] <=> $b['since']);

        return $needs;
    }

    /** Items in a state, with the oldest time one of their turns has been in it. */
    private function turns(Project $project, string $state, string $since, ?string $before = null): ?object
    {
        return DB::table('items')->join('turns', 'turns.item_id', '=', 'items.id')->where('items.project_id', $project->id)->whereNull('items.archived_at')->where('items.state', $state)
            ->where('turns.state', $state)->where('turns.followed', false)->when($before !== null, static fn ($query) => $query->where($since, '<', $before))
            ->selectRaw("count(distinct items.id) as n, min({$since}) as since")->first();
    }

    /** @param  \Closure(\Illuminate\Database\Query\Builder): \Illuminate\Database\Query\Builder  $which */
    private function rows(Project $project, string $table, \Closure $which): ?object
    {
        return $which(DB::table($table)->where('project_id', $project->id))->selectRaw('count(*) as n, min(created_at) as since')->first();
    }
}
