<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use DateTimeImmutable;

/**
 * The moves of a turn, each from the states it is allowed in. A turn is immutable; a move gives the turn after it.
 */
final readonly class Turn
{
    /**
     * @param  ?int  $person  whose turn it is; null while it waits for anybody
     * @param  bool  $reviewed  whether a reviewer has opened it since it was submitted
     * @param  bool  $needsReview  whether the assignment has a review; without, a submit is accepted at once
     */
    public function __construct(
        public TurnState $state,
        public ?int $person,
        public ?Lease $lease = null,
        public bool $reviewed = false,
        public bool $needsReview = true,
    ) {
    }

    /** @throws IllegalMove when another holds it or there is nothing to do on it */
    public function open(int $person, DateTimeImmutable $now): self
    {
        if ($this->lease !== null && ! $this->lease->isFreeFor($person, $now)) {
            throw IllegalMove::because('turn_taken', 'somebody else is working on this item');
        }
        if ($this->person !== null && $this->person !== $person && $this->state !== TurnState::Open) {
            throw IllegalMove::because('turn_taken', 'this item is another person\'s turn');
        }
        if ($this->state !== TurnState::Waiting && $this->state !== TurnState::Open && $this->state !== TurnState::Parked) {
            throw IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be opened for labelling");
        }

        return new self(TurnState::Open, $person, Lease::take($person, $now), false, $this->needsReview);
    }

    /** Gives an item back whose lease ran out or whose holder let go; marks stay on it. */
    public function giveBack(): self
    {
        return $this->state === TurnState::Open ? new self(TurnState::Waiting, null, null, false, $this->needsReview) : $this;
    }

    /** Sets an item aside; it stays the person's, in no queue, until they take it up again. @throws IllegalMove */
    public function park(int $person): self
    {
        if ($this->person !== $person) {
            throw IllegalMove::because('turn_taken', 'only the person who has the item can park it');
        }
        if ($this->state !== TurnState::Open) {
            throw IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be parked");
        }

        return new self(TurnState::Parked, $person, null, false, $this->needsReview);
    }

    /** Gives a parked item back to the queue, for anybody. @throws IllegalMove */
    public function putBack(): self
    {
        return $this->state === TurnState::Parked ? new self(TurnState::Waiting, null, null, false, $this->needsReview) : throw IllegalMove::because('turn_not_parked', "this item is {$this->state->value}, not parked");
    }

    /** @throws IllegalMove */
    public function submit(int $person): self
    {
        if ($this->state !== TurnState::Open || $this->person !== $person) {
            throw $this->person === $person || $this->person === null
                ? IllegalMove::because('turn_not_open', "this item is {$this->state->value}; it can't be submitted")
                : IllegalMove::because('turn_taken', 'somebody else has taken this item over');
        }

        return new self($this->needsReview ? TurnState::Submitted : TurnState::Accepted, $person, null, false, $this->needsReview);
    }

    /** @throws IllegalMove once a reviewer has opened it */
    public function takeBack(int $person, DateTimeImmutable $now): self
    {
        if ($this->person !== $person) {
            throw IllegalMove::because('turn_taken', 'only the person who submitted it can take it back');
        }
        $own = $this->state === TurnState::Submitted || ($this->state === TurnState::Accepted && ! $this->needsReview);
        if (! $own) {
            throw IllegalMove::because('turn_not_submitted', "this item is {$this->state->value}; there is no submit to take back");
        }
        if ($this->reviewed) {
            throw IllegalMove::because('review_begun', 'a reviewer has already opened this item');
        }

        return new self(TurnState::Open, $person, Lease::take($person, $now), false, $this->needsReview);
    }

    /** @throws IllegalMove when it is not there to be reviewed, or is the reviewer's own work and that is not allowed */
    public function review(int $reviewer, bool $ownAllowed): self
    {
        if ($this->state !== TurnState::Submitted) {
            throw IllegalMove::because('turn_not_submitted', "this item is {$this->state->value}; there is nothing to decide");
        }
        if ($this->person === $reviewer && ! $ownAllowed) {
            throw IllegalMove::because('own_work', 'nobody reviews their own work in this project');
        }

        return new self($this->state, $this->person, $this->lease, true, $this->needsReview);
    }

    /** @throws IllegalMove */
    public function decide(Decision $decision, int $reviewer, bool $ownAllowed): self
    {
        $reviewed = $this->review($reviewer, $ownAllowed);

        return new self($decision === Decision::Accept ? TurnState::Accepted : TurnState::Returned, $reviewed->person, null, true, $this->needsReview);
    }
}
