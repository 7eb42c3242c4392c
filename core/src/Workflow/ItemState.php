<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

/** State of an item, derived from its turns; `new` without any, `archived` by decision. */
enum ItemState: string
{
    case New = 'new';
    case Waiting = 'waiting';
    case Returned = 'returned';
    case Open = 'open';
    case Parked = 'parked';
    case Submitted = 'submitted';
    case Accepted = 'accepted';
    case Archived = 'archived';

    /**
     * The least finished of the turns that count: the last round of each chain (one assignment, stage and pass) where work is done.
     * Turns that decide are no work of their own: what they decide shows on the work. Passes beside accepted labels do not count.
     *
     * @param  list<TurnKey>  $turns
     */
    public static function of(array $turns, bool $archived = false): self
    {
        if ($archived) {
            return self::Archived;
        }
        $last = [];
        foreach ($turns as $turn) {
            if (! $turn->stage->decides() && ! $turn->beside && (! isset($last[$turn->chain()]) || $last[$turn->chain()]->round < $turn->round)) {
                $last[$turn->chain()] = $turn;
            }
        }
        $least = null;
        foreach ($last as $turn) {
            if ($least === null || $turn->state->progress() < $least->progress()) {
                $least = $turn->state;
            }
        }

        return $least === null ? self::New : self::from($least->value);
    }
}
