<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

/** The parts of a split. */
enum Part: string
{
    case Train = 'train';
    case Val = 'val';
    case Test = 'test';
}
