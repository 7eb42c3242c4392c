<?php

declare(strict_types=1);

namespace App\Console;

use App\Upkeep\Backup;

final class BackupCommand extends SkenoCommand
{
    protected $signature = 'skeno:backup {dir : a folder that is empty or not there yet} {--json}';

    protected $description = 'Copy the installation, also while it runs, and check the copy';

    protected function work(): int
    {
        $made = app(Backup::class)->make(rtrim($this->text('dir'), '/'));
        $this->line($this->option('json') === true ? $this->json($made) : sprintf('%d files, %.1f MB, each held against its source.', $made['files'], $made['bytes'] / 1e6));

        return self::DONE;
    }
}
