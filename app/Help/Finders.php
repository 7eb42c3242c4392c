<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Run;
use App\Support\Refusal;
use Skeno\Core\InvalidValue;

/** A room whose things can be asked in runs. */
interface Finders
{
    /**
     * @return ?Finder null: this run asks somebody of another room
     *
     * @throws Refusal|InvalidValue when it is one of this room that can't be asked any more
     */
    public function of(Run $run): ?Finder;
}
