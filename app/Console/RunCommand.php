<?php

declare(strict_types=1);

namespace App\Console;

use App\Files\Views;
use App\Help\CallModel;
use App\Help\Models;
use App\Help\Runs;
use App\Items\FindItems;
use App\Models\Item;
use App\Models\Run;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;

final class RunCommand extends SkenoCommand
{
    protected $signature = 'skeno:run {project : id or exact name} {--model= : its name} {--confidence=0.5 : from which on things are suggested} {--classes= : theirs=key, with commas; what is called alike when nothing is said}
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
        $confidence = $this->word('confidence', '0.5') ?? '';
        $from = is_numeric($confidence) ? (float) $confidence : throw InvalidValue::at('--confidence', $confidence, '0 to 1');
        $classes = $this->classes() ?? Suggesting::alike($codebook, $model->card());
        $set = $this->word('set');
        $items = app(FindItems::class)($project, [...($set === null ? [] : ["set:{$set}"]), ...array_map(strval(...), (array) $this->option('where'))])->ids();
        $preview = $this->word('preview');
        if ($preview !== null) {
            return $this->preview($model, Suggesting::of($codebook, $model->card(), $classes, $from), array_slice($items, 0, ctype_digit($preview) && (int) $preview > 0 ? (int) $preview : throw InvalidValue::at('--preview', $preview, 'a number of items')));
        }
        $run = $runs->begin($project, $model, null, $classes, $from, [], $this->word('stays', 'beside') ?? '', $items, queued: false);
        Run::query()->whereKey($run->id)->update(['state' => 'working']);
        $runs->work($run->refresh()->load(['project', 'asked.endpoint']));
        $report = ($run = $run->refresh())->report;
        $this->line($this->option('json') === true
            ? $this->json(['run' => $run->id, 'model' => $model->name, 'state' => $run->state, 'items' => $run->total] + $report)
            : sprintf('Run %d: %d things on %d items; nothing on %d, left out %d, failed %d.', $run->id, $report['things'], $report['with'], $report['without'], $report['left'], $report['failed_count']));

        return ($report['failed_count'] ?? 0) > 0 ? self::SOME_REFUSED : self::DONE;
    }

    /** @param  list<int>  $items */
    private function preview(\App\Models\ModelRow $model, Suggesting $suggesting, array $items): int
    {
        $found = [];
        foreach (Item::query()->whereIn('id', $items)->with('asset')->orderBy('id')->get() as $item) {
            $asset = $item->asset;
            $things = app(CallModel::class)->find($model, fn (int $columns, int $rows): Colours => app(Views::class)->colours($asset, $item->places() === null ? null : 0, 0, 0, $asset->width, $asset->height, $columns, $rows), $asset->width, $asset->height)['things'];
            $marks = array_values(array_filter(array_map(static fn (Found $thing) => $suggesting->mark($thing, '00000000000000000000000000'), $things)));
            $found[] = ['item' => $item->path, 'found' => count($things), 'suggested' => array_map(static fn ($mark): array => ['class' => $mark->class, 'kind' => $mark->kind->value, 'confidence' => $mark->confidence, 'geometry' => $mark->geometry->toArray()], $marks)];
        }
        $this->line($this->option('json') === true ? $this->json(['preview' => $found]) : implode("\n", array_map(static fn (array $one): string => "{$one['item']}: ".count($one['suggested'])." of {$one['found']}", $found)));

        return self::DONE;
    }

    /** @return ?array<string, string> */
    private function classes(): ?array
    {
        $word = $this->word('classes');
        if ($word === null) {
            return null;
        }
        $classes = [];
        foreach (explode(',', $word) as $pair) {
            [$theirs, $key] = [...explode('=', $pair, 2), ''];
            $classes[trim($theirs)] = trim($key) === '' ? trim($theirs) : trim($key);
        }

        return $classes;
    }
}
