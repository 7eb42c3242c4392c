<?php

declare(strict_types=1);

namespace App\Console;

use App\Models\CodebookChange;
use App\Rewording\ChangeCodebook;
use App\Rewording\RewriteMarks;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\InvalidValue;

final class CodebookCommand extends SkenoCommand
{
    protected $signature = 'skeno:codebook {project : id or exact name} {--export : write the codebook to the output} {--number= : of an earlier version} {--import= : a codebook as JSON that becomes the next version} {--mapping= : where words in use go, as JSON} {--try : only say what the import would do} {--note=} {--json}';

    protected $description = 'Write the codebook of a project, or give it a new one';

    protected function work(): int
    {
        $project = $this->project();
        $codebooks = app(ChangeCodebook::class);
        if ($this->word('import') === null) {
            $number = $this->word('number');
            $version = $number === null ? $project->codebookVersion() : $project->codebooks()->where('version', $number)->first() ?? throw InvalidValue::at('--number', $number, 'a version of the codebook');
            $this->output->write($this->option('export') === true ? $version->codebook()->toJson() : ($this->option('json') === true
                ? $this->json(['project' => $project->id, 'version' => $version->version, 'note' => $version->note])."\n"
                : "\"{$project->name}\": version {$version->version}, ".count($version->codebook()->classes).' classes. --export writes it, --import=FILE gives the next.'."\n"));

            return self::DONE;
        }
        $new = Codebook::fromJson($this->read('import'));
        $mapping = $this->word('mapping') === null ? Mapping::none() : Mapping::fromArray(json_decode($this->read('mapping'), true) ?? throw InvalidValue::at('--mapping', $this->word('mapping'), 'a file with a JSON object'), '--mapping');
        $effect = $codebooks->effect($project, $new, $mapping);
        $orphans = $effect->orphans();
        $out = ['project' => $project->id, 'orphans' => $orphans, 'report' => $effect->report()];
        $version = $project->codebookVersion()->version;
        if ($orphans === [] && $this->option('try') !== true) {
            $made = $codebooks->change($project, $new, $mapping, $version, $this->word('note', 'by command') ?? '', null);
            if ($made instanceof CodebookChange) {
                // the command waits for what the page leaves to the worker; whoever comes second finds it done
                app(RewriteMarks::class)($made->refresh());
            }
            $out['version'] = $version = $project->codebookVersion()->version;
        }
        if ($this->option('json') === true) {
            $this->line($this->json($out));
        } else {
            foreach ([...$orphans, ...$effect->report()] as $line) {
                $this->line("  {$line['message']} ({$line['address']})");
            }
            $this->line($orphans !== [] ? 'Nothing was changed: say with --mapping=FILE where these go.' : ($this->option('try') === true ? 'Nothing was changed: this was a trial.' : "Version {$version} is in force."));
        }

        return $orphans === [] ? self::DONE : self::FAILED;
    }

    private function read(string $option): string
    {
        $file = (string) $this->word($option);
        $text = is_file($file) ? @file_get_contents($file, false, null, 0, 20_000_000) : false;

        return $text === false ? throw InvalidValue::at("--{$option}", $file, 'a file that can be read') : $text;
    }
}
