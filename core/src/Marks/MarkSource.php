<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

/** How the shape of a mark came about. */
enum MarkSource: string
{
    case Hand = 'hand';
    /** cut out of a rough box a hand has drawn */
    case Cutout = 'cutout';
    /** painted with patches */
    case Patches = 'patches';
    /** a skeleton whose nodes were placed by what others look like */
    case Fitted = 'fitted';
    case Import = 'import';
    case Model = 'model';

    /** Whether a hand decided on it, with whatever help. */
    public function isOfHand(): bool
    {
        return $this !== self::Import && $this !== self::Model;
    }

    /**
     * What it is after a hand has been at it.
     *
     * @param  ?self  $said  what the hand says it was done with
     */
    public function after(?self $said): self
    {
        return $said ?? ($this->isOfHand() ? $this : self::Hand);
    }
}
