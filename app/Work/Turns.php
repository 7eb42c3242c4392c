<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Http\Refusal;
use App\Intake\AssetStore;
use App\Models\DecisionRow;
use App\Models\Item;
use App\Models\Project;
use App\Models\Turn;
use App\Projects\Codebooks;
use App\Quality\LookAtObjects;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Assist\AirCheck;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/** Hands out turns, takes them in and decides them. Every move is one transaction, its rule the core's. */
final class Turns
{
    /** Larger pictures are not read while somebody waits for the next one. */
    private const MOST_PIXELS = 8_000_000;

    public function __construct(private readonly AssetStore $store)
    {
    }

    /**
     * The next item for a person to label: what they hold already, then what came back to them, then the most urgent that waits.
     *
     * @param  list<int>  $holding  turns already on their screen
     */
    public function nextToLabel(Actor $actor, Project $project, array $holding, bool $preload, ?int $assignment = null): ?Turn
    {
        return DB::transaction(function () use ($actor, $project, $holding, $preload, $assignment): ?Turn {
            $this->giveBackExpired($project);
            $me = $actor->user->id;
            $mine = fn (): Builder => Turn::present()->where('project_id', $project->id)->where('user_id', $me)->whereNotIn('id', $holding)
                ->when($assignment !== null, static fn (Builder $query): Builder => $query->where('assignment_id', $assignment));
            $turn = $mine()->where('state', TurnState::Open)->orderBy('preloaded')->orderBy('id')->first();
            if ($turn === null) {
                $returned = $mine()->where('state', TurnState::Returned)->whereNotIn('id', $this->followed($project))->orderBy('decided_at')->first();
                $turn = $returned === null ? null : $this->nextRound($returned);
            }
            $turn ??= $this->waiting($project, $me, $holding, $assignment);
            if ($turn === null) {
                return null;
            }
            $turn->follow($turn->value()->open($me, now()->toDateTimeImmutable()));
            $turn->preloaded = $preload;
            $turn->save();
            ItemStates::refresh($turn->item);

            return $turn;
        });
    }

    /** @param  list<int>  $holding */
    private function waiting(Project $project, int $me, array $holding, ?int $assignment): ?Turn
    {
        return Turn::query()->select('turns.*')->join('assignments', 'assignments.id', '=', 'turns.assignment_id')
            ->join('items', 'items.id', '=', 'turns.item_id')
            ->where('turns.project_id', $project->id)->where('turns.state', TurnState::Waiting)->whereNull('items.archived_at')
            ->whereNotIn('turns.id', $holding)
            // what came back to a person waits for that person
            ->where(static fn (Builder $whose) => $whose->whereNull('turns.user_id')->orWhere('turns.user_id', $me))
            ->when($assignment !== null, static fn (Builder $query): Builder => $query->where('turns.assignment_id', $assignment))
            ->whereExists(static fn ($query) => $query->from('assignment_people')->whereColumn('assignment_people.assignment_id', 'turns.assignment_id')->where('user_id', $me)->where('part', 'labeller'))
            // the other passes of an item are other people's: nobody labels the same item twice in one assignment
            ->whereNotExists(static fn ($query) => $query->from('turns as other')->whereColumn('other.item_id', 'turns.item_id')->whereColumn('other.assignment_id', 'turns.assignment_id')->whereColumn('other.pass', '!=', 'turns.pass')->where('other.user_id', $me))
            ->orderByRaw('turns.last_user_id = ? desc', [$me])
            ->orderByDesc('assignments.priority')->orderBy('assignments.id')->orderBy('turns.id')
            ->first();
    }

    /** Turns of the project that have a later round, so that their "returned" is history. */
    private function followed(Project $project): \Illuminate\Database\Query\Builder
    {
        return DB::table('turns as t')->join('turns as n', static fn ($join) => $join->on('n.item_id', '=', 't.item_id')->on('n.assignment_id', '=', 't.assignment_id')->on('n.pass', '=', 't.pass')->on('n.stage', '=', 't.stage')->whereColumn('n.round', '>', 't.round'))
            ->where('t.project_id', $project->id)->where('t.state', TurnState::Returned->value)->select('t.id');
    }

    private function nextRound(Turn $returned): Turn
    {
        $next = new Turn([
            'project_id' => $returned->project_id,
            'item_id' => $returned->item_id,
            'assignment_id' => $returned->assignment_id,
            'stage' => $returned->stage,
            'pass' => $returned->pass,
            'round' => $returned->round + 1,
            'layer' => $returned->layer,
            'state' => TurnState::Waiting,
            'user_id' => $returned->user_id,
        ]);
        $next->save();

        return $next->refresh();
    }

