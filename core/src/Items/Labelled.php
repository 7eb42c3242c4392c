<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

/** Three things that never look alike in a dataset. */
enum Labelled: string
{
    case Objects = 'objects';
    case Nothing = 'nothing';
    case Unlabelled = 'unlabelled';
}
