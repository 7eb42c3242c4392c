<?php

declare(strict_types=1);

namespace App\Console;

use App\Upkeep\Resume;

/** Work that waits for a job which is not there goes on: after a killed worker, an emptied queue, a restored database. */
final class ResumeCommand extends SkenoCommand
{
    protected $signature = 'skeno:resume {--alone : no worker runs now, so what one had in hand goes back into the queue} {--json}';

    protected $description = 'Find everything unfinished and let the worker go on with it';

    protected function work(): int
    {
        $count = app(Resume::class)($this->option('alone') === true);
        $this->line($this->option('json') === true ? $this->json(['resumed' => $count]) : ($count === 0 ? 'Nothing was left lying.' : "{$count} jobs go on."));

        return self::DONE;
    }
}
