<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\Project;
use App\Models\Turn;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** Opens turns for people, lets them go, and passes them on. */
final class TakeTurn
{
    /**
     * The next item for a person to label: what they hold already, then what came back to them, then what they had begun, then the most
     * urgent that waits.
     *
     * @param  list<int>  $holding  turns already on their screen
     * @param  ?Turn  $after  the turn they come from: what came back is next, then what lies behind it
     */
    public function nextToLabel(Actor $actor, Project $project, array $holding, bool $preload, ?int $assignment = null, ?Turn $after = null): ?Turn
    {
        Moves::giveBackExpired($project->id);

        return $this->first($actor, $preload, function () use ($actor, $project, $holding, $assignment, $after): ?Turn {
            $mine = static fn (TurnState $state): Builder => Turn::present()->where('user_id', $actor->user->id)->where('state', $state)->where('project_id', $project->id)->where('stage', Stage::Label)->whereNotIn('id', $holding)
                ->when($assignment !== null, static fn (Builder $query): Builder => $query->where('assignment_id', $assignment));
            $turn = $after === null ? $mine(TurnState::Open)->orderBy('preloaded')->orderBy('id')->first() : null;
            if ($turn !== null) {
                return $turn;
            }
            $returned = $mine(TurnState::Returned)->orderBy('decided_at')->orderBy('id')->first();
            if ($returned !== null) {
                return Moves::nextRound($returned);
            }

            if ($after !== null) {
                $turn = $this->behind($actor, $project, $after, $holding) ?? $mine(TurnState::Open)->orderBy('item_id')->orderBy('id')->first();
                if ($turn !== null) {
                    return $turn;
                }
            }

            return $mine(TurnState::Waiting)->orderBy('id')->first() ?? $this->queued($actor, $project, $holding, false, $assignment);
        });
    }

    /**
     * The next item for a person to decide on. Fixed work comes back to who returned it before it goes to others.
     *
     * @param  list<int>  $holding
     * @param  ?Turn  $after  the turn they come from
     */
    public function nextToReview(Actor $actor, Project $project, array $holding, bool $preload, ?Turn $after = null): ?Turn
    {
        Moves::giveBackExpired($project->id);

        return $this->first($actor, $preload, fn (): ?Turn => Turn::present()->where('user_id', $actor->user->id)->whereIn('state', [TurnState::Open, TurnState::Waiting])->where('project_id', $project->id)->whereIn('stage', Stage::deciding())->whereNotIn('id', $holding)->where(static fn (Builder $query): Builder => $after === null ? $query : $query->where('state', TurnState::Waiting)->orWhere('preloaded', true))->orderBy('preloaded')->orderBy('id')->first()
            ?? ($after === null ? null : $this->behind($actor, $project, $after, $holding))
            ?? $this->queued($actor, $project, $holding, true));
    }

    /**
     * The nearest behind a turn at its station, in the order of the ribbon, of what a person has begun or could take.
     *
     * @param  list<int>  $holding
     */
    private function behind(Actor $actor, Project $project, Turn $after, array $holding): ?Turn
    {
        if ($after->station_id === null) {
            return null;
        }
        $next = static fn (Builder $turns): ?Turn => $turns->whereRaw('(turns.place, turns.item_id, turns.id) > (?, ?, ?)', [$after->place, $after->item_id, $after->id])->whereNotIn('turns.id', $holding)->orderBy('turns.place')->orderBy('turns.item_id')->orderBy('turns.id')->first();
        $open = $next(Turn::present($project->id, $after->station_id)->where('turns.user_id', $actor->user->id)->where('turns.state', TurnState::Open));
        $waiting = Stations::isAt($actor, $after) ? $next(Stations::waiting($actor, $project, $after->station_id, $after->stage->decides())) : null;

        return $open === null || ($waiting !== null && [$waiting->place, $waiting->item_id, $waiting->id] < [$open->place, $open->item_id, $open->id]) ? $waiting : $open;
    }

    /** @param  \Closure(): ?Turn  $find */
    private function first(Actor $actor, bool $preload, \Closure $find): ?Turn
    {
        // one transaction, which waits for others that write: nobody is given what somebody else has just taken
        return DB::transaction(function () use ($actor, $preload, $find): ?Turn {
            $turn = $find();

            return $turn === null ? null : $this->open($actor, $turn, $preload);
        });
    }

    /** @param  list<int>  $holding */
    private function queued(Actor $actor, Project $project, array $holding, bool $deciding, ?int $assignment = null): ?Turn
    {
        $stations = Stations::of($actor, $project, $deciding, $assignment);
        // what was this person's comes before what is new, whatever its urgency
        foreach ([true, false] as $known) {
            foreach ($stations as $station) {
                $turn = Stations::waiting($actor, $project, $station, $deciding)->whereNotIn('turns.id', $holding)
                    ->when($known, static fn (Builder $query): Builder => $query->where('turns.last_user_id', $actor->user->id))->orderBy('turns.place')->orderBy('turns.id')->first();
                if ($turn !== null) {
                    return $turn;
                }
            }
        }

        return null;
    }

    /** Opens one particular item: from the ribbon, after a reload, a returned one, one to decide on. */
    public function take(Actor $actor, Turn $turn): Turn
    {
        return DB::transaction(function () use ($actor, $turn): Turn {
            $turn = $turn->refresh();
            if ($turn->state === TurnState::Returned && ! $turn->stage->decides() && $turn->user_id === $actor->user->id) {
                $turn = $turn->followed ? $turn->chain()->where('stage', $turn->stage)->where('pass', $turn->pass)->where('followed', false)->firstOrFail() : Moves::nextRound($turn);
            }
            $this->mustBeTheirs($actor, $turn);

            return $this->open($actor, $turn, false);
        });
    }

