<?php

declare(strict_types=1);

namespace App\Console;

use App\Intake\TakeFacts;
use App\Models\Project;
use RuntimeException;

/** Facts about the pictures of a project from a CSV table. */
final class FactsCommand extends SkenoCommand
{
    protected $signature = 'skeno:facts {project} {file : CSV with a column for the picture and one for each fact} {--json}';

    protected $description = 'Take in facts about pictures, to filter items by';

    protected function work(): int
    {
        $project = Project::query()->where('name', $this->argument('project'))->first() ?? throw new RuntimeException("there is no project \"{$this->argument('project')}\"");
        $file = (string) $this->argument('file');
        if (! is_file($file)) {
            throw new RuntimeException("there is no file {$file}");
        }
        $report = app(TakeFacts::class)($project, $file);
        if ($this->option('json') === true) {
            $this->line($this->json($report));
        } else {
            $this->line("{$report['taken']} pictures: ".implode(', ', $report['facts']));
            foreach ($report['skipped'] as $row) {
                $this->line("  line {$row['line']}: {$row['reason']}");
            }
        }

        return $report['skipped_count'] > 0 ? self::SOME_REFUSED : self::DONE;
    }
}
