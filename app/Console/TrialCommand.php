<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\Models;
use App\Help\Trials;
use App\Models\Trial;
use Skeno\Core\InvalidValue;

final class TrialCommand extends SkenoCommand
{
    use AsksModels;

    protected $signature = 'skeno:trial {project : id or exact name} {--model= : its name} {--then= : what is done with each thing found: outline, or the name of a learned model of skeletons or looks} {--confidence=0.5 : from which on things count} {--classes= : theirs=key, with commas; what is called alike when nothing is said} {--tags= : likewise of tags} {--nodes= : theirs=class.node, with commas}
        {--set= : only items of this set} {--where=* : further conditions, as on Items} {--limit=100 : items at most} {--json}';

    protected $description = 'Try a model on accepted items: how good it is, where it is worst, what correcting it would cost';

    protected function work(): int
    {
        $project = $this->project();
        $models = app(Models::class);
        $model = $models->named($project, $this->word('model') ?? '');
        $limit = $this->word('limit', '100') ?? '';
        $trials = app(Trials::class);
        $then = $this->then($models, $project);
        $trial = $trials->begin($project, $model, null, $this->mapping($project, $models->knows($model, $then)), $this->confidence(), $this->wanted($project), $then, ctype_digit($limit) ? (int) $limit : throw InvalidValue::at('--limit', $limit, 'a number of items'), queued: false);
        try {
            $trials->work($trial->load(['project', 'asked.endpoint']));
        } catch (\Throwable $e) {
            // what nobody goes on with must not look as if somebody did
            Trial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
        $figures = $trials->figures($trial = $trial->refresh(), (float) $trial->wish['from']);
        $lines = [];
        foreach ($figures['classes'] as $class => $of) {
            $lines[] = sprintf('%s: %d there, %d found; %s', $class, $of['there'], $of['found'], implode(', ', array_map(static fn (string $key): string => "{$key} ".($of[$key] === null ? '–' : sprintf('%.3f (%.3f to %.3f)', $of[$key]['value'], $of[$key]['low'], $of[$key]['high'])), ['f1', 'precision', 'recall', 'ap50', 'ap', 'alike'])));
        }
        $cost = $figures['cost'];
        $lines[] = sprintf('On %d items: %d stay, %d to move, %d to drop, %d to draw: %d s instead of %d s by hand.', $trial->total, $cost['kept'], $cost['moved'], $cost['dropped'], $cost['drawn'], $cost['seconds'], $cost['by_hand']);
        $this->line($this->option('json') === true ? $this->json(['trial' => $trial->id, 'model' => $trial->model, 'items' => $trial->total] + $figures) : implode("\n", $lines));

        return $figures['failed'] === [] ? self::DONE : self::SOME_REFUSED;
    }
}
