<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

enum EditAction: string
{
    case Create = 'create';
    case Change = 'change';
    case Delete = 'delete';
    case Answer = 'answer';

    /** One key of a track. */
    case Key = 'key';

    /** A suggestion that is found wrong, or is offered again. */
    case Drop = 'drop';
}
