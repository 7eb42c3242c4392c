<?php

declare(strict_types=1);

namespace Skeno\Core\Programs;

use RuntimeException;

/** A program was stopped, since it ran longer than it may. */
final class TookTooLong extends RuntimeException
{
}
