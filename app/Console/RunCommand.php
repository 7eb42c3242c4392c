<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\AskModel;
use App\Help\Models;
use App\Help\Runs;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Run;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;

final class RunCommand extends SkenoCommand
{
    use AsksModels;

    protected $signature = 'skeno:run {project : id or exact name} {--model= : its name} {--then= : what is done with each thing found: outline, or the name of a learned model of skeletons or looks} {--confidence=0.5 : from which on things are suggested} {--classes= : theirs=key, with commas; what is called alike when nothing is said} {--tags= : likewise of tags} {--nodes= : theirs=class.node, with commas}
        {--set= : only items of this set} {--where=* : further conditions, as on Items} {--stays=beside : what is there: beside, replace (earlier suggestions), without (only items without marks)}
        {--preview= : ask about so many items and store nothing} {--take-back= : id of a run: takes its suggestions away} {--json}';

    protected $description = 'Ask a model about items: what it finds becomes suggestions';

    protected function work(): int
    {
        $project = $this->project();
        $runs = app(Runs::class);
        $back = $this->word('take-back');
        if ($back !== null) {
            $run = Run::query()->where('project_id', $project->id)->find((int) $back) ?? throw InvalidValue::at('--take-back', $back, 'the id of a run of this project');
            $gone = $runs->takeBack($run);
            $this->line($this->option('json') === true ? $this->json(['run' => $run->id, 'taken_back' => $gone]) : "{$gone} suggestions are taken back.");

            return self::DONE;
        }
        $model = app(Models::class)->named($project, $this->word('model') ?? '');
        $codebook = $project->codebookVersion()->codebook();
        $from = $this->confidence();
        $models = app(Models::class);
        $then = $this->then($models, $project);
        $mapping = $this->mapping($project, $models->knows($model, $then));
        $items = $this->wanted($project);
        $preview = $this->word('preview');
        if ($preview !== null) {
            return $this->preview($model, $then, $mapping, Suggesting::of($codebook, $models->knows($model, $then), $mapping, $from), array_slice($items, 0, ctype_digit($preview) && (int) $preview > 0 ? (int) $preview : throw InvalidValue::at('--preview', $preview, 'a number of items')));
        }
        $run = $runs->begin($project, $model, null, $mapping, $from, [], $this->word('stays', 'beside') ?? '', $items, $then, queued: false);
        Run::query()->whereKey($run->id)->update(['state' => 'working']);
        $runs->work($run->refresh()->load(['project', 'asked.endpoint']));
        $report = ($run = $run->refresh())->report;
        $this->line($this->option('json') === true
            ? $this->json(['run' => $run->id, 'model' => $model->name, 'state' => $run->state, 'items' => $run->total] + $report)
            : sprintf('Run %d: %d things and %d words on %d items; nothing on %d, left out %d, failed %d.', $run->id, $report['things'], $report['said'], $report['with'], $report['without'], $report['left'], $report['failed_count']));

        return ($report['failed_count'] ?? 0) > 0 ? self::SOME_REFUSED : self::DONE;
    }

    /** @param  list<int>  $items */
    private function preview(ModelRow $model, string|ModelRow|null $then, Mapping $mapping, Suggesting $suggesting, array $items): int
    {
        $found = [];
        foreach (Item::query()->whereIn('id', $items)->with('asset')->orderBy('id')->get() as $item) {
            $looked = app(AskModel::class)->find($model, $item->asset, $then, $mapping);
            $things = $looked->things;
            $marks = array_values(array_filter(array_map(static fn (Found $thing) => $suggesting->mark($thing, '00000000000000000000000000'), $things)));
            $found[] = ['item' => $item->path, 'found' => count($things), 'suggested' => array_map(static fn ($mark): array => ['class' => $mark->class, 'kind' => $mark->kind->value, 'confidence' => $mark->confidence, 'geometry' => $mark->geometry->toArray()], $marks), 'said' => array_map(static fn (Saying $one): array => $one->toArray(), $suggesting->sayings($looked->told))];
        }
        $this->line($this->option('json') === true ? $this->json(['preview' => $found]) : implode("\n", array_map(static fn (array $one): string => "{$one['item']}: ".count($one['suggested'])." of {$one['found']}", $found)));

        return self::DONE;
    }
}
