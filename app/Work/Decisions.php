<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Codebooks\Codebooks;
use App\Items\Layers;
use App\Models\DecisionRow;
use App\Models\Pin;
use App\Models\Station;
use App\Models\Turn;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** Decides on submitted work, takes an accept back, and opens accepted work again where it no longer holds. */
final class Decisions
{
    public function __construct(private readonly Checks $checks)
    {
    }

    /** A turn at the station that decides next; without a station for the managers. */
    public static function ask(Turn $work, ?Station $station): Turn
    {
        $before = $work->round === 1 ? null : $work->chain()->whereIn('stage', Stage::deciding())->where('round', '<', $work->round)->orderByDesc('id')->first();

        return Turn::query()->create([
            'project_id' => $work->project_id, 'item_id' => $work->item_id, 'assignment_id' => $work->assignment_id, 'station_id' => $station?->id,
            'layer_id' => Stations::isOverlapped($work->assignment) && ! $work->beside ? Layers::agreed($work->item_id)->id : $work->layer_id,
            'stage' => $station === null ? Stage::Review : $station->stage, 'pass' => 1, 'round' => $work->round, 'beside' => $work->beside, 'state' => TurnState::Waiting,
            // fixed work comes back to who returned it
            'last_user_id' => $before?->user_id,
        ])->refresh();
    }

    public function decide(Actor $actor, Turn $turn, Decision $decision, string $reason): Turn
    {
        return DB::transaction(function () use ($actor, $turn, $decision, $reason): Turn {
            Codebooks::mustBeSteady($turn->project_id);
            $turn->refresh();
            $passes = Stations::work($turn);
            foreach ($passes as $pass) {
                $pass->value()->mayBeDecidedBy($actor->user->id, $turn->project->own_review);
            }
            // who decides without having opened it has it open from now on
            if ($turn->stage->decides() && $turn->state === TurnState::Waiting && Stations::isAt($actor, $turn)) {
                $turn = Moves::to($turn, $turn->value()->open($actor->user->id, now()->toDateTimeImmutable()), ['opened_at' => $turn->opened_at ?? now()]);
            }
            $next = $turn->value()->decide($decision, $actor->user->id);
            if ($decision === Decision::Return) {
                $this->mustBeReturnable($turn, $reason);
            } else {
                Seen::mustBeAll($turn->project, $turn->item, $actor);
                $empty = $turn->layer->mark_count === 0;
                if ($empty && Stations::isOverlapped($turn->assignment) && ! $turn->layer->nothing) {
                    throw Refusal::because('not_resolved', 'several people have labelled this item; choose which of their marks are agreed first');
                }
                $this->checks->mustBeComplete($turn, $empty, true);
                Layers::sayNothing($turn->layer, $empty);
            }
            $turn = Moves::to($turn, $next, ['decided_at' => now()]);
            DecisionRow::query()->create(['turn_id' => $turn->id, 'reviewer_id' => $actor->user->id, 'decision' => $decision, 'reason' => trim($reason)]);
            $station = $decision === Decision::Accept ? $turn->assignment?->after($turn->stage, $turn->item_id) : null;
            if ($station !== null) {
                self::ask($turn, $station);
            } else {
                foreach ($passes as $pass) {
                    Moves::to($pass, $pass->value()->settle($decision), ['decided_at' => now()]);
                }
                if ($decision === Decision::Accept) {
                    Drafts::settle($turn, $actor->user);
                }
            }

            return $turn->refresh();
        });
    }

    private function mustBeReturnable(Turn $turn, string $reason): void
    {
        if ($turn->assignment_id === null) {
            throw IllegalMove::because('nobody_to_return_to', 'these labels came in with the data, so there is nobody to return them to; correct them here or hand the item out');
        }
        if (trim($reason) === '' && Pin::query()->where('turn_id', $turn->id)->doesntExist()) {
            throw Refusal::because('reason_missing', 'say what is wrong, in words or by a pin on the picture');
        }
    }

    /** An accept is taken back, by who accepted or by a manager; the item is then open to decide on again. */
    public function takeBack(Actor $actor, Turn $turn, bool $manages): Turn
    {
        return DB::transaction(function () use ($actor, $turn, $manages): Turn {
            Codebooks::mustBeSteady($turn->project_id);
            $turn->refresh();
            if ($turn->user_id !== $actor->user->id && ! $manages) {
                throw IllegalMove::because('turn_taken', 'only who accepted it, or a manager, can take that back');
            }
            $next = $turn->value()->retract($actor->user->id, now()->toDateTimeImmutable());
            $later = $turn->chain()->whereIn('stage', Stage::deciding())->where('round', $turn->round)->where('id', '>', $turn->id)->first();
            if ($later !== null && Turn::query()->whereKey($later->id)->whereNull('opened_at')->delete() === 0) {
                throw IllegalMove::because('review_begun', 'the next station has already opened this item');
            }
            if ($turn->followed || ($turn->beside && $later === null)) {
                throw IllegalMove::because('turn_moved', 'what was accepted has become the agreed labels; hand the item out again to change them');
            }
            $turn = Moves::to($turn, $next, ['decided_at' => null]);
            foreach (Stations::work($turn) as $pass) {
                if ($pass->state === TurnState::Accepted) {
                    Moves::to($pass, $pass->value()->reopen(), ['decided_at' => null]);
                }
            }
            DecisionRow::query()->where('turn_id', $turn->id)->whereNull('taken_back_at')->update(['taken_back_at' => now()]);

            return $turn->refresh();
        });
    }

    /**
     * Accepted work of an item no longer holds: it waits for a decision again, with the reason. Turns in other states are left as they are.
     *
     * @return bool whether anything was reopened
     */
    public static function reopen(int $item, string $because): bool
    {
        $work = Turn::query()->where('item_id', $item)->where('stage', Stage::Label)->where('state', TurnState::Accepted)->where('followed', false)->where('beside', false)->with('assignment.stations')->get();
        foreach ($work as $turn) {
            $decision = Stations::decision($turn);
            Moves::to($turn, $turn->value()->reopen(), ['decided_at' => null, 'reopened_because' => $because]);
            if ($decision === null) {
                self::ask($turn, null);
            } elseif ($decision->state === TurnState::Accepted) {
                Turn::query()->whereKey($decision->id)->update(['state' => TurnState::Waiting, 'user_id' => null, 'last_user_id' => $decision->user_id, 'leased_until' => null, 'decided_at' => null, 'opened_at' => null]);
                DecisionRow::query()->where('turn_id', $decision->id)->whereNull('taken_back_at')->update(['taken_back_at' => now()]);
            }
        }

        return $work->isNotEmpty();
    }
}
