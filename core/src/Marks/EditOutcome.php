<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

/** What became of an edit. A repeat of an applied edit answers Repeated and changes nothing. */
enum EditOutcome: string
{
    case Applied = 'applied';
    case Repeated = 'repeated';
    case Conflict = 'conflict';
    case Refused = 'refused';
}
