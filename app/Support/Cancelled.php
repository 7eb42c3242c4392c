<?php

declare(strict_types=1);

namespace App\Support;

use RuntimeException;

/** Somebody has cancelled the work that was going on. */
final class Cancelled extends RuntimeException
{
    public static function byHand(): self
    {
        return new self('cancelled');
    }
}
