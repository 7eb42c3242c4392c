<?php

declare(strict_types=1);

namespace Skeno\Core\People;

/** A person's role in one project. */
enum Role: string
{
    case Manager = 'manager';
    case Reviewer = 'reviewer';
    case Labeller = 'labeller';
    case Guest = 'guest';
}
