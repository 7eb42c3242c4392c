<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

/** The stations of a route. */
enum Stage: string
{
    case Model = 'model';
    case Label = 'label';
    case Review = 'review';
    case Expert = 'expert';
}