    /** Opens one particular item for labelling: from the ribbon, after a reload, or a returned one. */
    public function take(Actor $actor, Turn $turn): Turn
    {
        return DB::transaction(function () use ($actor, $turn): Turn {
            $this->giveBackExpired($turn->project, except: $turn->id);
            $turn = $turn->refresh();
            if ($turn->state === TurnState::Returned && $turn->user_id === $actor->user->id) {
                $later = Turn::query()->where('item_id', $turn->item_id)->where('assignment_id', $turn->assignment_id)->where('pass', $turn->pass)->where('stage', $turn->stage)->where('round', '>', $turn->round)->first();
                $turn = $later ?? $this->nextRound($turn);
            }
            $this->mustBeLabeller($actor, $turn);
            if ($turn->user_id !== $actor->user->id && Turn::query()->where('item_id', $turn->item_id)->where('assignment_id', $turn->assignment_id)->where('pass', '!=', $turn->pass)->where('user_id', $actor->user->id)->exists()) {
                throw IllegalMove::because('turn_taken', 'you have labelled this item already; this pass is for somebody else');
            }
            $turn->follow($turn->value()->open($actor->user->id, now()->toDateTimeImmutable()));
            $turn->preloaded = false;
            $turn->parked_because = '';
            $turn->save();
            ItemStates::refresh($turn->item);

            return $turn;
        });
    }

