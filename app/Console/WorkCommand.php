<?php

declare(strict_types=1);

namespace App\Console;

use App\Support\Job;

/** The worker, as bin/serve, tests and benches run it: what somebody waits for comes first. */
final class WorkCommand extends SkenoCommand
{
    protected $signature = 'skeno:work {--once-through : end when nothing is left to do} {--json}';

    protected $description = 'Run the worker';

    protected function work(): int
    {
        return $this->call('queue:work', ['--queue' => 'default,'.Job::BEHIND, '--tries' => 4, '--timeout' => 3600, '--memory' => 400] + ($this->option('once-through') === true ? ['--stop-when-empty' => true, '--sleep' => 0] : ['--sleep' => 1]));
    }
}
