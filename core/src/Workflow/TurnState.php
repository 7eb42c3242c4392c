<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

/** State of one person's pass over one item in one round. */
enum TurnState: string
{
    case Waiting = 'waiting';
    case Returned = 'returned';
    case Open = 'open';
    case Parked = 'parked';
    case Submitted = 'submitted';
    case Accepted = 'accepted';

    /** How far the work is, from 0; an item shows the least of its turns. */
    public function progress(): int
    {
        return (int) array_search($this, self::cases(), true);
    }

    /** Whether marks may be edited by the person whose turn it is. */
    public function isWorkable(): bool
    {
        return $this === self::Waiting || $this === self::Returned || $this === self::Open;
    }
}