    private function open(Actor $actor, Turn $turn, bool $preload): Turn
    {
        $turn = Moves::to($turn, $turn->value()->open($actor->user->id, now()->toDateTimeImmutable()), ['preloaded' => $preload, 'parked_because' => ''] + ($preload ? [] : ['opened_at' => $turn->opened_at ?? now()]));
        Drafts::begin($turn);

        return $turn;
    }

    private function mustBeTheirs(Actor $actor, Turn $turn): void
    {
        if ($turn->stage->decides()) {
            foreach (Stations::work($turn) as $work) {
                $work->value()->mayBeDecidedBy($actor->user->id, $turn->project->own_review);
            }
        } elseif ($turn->user_id !== $actor->user->id && $turn->chain()->where('stage', Stage::Label)->where('pass', '!=', $turn->pass)->where('user_id', $actor->user->id)->exists()) {
            throw IllegalMove::because('turn_taken', 'you have labelled this item already; this pass is for somebody else');
        }
        if ($turn->user_id !== $actor->user->id && ! Stations::isAt($actor, $turn)) {
            throw Refusal::because('not_assigned', $turn->stage->decides() ? 'this item is not yours to review' : 'this item was not handed out to you');
        }
    }

    /** Lets go of an item; all that was done on it stays. */
    public function giveBack(Actor $actor, Turn $turn): void
    {
        DB::transaction(function () use ($actor, $turn): void {
            $turn->refresh();
            if ($turn->user_id === $actor->user->id && $turn->state === TurnState::Open) {
                $this->free($turn);
            }
        });
    }

    private function free(Turn $turn): Turn
    {
        $holder = $turn->user_id;
        $next = $turn->value()->giveBack();
        // work that came back to its labeller stays theirs; a first round, or a decision, may go to anybody
        $keep = ! $turn->stage->decides() && $turn->round > 1;

        return Moves::to($turn, $keep ? $next->pass($holder) : $next, ['last_user_id' => $holder, 'preloaded' => false]);
    }

    /** Sets an item aside with a reason; all that was done on it stays. */
    public function park(Actor $actor, Turn $turn, string $reason): Turn
    {
        return DB::transaction(static fn (): Turn => Moves::to($turn->refresh(), $turn->value()->park($actor->user->id), ['parked_because' => $reason, 'preloaded' => false]));
    }

    /** A manager gives a parked item back to the queue. */
    public function putBack(Turn $turn): Turn
    {
        return DB::transaction(static fn (): Turn => Moves::to($turn->refresh(), $turn->value()->putBack(), ['parked_because' => '', 'preloaded' => false]));
    }

    /** A manager gives an item that is not finished to a person, or to whoever comes when null; what was done on it stays. */
    public function pass(Turn $turn, ?User $to): Turn
    {
        return DB::transaction(function () use ($turn, $to): Turn {
            $turn->refresh();
            if ($to !== null) {
                $role = (new Actor($to))->roleIn($turn->project);
                if ($role === null || $role === Role::Guest || ($turn->stage->decides() && $role === Role::Labeller)) {
                    throw Refusal::because('not_able', "{$to->name} may not ".($turn->stage->decides() ? 'review' : 'label').' in this project');
                }
                if (! $turn->stage->decides() && $turn->chain()->where('stage', Stage::Label)->where('followed', false)->where('pass', '!=', $turn->pass)->where('user_id', $to->id)->exists()) {
                    throw Refusal::because('not_able', "{$to->name} labels this item already, in another pass that is not to know of this one");
                }
                foreach ($turn->stage->decides() ? Stations::work($turn) : [] as $work) {
                    $work->value()->mayBeDecidedBy($to->id, $turn->project->own_review);
                }
            }
            $turn = Moves::to($turn, $turn->value()->pass($to?->id), ['last_user_id' => $turn->user_id ?? $turn->last_user_id, 'parked_because' => '', 'preloaded' => false]);

            // returned work waits for a person: without one it begins its next round for anybody
            return $to === null && $turn->state === TurnState::Returned ? Moves::nextRound($turn) : $turn;
        });
    }

    /**
     * Everything a person holds or is waited for in a project goes to somebody else, or to whoever comes. What their bench had only
     * fetched ahead goes back to the queue.
     *
     * @return int how many turns, without those fetched ahead
     */
    public function passAll(Project $project, User $from, ?User $to): int
    {
        $theirs = Turn::query()->where('project_id', $project->id)->where('user_id', $from->id)->where('followed', false)->whereIn('state', [TurnState::Waiting, TurnState::Open, TurnState::Parked, TurnState::Returned])
            ->where(static fn (Builder $query): Builder => $query->where('state', '!=', TurnState::Returned)->orWhere('stage', Stage::Label))->with('project')->get();
        $held = 0;
        foreach ($theirs as $turn) {
            $ahead = $turn->preloaded && $turn->round === 1;
            $held += $ahead ? 0 : 1;
            try {
                $this->pass($turn, $ahead ? null : $to);
            } catch (Refusal|IllegalMove) {
                // nobody reviews their own work, and not everybody reviews: then it is for whoever may
                $this->pass($turn, null);
            }
        }

        return $held;
    }
}
