<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\Item;
use App\Models\Layer;
use App\Models\Project;
use App\Models\Turn;

/** Where edits land: a layer of an item, in the course of a turn or beside the turns (a sweep, a correction on the contact sheet). */
final class Desk
{
    public bool $changed = false;

    public function __construct(public readonly Project $project, public readonly Item $item, public readonly Layer $layer, public readonly ?int $turn)
    {
    }

    public static function of(Turn $turn): self
    {
        return new self($turn->project, $turn->item, $turn->layer, $turn->id);
    }
}
