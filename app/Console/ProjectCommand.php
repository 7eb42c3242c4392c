<?php

declare(strict_types=1);

namespace App\Console;

use App\Projects\Projects;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Template;
use Skeno\Core\InvalidValue;

final class ProjectCommand extends SkenoCommand
{
    protected $signature = 'skeno:project {name : name of the project} {--codebook= : a codebook as JSON} {--template= : or a ready one; an unknown word lists them} {--description=} {--group=} {--json}';

    protected $description = 'Create a project with a codebook';

    protected function work(): int
    {
        $codebook = $this->codebook();
        $project = app(Projects::class)->create($this->text('name'), $this->word('description', '') ?? '', $this->word('group', '') ?? '', $codebook, null);
        $this->line($this->option('json') === true
            ? $this->json(['project' => $project->id, 'name' => $project->name, 'classes' => count($codebook->classes), 'attributes' => count($codebook->attributes)])
            : "Project {$project->id} \"{$project->name}\": ".count($codebook->classes).' classes, '.count($codebook->attributes).' attributes.');

        return self::DONE;
    }

    private function codebook(): Codebook
    {
        $template = $this->word('template');
        if ($template !== null) {
            return Template::named($template)->codebook ?? throw InvalidValue::at('--template', $template, implode(', ', array_map(static fn (Template $template): string => $template->key, Template::all())));
        }
        $file = $this->word('codebook') ?? throw InvalidValue::at('--codebook', null, 'a codebook file (JSON), or --template');
        $json = is_file($file) ? @file_get_contents($file, false, null, 0, 20_000_000) : false;

        return $json === false ? throw InvalidValue::at('--codebook', $file, 'a file that can be read') : Codebook::fromJson($json);
    }
}
