<?php

declare(strict_types=1);

namespace App\Console;

use App\Upkeep\Backup;
use Illuminate\Support\Facades\Artisan;

final class RestoreCommand extends SkenoCommand
{
    protected $signature = 'skeno:restore {dir : made by skeno:backup} {--replace : also when there are people in this installation} {--json}';

    protected $description = 'Put a backup in the place of this installation (stop server and worker first)';

    protected function work(): int
    {
        $made = app(Backup::class)->restore(rtrim($this->text('dir'), '/'), $this->option('replace') === true);
        Artisan::call('migrate', ['--force' => true]);
        $this->line($this->option('json') === true ? $this->json($made) : "{$made['files']} files are back, each as the backup's list says.");

        return self::DONE;
    }
}
