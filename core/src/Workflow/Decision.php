<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

enum Decision: string
{
    case Accept = 'accept';
    case Return = 'return';
}
