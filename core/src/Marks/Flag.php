<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

/** What is said of an object so that training and checks do not count it as a miss. */
enum Flag: string
{
    case CutOff = 'cut_off';
    case Hidden = 'hidden';
    case Hard = 'hard';
    case Crowd = 'crowd';
}
