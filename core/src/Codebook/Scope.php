<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** What an attribute is asked about. */
enum Scope: string
{
    case Object = 'object';
    case Item = 'item';
    case Page = 'page';
    case Frame = 'frame';
}
