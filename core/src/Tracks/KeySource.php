<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

/** Where a key of a track came from. */
enum KeySource: string
{
    case Hand = 'hand';
    case Copied = 'copied';
    case Followed = 'followed';
    case Model = 'model';
}
