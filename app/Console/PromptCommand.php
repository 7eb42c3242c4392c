<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\Runs;
use App\Items\FindItems;
use App\Models\Project;
use App\Models\PromptTrial;
use App\Models\PromptVersion;
use App\Models\Run;
use App\Prompts\ChatModels;
use App\Prompts\PromptResults;
use App\Prompts\PromptRuns;
use App\Prompts\Prompts;
use App\Prompts\PromptTrials;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;

final class PromptCommand extends SkenoCommand
{
    protected $signature = 'skeno:prompt {project : id or exact name} {name : of the prompt} {--words= : a file with its words: saves a version; classes, questions, tags and form in braces are filled in from the codebook} {--model= : with it: the chat model it asks} {--ask= : with it: keys of classes, questions and tags it asks for, with commas; all when nothing is said}
        {--on= : accepted: tries it on accepted texts; rest: runs it over the others, and what it says becomes suggestions; accepted when no version is saved} {--of= : a number: that version; else the last} {--set= : only texts of this set} {--where=* : further conditions, as on Items} {--limit=100 : texts at most} {--seed=1 : draws them} {--stays=without : on the rest, what is there: beside, replace (earlier suggestions), without (only texts without marks)} {--json}';

    protected $description = 'Save a version of a prompt, try one on accepted texts (how good it is, what it costs, how long it takes), or run one over the rest';

    protected function work(): int
    {
        $project = $this->project();
        $on = $this->word('on');
        if ($on !== null && ! in_array($on, ['accepted', 'rest'], true)) {
            throw InvalidValue::at('--on', $on, 'accepted or rest');
        }
        $version = $this->word('words') === null ? null : $this->saved($project, $this->word('words'));
        if ($version !== null && $on === null) {
            $this->line($this->option('json') === true ? $this->json(['prompt' => $this->text('name'), 'version' => $version->number]) : "Version {$version->number} of {$this->text('name')} is saved.");

            return self::DONE;
        }
        $of = $this->word('of');
        $version = app(Prompts::class)->version($project, $this->text('name'), $version->number ?? ($of === null ? null : self::number('--of', $of)));

        return $on === 'rest' ? $this->ran($project, $version) : $this->tried($project, $version);
    }

    private function saved(Project $project, string $file): PromptVersion
    {
        $words = is_file($file) && filesize($file) <= 4 * Template::MOST ? file_get_contents($file) : false;
        if ($words === false) {
            throw InvalidValue::at('--words', $file, 'a file with the words of a prompt');
        }
        $codebook = $project->codebookVersion()->codebook();
        $all = Task::all($codebook)->toArray();
        $ask = $this->word('ask');
        if ($ask !== null) {
            $keys = array_map(trim(...), explode(',', $ask));
            foreach (array_diff($keys, ...array_values($all)) as $key) {
                throw InvalidValue::at('--ask', $key, 'a class, question or tag for texts: '.implode(', ', array_merge(...array_values($all))));
            }
            $all = array_map(static fn (array $some): array => array_values(array_intersect($some, $keys)), $all);
        }

        return app(Prompts::class)->save($project, $this->text('name'), app(ChatModels::class)->named($project, $this->word('model') ?? ''), Task::fromFields(Fields::of($all), $codebook), Template::of($words), null);
    }

    /** @return list<int> */
    private function wanted(Project $project): array
    {
        $set = $this->word('set');

        return app(FindItems::class)($project, [...($set === null ? [] : ["set:{$set}"]), ...array_map(strval(...), (array) $this->option('where'))])->ids();
    }

    private function ran(Project $project, PromptVersion $version): int
    {
        $run = app(PromptRuns::class)->begin($project, $version, null, $this->word('stays', 'without') ?? '', $this->wanted($project), queued: false);
        try {
            app(Runs::class)->work($run->load(['project', 'prompt.asked.endpoint']));
        } catch (\Throwable $e) {
            // what nobody goes on with must not look as if somebody did
            Run::query()->whereKey($run->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
        $report = $run->refresh()->report;
        $cost = PromptRuns::cost($run, $version->asked?->price());
        $this->line($this->option('json') === true
            ? $this->json(['run' => $run->id, 'prompt' => $version->prompt->name, 'version' => $version->number, 'state' => $run->state, 'items' => $run->total, 'cost' => $cost] + $report)
            : sprintf('Run %d: %d spans and %d words on %d texts; nothing on %d, left out %d, failed %d%s.', $run->id, $report['things'], $report['said'], $report['with'], $report['without'], $report['left'], $report['failed_count'], $cost === null ? '' : sprintf('; cost %.4f', $cost)));

        return $report['failed_count'] > 0 ? self::SOME_REFUSED : self::DONE;
    }

    private function tried(Project $project, PromptVersion $version): int
    {
        $items = $this->wanted($project);
        $trials = app(PromptTrials::class);
        $trial = $trials->begin($project, $version, null, $items, self::number('--limit', $this->word('limit', '') ?? ''), self::number('--seed', $this->word('seed', '') ?? ''), queued: false);
        try {
            $trials->work($trial->load(['project', 'version.asked.endpoint']), INF);
        } catch (\Throwable $e) {
            // what nobody goes on with must not look as if somebody did
            PromptTrial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
        $figures = app(PromptResults::class)->figures($trial->refresh());
        $this->line($this->option('json') === true ? $this->json(['trial' => $trial->id, 'prompt' => $version->prompt->name, 'version' => $version->number, 'model' => $version->asked?->name, 'classes' => (object) $figures['classes'], 'answers' => (object) $figures['answers'], 'tags' => (object) $figures['tags']] + $figures) : implode("\n", self::said($figures)));

        return $figures['failed'] === [] ? self::DONE : self::SOME_REFUSED;
    }

    /**
     * @param  array<string, mixed>  $figures
     * @return list<string>
     */
    private static function said(array $figures): array
    {
        $one = static fn (?array $of): string => $of === null ? '–' : sprintf('%.3f (%.3f to %.3f)', $of['value'], $of['low'], $of['high']);
        $lines = [];
        foreach ($figures['classes'] + ['all together' => $figures['all']] as $class => $of) {
            $lines[] = sprintf('%s: %d there, %d said', $class, $of['known'], $of['said']);
            foreach (['exact', 'overlapping'] as $how) {
                $lines[] = "  {$how}: f1 {$one($of[$how]['f1'])}, precision {$one($of[$how]['precision'])}, recall {$one($of[$how]['recall'])}";
            }
        }
        foreach ($figures['answers'] + $figures['tags'] as $key => $of) {
            $lines[] = "{$key}: answered as accepted {$one($of)}";
        }
        $lines[] = sprintf('On %d texts, %d failed: %d mended, %d left out, %d replies not whole; %.1f s%s.', $figures['items'], count($figures['failed']), $figures['mended'], $figures['left'], $figures['cut'], $figures['seconds'], $figures['cost'] === null ? '' : sprintf(', cost %.4f%s', $figures['cost'], $figures['uncounted'] === 0 ? '' : " without {$figures['uncounted']} that were not counted"));
        foreach (array_slice($figures['failed'], 0, 10) as $failed) {
            $lines[] = "  {$failed['path']}: {$failed['reason']}";
        }

        return $lines;
    }

    private static function number(string $option, string $word): int
    {
        return ctype_digit($word) && strlen($word) < 10 ? (int) $word : throw InvalidValue::at($option, $word, 'a number');
    }
}