    private function mustBeLabeller(Actor $actor, Turn $turn): void
    {
        $mine = $turn->user_id === $actor->user->id
            || ($turn->assignment !== null && $turn->assignment->people()->where('user_id', $actor->user->id)->where('part', 'labeller')->exists());
        if (! $mine) {
            throw Refusal::because('not_assigned', 'this item was not handed out to you', 403);
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
            if ($turn->reviewer_id === $actor->user->id && $turn->state === TurnState::Submitted) {
                $turn->review_leased_until = null;
                $turn->save();
            }
        });
    }

    /** Sets an item aside with a reason; all that was done on it stays. */
    public function park(Actor $actor, Turn $turn, string $reason): Turn
    {
        return $this->move($turn, static fn (Turn $turn): array => [$turn->value()->park($actor->user->id), $reason]);
    }

    /** A manager gives a parked item back to the queue. */
    public function putBack(Turn $turn): Turn
    {
        return $this->move($turn, static fn (Turn $turn): array => [$turn->value()->putBack(), '']);
    }

    /** @param  \Closure(Turn): array{0: \Skeno\Core\Workflow\Turn, 1: string}  $to  the turn after the move, and why it is parked */
    private function move(Turn $turn, \Closure $to): Turn
    {
        return DB::transaction(static function () use ($turn, $to): Turn {
            [$next, $because] = $to($turn->refresh());
            $turn->follow($next);
            $turn->parked_because = $because;
            $turn->preloaded = false;
            $turn->save();
            ItemStates::refresh($turn->item);

            return $turn;
        });
    }

    public function giveBackExpired(Project $project, ?int $except = null): void
    {
        $expired = Turn::query()->where('project_id', $project->id)->where('state', TurnState::Open)->where('leased_until', '<=', now())
            ->when($except !== null, static fn (Builder $query): Builder => $query->whereKeyNot($except))->with(['item', 'assignment'])->get();
        foreach ($expired as $turn) {
            $this->free($turn);
        }
    }

    private function free(Turn $turn): void
    {
        $holder = $turn->user_id;
        $turn->follow($turn->value()->giveBack());
        $turn->last_user_id = $holder;
        $turn->preloaded = false;
        // work that came back to its labeller stays theirs; a first round may go to anybody
        if ($turn->round > 1) {
            $turn->user_id = $holder;
        }
        $turn->save();
        ItemStates::refresh($turn->item);
    }

    /**
     * @param  bool  $nothing  the person says that nothing is there to label
     * @param  bool  $anyway  submit in spite of doubts (never in spite of findings that stop)
     */
    public function submit(Actor $actor, Turn $turn, bool $nothing, bool $anyway): Turn
    {
        // reading the picture takes its time, so it is done before anything is locked
        $air = $nothing || $anyway ? [] : $this->air($turn);

        return DB::transaction(function () use ($actor, $turn, $nothing, $anyway, $air): Turn {
            Codebooks::mustBeSteady($turn->project_id);
            $turn->refresh();
            $next = $turn->value()->submit($actor->user->id);
            Seen::mustBeAll($turn->project, $turn->item, $actor);
            $this->mustBeComplete($turn, $nothing, $anyway, $air);
            $turn->follow($next);
            $turn->submitted_at = CarbonImmutable::now();
            $turn->reviewed_at = null;
            $turn->reviewer_id = null;
            $turn->review_leased_until = null;
            $turn->decided_at = $next->state === TurnState::Accepted ? CarbonImmutable::now() : null;
            $turn->save();
            $this->sayNothing($turn->item, $nothing);
            ItemStates::refresh($turn->item);
            LookAtObjects::ask($turn->project_id);

            return $turn;
        });
    }

    private function sayNothing(Item $item, bool $nothing): void
    {
        $item->nothing = $nothing;
        $item->save();
    }

    /** @return list<Finding> boxes that leave more air than their class allows */
    private function air(Turn $turn): array
    {
        $check = new AirCheck($turn->project->codebookVersion()->codebook());
        $marks = Layer::marks($turn->item_id, $turn->layer);
        $asset = $turn->item->asset;
        if ($asset->width * $asset->height > self::MOST_PIXELS || array_filter($marks, $check->concerns(...)) === []) {
            return [];
        }

        return $check->item($marks, Picture::brightness($this->store->file($asset), PictureFormat::from($asset->format), 0, 0, $asset->width, $asset->height));
    }

    /** @param  list<Finding>  $air */
    private function mustBeComplete(Turn $turn, bool $nothing, bool $anyway, array $air = []): void
    {
        $marks = Layer::marks($turn->item_id, $turn->layer);
        if ($marks === [] && ! $nothing) {
            throw Refusal::because('nothing_marked', 'nothing is marked here; say so if there is nothing to label', 422);
        }
        if ($marks !== [] && $nothing) {
            throw Refusal::because('objects_marked', 'there are '.count($marks).' marks on this item, so "nothing here" can\'t be right', 422);
        }
        $findings = [...$this->findings($turn), ...$air];
        $stops = array_filter($findings, static fn (Finding $finding): bool => $finding->stops);
        if ($stops !== [] || ($findings !== [] && ! $anyway)) {
            throw Refusal::because($stops !== [] ? 'findings' : 'doubts', $stops !== [] ? 'some marks are not finished' : 'please look at these once more', 422, [
                'findings' => array_map(static fn (Finding $finding): array => $finding->toArray(), $findings),
            ]);
        }
    }

    /** @return list<Finding> */
    public function findings(Turn $turn): array
    {
        $asset = $turn->item->asset;

        return (new MarkCheck($turn->project->codebookVersion()->codebook()))->item(Layer::marks($turn->item_id, $turn->layer), $asset->width, $asset->height, Layer::said($turn->item_id, $turn->layer));
    }

    public function takeBack(Actor $actor, Turn $turn): Turn
    {
        return DB::transaction(function () use ($actor, $turn): Turn {
            $turn->refresh();
            $turn->follow($turn->value()->takeBack($actor->user->id, now()->toDateTimeImmutable()));
            $turn->submitted_at = $turn->decided_at = null;
            $turn->save();
            $this->sayNothing($turn->item, false);
            ItemStates::refresh($turn->item);

            return $turn;
        });
    }

    /**
     * The next item for a person to review. Fixed work comes back to who returned it before it goes to others.
     *
     * @param  list<int>  $holding
     */
    public function nextToReview(Actor $actor, Project $project, array $holding, bool $preload): ?Turn
    {
        return DB::transaction(function () use ($actor, $project, $holding, $preload): ?Turn {
            $turn = $this->reviewable($actor, $project)->whereNotIn('turns.id', $holding)
                ->where(static fn (Builder $query) => $query->whereNull('review_leased_until')->orWhere('review_leased_until', '<=', now())->orWhere('turns.reviewer_id', $actor->user->id))
                ->orderByRaw('exists (select 1 from turns as before join decisions on decisions.turn_id = before.id where before.item_id = turns.item_id and before.assignment_id = turns.assignment_id and decisions.reviewer_id = ?) desc', [$actor->user->id])
                ->orderByRaw('coalesce((select priority from assignments where assignments.id = turns.assignment_id), 0) desc')
                ->orderBy('turns.submitted_at')->orderBy('turns.id')
                ->first();
            if ($turn === null) {
                return null;
            }

            return $this->leaseReview($actor, $turn, $preload);
        });
    }

    /** Submitted turns a person may decide on. @return Builder<Turn> */
    public function reviewable(Actor $actor, Project $project): Builder
    {
        $me = $actor->user->id;

        return Turn::present()->where('turns.project_id', $project->id)->where('turns.state', TurnState::Submitted)
            ->when(! $project->own_review, static fn (Builder $query): Builder => $query->where(static fn (Builder $own) => $own->whereNull('turns.user_id')->orWhere('turns.user_id', '!=', $me)))
            ->when(! $this->reviewsAll($actor, $project), static fn (Builder $query): Builder => $query->whereExists(static fn ($people) => $people->from('assignment_people')->whereColumn('assignment_people.assignment_id', 'turns.assignment_id')->where('user_id', $me)->where('part', 'reviewer')));
    }

    private function reviewsAll(Actor $actor, Project $project): bool
    {
        return $actor->roleIn($project) === \Skeno\Core\People\Role::Manager;
    }

    /** Opens a submitted item for review; from now on its labeller can't take it back. */
    public function openReview(Actor $actor, Turn $turn): Turn
    {
        return DB::transaction(function () use ($actor, $turn): Turn {
            $turn->refresh();
            $this->mustReview($actor, $turn);

            return $this->leaseReview($actor, $turn, false);
        });
    }

    private function leaseReview(Actor $actor, Turn $turn, bool $preload): Turn
    {
        if ($turn->reviewer_id !== $actor->user->id && $turn->review_leased_until !== null && $turn->review_leased_until->isFuture()) {
            throw IllegalMove::because('turn_taken', 'another reviewer has this item open');
        }
        $turn->reviewer_id = $actor->user->id;
        $turn->review_leased_until = CarbonImmutable::now()->addSeconds(Lease::SECONDS);
        if (! $preload) {
            $turn->reviewed_at ??= CarbonImmutable::now();
        }
        $turn->save();

        return $turn;
    }

    private function mustReview(Actor $actor, Turn $turn): void
    {
        $turn->value()->review($actor->user->id, $turn->project->own_review);
        if (! $this->reviewable($actor, $turn->project)->whereKey($turn->id)->exists()) {
            throw Refusal::because('not_assigned', 'this item is not yours to review', 403);
        }
    }

    public function decide(Actor $actor, Turn $turn, Decision $decision, string $reason): Turn
    {
        return DB::transaction(function () use ($actor, $turn, $decision, $reason): Turn {
            Codebooks::mustBeSteady($turn->project_id);
            $turn->refresh();
            $this->mustReview($actor, $turn);
            if ($turn->reviewer_id !== $actor->user->id && $turn->review_leased_until !== null && $turn->review_leased_until->isFuture()) {
                throw IllegalMove::because('turn_taken', 'another reviewer has this item open');
            }
            if ($decision === Decision::Return && $turn->assignment_id === null) {
                throw IllegalMove::because('nobody_to_return_to', 'these labels came in with the data, so there is nobody to return them to; correct them here or hand the item out');
            }
            $hasPins = \App\Models\Pin::query()->where('turn_id', $turn->id)->exists();
            if ($decision === Decision::Return && trim($reason) === '' && ! $hasPins) {
                throw Refusal::because('reason_missing', 'say what is wrong, in words or by a pin on the picture', 422);
            }
            if ($decision === Decision::Accept) {
                Seen::mustBeAll($turn->project, $turn->item, $actor);
                $item = $turn->item;
                $empty = Layer::marks($item->id, $turn->layer) === [];
                $this->mustBeComplete($turn, $empty, true);
                $this->sayNothing($item, $empty);
            }
            $turn->follow($turn->value()->decide($decision, $actor->user->id, $turn->project->own_review));
            $turn->reviewer_id = $actor->user->id;
            $turn->review_leased_until = null;
            $turn->decided_at = CarbonImmutable::now();
            $turn->save();
            DecisionRow::query()->create(['turn_id' => $turn->id, 'reviewer_id' => $actor->user->id, 'decision' => $decision, 'reason' => trim($reason)]);
            ItemStates::refresh($turn->item);

            return $turn;
        });
    }

    /** Makes the turns of an assignment: one for each item and pass. @param  list<int>  $items */
    public function handOut(\App\Models\Assignment $assignment, array $items): void
    {
        $now = now();
        foreach (array_chunk($items, 500) as $chunk) {
            $rows = [];
            foreach ($chunk as $item) {
                for ($pass = 1; $pass <= $assignment->overlap; $pass++) {
                    $rows[] = [
                        'project_id' => $assignment->project_id, 'item_id' => $item, 'assignment_id' => $assignment->id, 'stage' => Stage::Label->value, 'pass' => $pass, 'round' => 1,
                        'layer' => \Skeno\Core\Workflow\TurnKey::layer($assignment->overlap, $assignment->id, $pass), 'state' => TurnState::Waiting->value, 'created_at' => $now, 'updated_at' => $now,
                    ];
                }
            }
            DB::table('turns')->insert($rows);
            foreach (Item::query()->whereIn('id', $chunk)->get() as $item) {
                ItemStates::refresh($item);
            }
        }
    }
}
