<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use DateTimeImmutable;

/**
 * The moves of a turn, each from the states it is allowed in. A turn is immutable; a move gives the turn after it.
 *
 * Where items are labelled a turn is submitted and then follows what the stations after it decide; where they are decided it ends
 * with the decision. Both are held by a lease while somebody works on them.
 */
final readonly class Turn
{
    /** @param  ?int  $person  whose turn it is; null while it waits for anybody */
    public function __construct(public Stage $stage, public TurnState $state, public ?int $person, public ?Lease $lease = null)
    {
    }

    /** @throws IllegalMove when another holds it or there is nothing to do on it */
    public function open(int $person, DateTimeImmutable $now): self
    {
        if ($this->state !== TurnState::Waiting && $this->state !== TurnState::Open && $this->state !== TurnState::Parked) {
            throw IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be opened for work");
        }
        if ($this->lease !== null && ! $this->lease->isFreeFor($person, $now)) {
            throw IllegalMove::because('turn_taken', 'somebody else is working on this item');
        }
        if ($this->person !== null && $this->person !== $person && $this->state !== TurnState::Open) {
            throw IllegalMove::because('turn_taken', 'this item is another person\'s turn');
        }

        return $this->with(TurnState::Open, $person, Lease::take($person, $now));
    }

    /** Gives an item back whose lease ran out or whose holder let go; what was done on it stays. */
    public function giveBack(): self
    {
        return $this->state === TurnState::Open ? $this->with(TurnState::Waiting, null) : $this;
    }

    /** Sets an item aside; it stays the person's, in no queue, until they take it up again. @throws IllegalMove */
    public function park(int $person): self
    {
        $this->mustBeHeldBy($person, 'parked');

        return $this->with(TurnState::Parked, $person);
    }

    /** Gives a parked item back to the queue, for anybody. @throws IllegalMove */
    public function putBack(): self
    {
        return $this->state === TurnState::Parked ? $this->with(TurnState::Waiting, null) : throw IllegalMove::because('turn_not_parked', "this item is {$this->state->value}, not parked");
    }

    /** Hands work that is not finished to a person, or to whoever comes when null. @throws IllegalMove */
    public function pass(?int $person): self
    {
        return $this->state->isWorkable() || $this->state === TurnState::Parked
            ? $this->with($this->state === TurnState::Returned ? TurnState::Returned : TurnState::Waiting, $person)
            : throw IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be passed on");
    }

    /**
     * @param  bool  $checked  whether a station after this one decides on it; without, it is accepted at once
     *
     * @throws IllegalMove
     */
    public function submit(int $person, bool $checked): self
    {
        $this->mustLabel();
        $this->mustBeHeldBy($person, 'submitted');

        return $this->with($checked ? TurnState::Submitted : TurnState::Accepted, $person);
    }

    /**
     * @param  bool  $begun  whether somebody has opened it to decide on it, or it has been decided by a person
     *
     * @throws IllegalMove
     */
    public function takeBack(int $person, DateTimeImmutable $now, bool $begun): self
    {
        $this->mustLabel();
        if ($this->person !== $person) {
            throw IllegalMove::because('turn_taken', 'only the person who submitted it can take it back');
        }
        if ($this->state !== TurnState::Submitted && $this->state !== TurnState::Accepted) {
            throw IllegalMove::because('turn_not_submitted', "this item is {$this->state->value}; there is no submit to take back");
        }
        if ($begun) {
            throw IllegalMove::because('review_begun', 'a reviewer has already opened this item');
        }

        return $this->with(TurnState::Open, $person, Lease::take($person, $now));
    }

    /** @throws IllegalMove when it is a person's own work and nobody decides on their own in this project */
    public function mayBeDecidedBy(int $person, bool $ownAllowed): self
    {
        return $this->person !== $person || $ownAllowed ? $this : throw IllegalMove::because('own_work', 'nobody reviews their own work in this project');
    }

    /** What the stations after it have said of submitted work. @throws IllegalMove */
    public function settle(Decision $decision): self
    {
        $this->mustLabel();
        if ($this->state !== TurnState::Submitted) {
            throw IllegalMove::because('turn_not_submitted', "this item is {$this->state->value}; there is nothing to decide");
        }

        return $this->with($decision === Decision::Accept ? TurnState::Accepted : TurnState::Returned, $this->person);
    }

    /** Accepted work is looked at again. @throws IllegalMove */
    public function reopen(): self
    {
        $this->mustLabel();

        return $this->state === TurnState::Accepted ? $this->with(TurnState::Submitted, $this->person) : throw IllegalMove::because('turn_not_accepted', "this item is {$this->state->value}, not accepted");
    }

    /** @throws IllegalMove when the person does not have it open, or it is nothing to decide */
    public function decide(Decision $decision, int $person): self
    {
        if (! $this->stage->decides()) {
            throw IllegalMove::because('turn_not_submitted', "this item is {$this->state->value} for labelling; there is nothing to decide");
        }
        $this->mustBeHeldBy($person, 'decided');

        return $this->with($decision === Decision::Accept ? TurnState::Accepted : TurnState::Returned, $person);
    }

    /** An accept is taken back: whoever takes it back has the item open. @throws IllegalMove */
    public function retract(int $person, DateTimeImmutable $now): self
    {
        if (! $this->stage->decides() || $this->state !== TurnState::Accepted) {
            throw IllegalMove::because('turn_not_accepted', "this item is {$this->state->value}; there is no accept to take back");
        }

        return $this->with(TurnState::Open, $person, Lease::take($person, $now));
    }

    private function with(TurnState $state, ?int $person, ?Lease $lease = null): self
    {
        return new self($this->stage, $state, $person, $lease);
    }

    private function mustLabel(): void
    {
        if ($this->stage->decides()) {
            throw IllegalMove::because('not_labelling', 'this is a turn for deciding, not for labelling');
        }
    }

    private function mustBeHeldBy(int $person, string $what): void
    {
        if ($this->state !== TurnState::Open || $this->person !== $person) {
            throw $this->person === $person || $this->person === null
                ? IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be {$what}")
                : IllegalMove::because('turn_taken', 'somebody else has taken this item over');
        }
    }
}
