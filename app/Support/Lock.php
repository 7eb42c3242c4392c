<?php

declare(strict_types=1);

namespace App\Support;

use PDOException;
use Throwable;

/** The database's one write lock. */
final class Lock
{
    /** Whether something failed only because another writer held the lock for longer than one waits: tried again it may go through. */
    public static function isBusy(Throwable $e): bool
    {
        for (; $e !== null; $e = $e->getPrevious()) {
            if ($e instanceof PDOException && preg_match('/database (table )?is locked|SQLITE_BUSY/i', $e->getMessage()) === 1) {
                return true;
            }
        }

        return false;
    }
}
