<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** What becomes of something labels use when the codebook changes. */
enum Fate: string
{
    /** the same thing under another key or name */
    case Renamed = 'renamed';
    /** joined with something that was there before */
    case Moved = 'moved';
    /** the same thing written in another type of answer */
    case Converted = 'converted';
    /** taken away because somebody said so */
    case Removed = 'removed';
    /** no place in the new codebook and nobody said where to */
    case Orphaned = 'orphaned';
    /** kept as it is, and found by the check from now on */
    case Doubtful = 'doubtful';
}
