<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

/** Where a key of a track came from. */
enum KeySource: string
{
    case Hand = 'hand';
    case Copied = 'copied';
    case Followed = 'followed';
    /** cut out of a rough box, or again with the last outline as a start */
    case Cutout = 'cutout';
    case Model = 'model';
}
