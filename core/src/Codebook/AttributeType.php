<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

enum AttributeType: string
{
    case One = 'one';
    case Many = 'many';
    case YesNo = 'yesno';
    case Text = 'text';
    case Number = 'number';
    case Date = 'date';
    case Time = 'time';
    case DateTime = 'datetime';
}
