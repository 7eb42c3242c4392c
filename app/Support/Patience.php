<?php

declare(strict_types=1);

namespace App\Support;

use Throwable;

/** With whoever is asked about one item after the other: one that fails is passed over, some in a row and it is taken for gone. */
final class Patience
{
    /** Failures in a row at which it ends. */
    public const MOST = 5;

    private int $failures = 0;

    public function answered(): void
    {
        $this->failures = 0;
    }

    /**
     * @return string why it failed
     *
     * @throws Throwable the same, when it has failed too often in a row
     */
    public function failed(Throwable $e): string
    {
        if (++$this->failures >= self::MOST) {
            throw $e;
        }

        return $e->getMessage();
    }
}
