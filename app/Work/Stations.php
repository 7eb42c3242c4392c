<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Assignment;
use App\Models\Project;
use App\Models\Turn;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** What waits for a person, station by station. */
final class Stations
{
    /**
     * The stations a person works at, the most urgent first.
     *
     * @param  bool  $deciding  where work is decided, or where it is done
     * @return list<?int> ids; null stands for what no assignment has a station for, which managers decide
     */
    public static function of(Actor $actor, Project $project, bool $deciding, ?int $assignment = null): array
    {
        $all = $deciding && $actor->roleIn($project) === Role::Manager;
        $stations = DB::table('stations')->join('assignments', 'assignments.id', '=', 'stations.assignment_id')->where('assignments.project_id', $project->id)
            ->when($assignment !== null, static fn ($query) => $query->where('assignments.id', $assignment))
            ->whereIn('stations.stage', $deciding ? array_column(Stage::deciding(), 'value') : [Stage::Label->value])
            ->when(! $all, static fn ($query) => $query->whereExists(static fn ($people) => $people->from('station_people')->whereColumn('station_people.station_id', 'stations.id')->where('user_id', $actor->user->id)))
            ->orderByDesc('assignments.priority')->orderBy('assignments.id')->orderBy('stations.place')->pluck('stations.id')->map(static fn (mixed $id): int => (int) $id)->all();

        return [...array_values($stations), ...($all && $assignment === null ? [null] : [])];
    }

    /** Whether a person works at the station of a turn. */
    public static function isAt(Actor $actor, Turn $turn): bool
    {
        if ($turn->stage->decides() && $actor->roleIn($turn->project) === Role::Manager) {
            return true;
        }

        return $turn->station_id !== null && DB::table('station_people')->where('station_id', $turn->station_id)->where('user_id', $actor->user->id)->exists();
    }

    /** Whether a person has a part in the assignment of a turn, at a station of these stages. */
    public static function hasPart(Actor $actor, ?int $assignment, bool $deciding): bool
    {
        return $assignment !== null && DB::table('stations')->join('station_people', 'station_people.station_id', '=', 'stations.id')->where('assignment_id', $assignment)->where('user_id', $actor->user->id)
            ->whereIn('stage', $deciding ? array_column(Stage::deciding(), 'value') : [Stage::Label->value])->exists();
    }

    /**
     * Turns a person could take at a station. Those whose lease has run out unnoticed are given back before.
     *
     * @return Builder<Turn>
     */
    public static function waiting(Actor $actor, Project $project, ?int $station, bool $deciding): Builder
    {
        return self::free($actor, $project, Turn::present()->when(
            $station === null,
            static fn (Builder $query): Builder => $query->where('turns.project_id', $project->id)->whereIn('turns.stage', Stage::deciding())->whereNull('turns.station_id'),
            static fn (Builder $query): Builder => $query->where('turns.station_id', $station),
        )->where('turns.state', TurnState::Waiting)
            // what a model is being asked about is not given to a labeller before
            ->when(! $deciding && $project->model_stage !== null, static fn (Builder $query): Builder => $query->whereNotExists(static fn ($held) => $held->from('items as held')->whereColumn('held.id', 'turns.item_id')->whereNotNull('held.helping_run_id'))), $deciding);
    }

    /**
     * All submitted work a person may decide on, also what others have open.
     *
     * @return Builder<Turn>
     */
    public static function reviewable(Actor $actor, Project $project): Builder
    {
        $stations = self::of($actor, $project, true);
        $known = array_values(array_filter($stations, static fn (?int $station): bool => $station !== null));
        $loose = static fn (Builder $query): Builder => $query->whereNull('turns.station_id')->where('turns.project_id', $project->id)->whereIn('turns.stage', Stage::deciding());
        $turns = Turn::notArchived(Turn::query()->where('turns.followed', false), $project->id)->whereIn('turns.state', [TurnState::Waiting, TurnState::Open]);
        // most projects have none of no station; without them the stations' index alone has all that is counted
        in_array(null, $stations, true) && $loose(Turn::query())->exists()
            ? $turns->where(static fn (Builder $at): Builder => $at->whereIn('turns.station_id', $known)->orWhere($loose))
            : $turns->whereIn('turns.station_id', $known);

        return self::notOwn($actor, $project, $turns);
    }

    /**
     * @param  Builder<Turn>  $turns
     * @return Builder<Turn>
     */
    private static function free(Actor $actor, Project $project, Builder $turns, bool $deciding): Builder
    {
        $me = $actor->user->id;
        // what is meant for a person waits for that person
        $turns->where(static fn (Builder $whose): Builder => $whose->whereNull('turns.user_id')->orWhere('turns.user_id', $me));

        return $deciding
            ? self::notOwn($actor, $project, $turns)
            // the other passes of an item are other people's: nobody labels the same item twice in one assignment
            : $turns->whereNotExists(static fn ($query) => $query->from('turns as other')->whereColumn('other.item_id', 'turns.item_id')->whereColumn('other.assignment_id', 'turns.assignment_id')->where('other.stage', Stage::Label->value)->whereColumn('other.pass', '!=', 'turns.pass')->where('other.user_id', $me));
    }

    /**
     * @param  Builder<Turn>  $turns
     * @return Builder<Turn>
     */
    private static function notOwn(Actor $actor, Project $project, Builder $turns): Builder
    {
        // who decides seldom labels too
        $labels = ! $project->own_review && DB::table('turns')->where('project_id', $project->id)->where('stage', Stage::Label->value)->where('user_id', $actor->user->id)->exists();

        return $turns->when($labels, static fn (Builder $query): Builder => $query->whereNotExists(static fn ($work) => $work->from('turns as work')->whereColumn('work.item_id', 'turns.item_id')->whereColumn('work.assignment_id', 'turns.assignment_id')->where('work.stage', Stage::Label->value)->where('work.user_id', $actor->user->id)));
    }

    /** The turns that were labelled before one that decides: one, or all passes of an item that several people label. @return list<Turn> */
    public static function work(Turn $turn): array
    {
        return array_values($turn->chain()->where('stage', Stage::Label)->where('followed', false)->orderBy('pass')->get()->all());
    }

    /** The turn that decides on labelled work next, or did; null while none has been asked to. */
    public static function decision(Turn $work): ?Turn
    {
        return $work->chain()->whereIn('stage', Stage::deciding())->where('round', $work->round)->orderByDesc('id')->first();
    }

    /** Whether the assignment of a turn is labelled by several people who do not see each other's marks. */
    public static function isOverlapped(?Assignment $assignment): bool
    {
        return $assignment !== null && $assignment->route()->label()->overlap > 1;
    }
}
