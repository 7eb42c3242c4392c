<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Models\Asset;
use Closure;
use Skeno\Core\Items\RefusedFile;

/** A file that has been told to be of a kind, before it is taken. */
interface Arrival
{
    /** What it is known by: the SHA-256 of its bytes, or of what was read of them, in hex. */
    public function hash(string $file): string;

    /**
     * Keeps the file and makes of it what has to be there before anybody can label it, outside of any transaction: it may take long.
     *
     * @param  string  $hash  what it is known by
     * @param  Closure(string): void  $progress  told how far it is, in words; may throw to stop
     * @return string what is said of it to whoever brought it; empty: nothing
     *
     * @throws RefusedFile
     */
    public function keep(string $hash, Closure $progress): string;

    /** @return array<string, mixed> what its row among the assets says, once it is kept */
    public function asset(): array;

    /** Called in the transaction that has written its row. */
    public function written(Asset $asset): void;
}
