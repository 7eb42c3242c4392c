<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

/** Which items are kept apart to measure by: always the same ones, of which no model ever learns. */
final class HeldOut
{
    /** One in so many. */
    public const ONE_IN = 4;

    /** @param  int  $item  its id */
    public static function has(int $item): bool
    {
        // by its checksum, so that it does not go by the order in which items came
        return crc32("held out {$item}") % self::ONE_IN === 0;
    }
}
