<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** What a model of a project learns. */
enum LearnedKind: string
{
    /** Answers and tags, by looks. */
    case Looks = 'looks';

    /** Things that cover an area. */
    case Regions = 'regions';

    case Skeletons = 'skeletons';
}
