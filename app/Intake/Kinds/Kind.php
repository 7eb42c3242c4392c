<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Models\Asset;
use Skeno\Core\Items\RefusedFile;
use Skeno\Core\Items\Wish;

/** A kind of item at the door: what files it is made of, what is kept and made of them. The import, its report and its limits know no more of it. */
interface Kind
{
    /** Its word in `items.kind`. */
    public function word(): string;

    /**
     * @param  string  $head  the first 1024 bytes of a file
     */
    public function owns(string $head, string $file): bool;

    /** Whether a file of this name is meant as one, whatever its bytes are. */
    public function isNamed(string $name): bool;

    /**
     * Tells what a file is and refuses it by reason, in a short time.
     *
     * @throws RefusedFile
     */
    public function open(string $file, string $name, Wish $wish): Arrival;

    /** Whether what the bench needs of a file has been made of it. */
    public function isComplete(Asset $asset): bool;

    /**
     * Makes it, as the worker does; run again, what is there stays.
     *
     * @return bool false: a part of it, since others wait; it is to be called again
     *
     * @throws RefusedFile
     */
    public function complete(Asset $asset): bool;
}
