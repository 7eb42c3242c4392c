<?php

declare(strict_types=1);

namespace App\Console;

use Illuminate\Support\Facades\DB;

/** For the start of an installation: a worker that was killed leaves its job marked as taken, and nobody would touch it for hours. */
final class ResumeCommand extends SkenoCommand
{
    protected $signature = 'skeno:resume {--json}';

    protected $description = 'Give jobs a killed worker has left back to the queue (run while no worker runs)';

    protected function work(): int
    {
        $count = DB::table('jobs')->whereNotNull('reserved_at')->update(['reserved_at' => null, 'attempts' => 0]);
        $this->line($this->option('json') === true ? $this->json(['resumed' => $count]) : ($count === 0 ? 'Nothing was left lying.' : "{$count} jobs go on."));

        return self::DONE;
    }
}
