<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

/** Where a turn stands among the turns of its item. Passes of one assignment are overlap: the same item by several people. */
final readonly class TurnKey
{
    /**
     * @param  ?int  $assignment  null for labels that came in with the data
     * @param  int  $pass  from 1
     * @param  int  $round  from 1; a returned turn is followed by the next round
     * @param  bool  $beside  a pass over accepted labels, which stand as they are until it is accepted itself
     */
    public function __construct(public ?int $assignment, public Stage $stage, public int $pass, public int $round, public TurnState $state, public bool $beside = false)
    {
    }

    /** The same for all rounds of one pass. */
    public function chain(): string
    {
        return ($this->assignment ?? 'import')."/{$this->stage->value}/{$this->pass}";
    }
}
