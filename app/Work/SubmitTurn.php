<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Codebooks\Codebooks;
use App\Items\Layers;
use App\Looks\LookAtObjects;
use App\Models\Station;
use App\Models\Turn;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** Takes labelled work in, and gives it back to who submitted it as long as nobody has looked at it. */
final class SubmitTurn
{
    public function __construct(private readonly Checks $checks, private readonly CountAsSeen $seen)
    {
    }

    /**
     * @param  bool  $nothing  the person says that nothing is there to label
     * @param  bool  $anyway  submit in spite of doubts (never in spite of findings that stop)
     * @return array{turn: Turn, counted: int} counted: suggestions that became labels because the picture was seen whole
     */
    public function submit(Actor $actor, Turn $turn, bool $nothing, bool $anyway): array
    {
        // where nothing can be drawn there is nothing to say of that: what is asked is about the whole
        $nothing = $nothing || ($turn->layer->mark_count === 0 && ! (new MarkCheck($turn->project->codebookVersion()->codebook()))->draws($turn->item->extent()));
        // reading the picture takes its time, so it is done before anything is locked
        $air = $nothing || $anyway ? [] : $this->checks->air($turn);

        return DB::transaction(function () use ($actor, $turn, $nothing, $anyway, $air): array {
            Codebooks::mustBeSteady($turn->project_id);
            $turn = self::resumed($actor, $turn->refresh());
            $next = $turn->assignment?->after(Stage::Label, $turn->item_id);
            $submitted = $turn->value()->submit($actor->user->id, $next !== null);
            Seen::mustBeAll($turn->project, $turn->item, $actor);
            // who says that nothing is there has decided about all of them
            $counted = $nothing ? 0 : ($this->seen)($actor, $turn);
            $this->checks->mustBeComplete($turn, $nothing, $anyway, $air);
            $turn = Moves::to($turn, $submitted, ['submitted_at' => now(), 'reopened_because' => '', 'decided_at' => $submitted->state === TurnState::Accepted ? now() : null]);
            Layers::sayNothing($turn->layer, $nothing);
            if ($next !== null) {
                $this->askFor($turn, $next);
            } else {
                Drafts::settle($turn, $actor->user);
            }
            LookAtObjects::ask($turn->project_id);

            return ['turn' => $turn, 'counted' => $counted];
        });
    }

    /** A lease that ran out unnoticed (offline, lid closed) is taken up again as long as nobody else has the item. */
    public static function resumed(Actor $actor, Turn $turn): Turn
    {
        $me = $actor->user->id;

        return $turn->state === TurnState::Waiting && ! $turn->followed && ($turn->user_id === $me || ($turn->user_id === null && $turn->last_user_id === $me))
            ? Moves::to($turn, $turn->value()->open($me, now()->toDateTimeImmutable()))
            : $turn;
    }

    /** The work waits at the next station; where several people label an item, once all of them are done. */
    private function askFor(Turn $turn, Station $station): void
    {
        $passes = Stations::work($turn);
        if (array_filter($passes, static fn (Turn $pass): bool => $pass->state !== TurnState::Submitted) !== []) {
            return;
        }
        Decisions::ask($turn, $station);
    }

    public function takeBack(Actor $actor, Turn $turn): Turn
    {
        return DB::transaction(static function () use ($actor, $turn): Turn {
            $turn->refresh();
            $decision = Stations::decision($turn);
            $next = $turn->value()->takeBack($actor->user->id, now()->toDateTimeImmutable(), $decision !== null && $decision->opened_at !== null);
            if ($decision !== null && Turn::query()->whereKey($decision->id)->whereNull('opened_at')->delete() === 0) {
                // somebody opened it between the two
                $turn->value()->takeBack($actor->user->id, now()->toDateTimeImmutable(), true);
            }
            $turn = Moves::to($turn, $next, ['submitted_at' => null, 'decided_at' => null]);
            Layers::sayNothing($turn->layer, false);

            return $turn;
        });
    }
}
