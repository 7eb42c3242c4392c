<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use RuntimeException;

/** A file that is not taken into a project, with the reason for people. Each kind of item has its own. */
abstract class RefusedFile extends RuntimeException
{
}
