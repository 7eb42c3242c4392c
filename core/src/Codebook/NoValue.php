<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** The ways of having no value that count as an answer; the fourth, not yet looked at, is the absence of an answer. */
enum NoValue: string
{
    case None = 'none';
    case NotVisible = 'not_visible';
    case Unsure = 'unsure';
}
