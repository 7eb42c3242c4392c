<?php

declare(strict_types=1);

namespace App\Support;

use PDO;

/**
 * Begins every transaction by BEGIN IMMEDIATE. Before PHP 8.4 Laravel ignores `transaction_mode`, and a transaction that reads
 * and then writes fails at once ("database is locked") when another one wrote in between, whatever the busy timeout.
 */
final class ImmediatePdo extends PDO
{
    private bool $open = false;

    public function beginTransaction(): bool
    {
        $this->exec('BEGIN IMMEDIATE');

        return $this->open = true;
    }

    public function commit(): bool
    {
        $this->exec('COMMIT');
        $this->open = false;

        return true;
    }

    public function rollBack(): bool
    {
        $this->open = false;
        try {
            $this->exec('ROLLBACK');
        } catch (\PDOException $e) {
            if (! str_contains($e->getMessage(), 'no transaction is active')) {
                throw $e;
            }
        }

        return true;
    }

    public function inTransaction(): bool
    {
        return $this->open;
    }
}
