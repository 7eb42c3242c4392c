<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;
use Skeno\Core\Workflow\ItemState;

/**
 * The first stage of a project's routes: a model that is asked about every new picture before it is given to a labeller. Of a learned one it is
 * always the version in use. An item waits for a run that is alive and for nothing else, so that no model that fails can keep work back.
 */
final class ModelStage
{
    /** Items of a run. */
    private const MOST = 5000;

    /** States of items nobody has worked on. */
    private const NEW = [ItemState::New->value, ItemState::Waiting->value];

    public function __construct(private readonly Models $models, private readonly Runs $runs)
    {
    }

    /**
     * @throws InvalidValue
     */
    public function set(Project $project, ModelRow $model, Mapping $mapping, float $from, string|ModelRow|null $then): void
    {
        Suggesting::of($project->codebookVersion()->codebook(), $this->models->knows($model, $then), $mapping, $from);
        DB::transaction(static function () use ($project, $model, $mapping, $from, $then): void {
            $project->forceFill(['model_stage' => ['model' => $model->id] + $mapping->toArray() + ['from' => $from, 'then' => $then instanceof ModelRow ? $then->id : $then]])->save();
            // what nobody has labelled yet is new to it
            DB::table('items')->where('project_id', $project->id)->whereIn('state', self::NEW)->whereNotNull('helped_at')->update(['helped_at' => null]);
        });
        $this->begin($project);
    }

    public function clear(Project $project): void
    {
        DB::transaction(static function () use ($project): void {
            $project->forceFill(['model_stage' => null])->save();
            DB::table('items')->where('project_id', $project->id)->whereNotNull('helping_run_id')->update(['helping_run_id' => null]);
        });
    }

    /** Asks the model about what is new. @return ?Run null when nothing is, or the stage can't work any more */
    public function begin(Project $project): ?Run
    {
        $stage = $project->model_stage;
        $model = $stage === null ? null : ModelRow::query()->where('project_id', $project->id)->find($stage['model']);
        if ($stage === null || $model === null) {
            return null;
        }

        return DB::transaction(function () use ($project, $model, $stage): ?Run {
            $new = Item::query()->where('project_id', $project->id)->where('kind', 'picture')->whereIn('state', self::NEW)->whereNull('archived_at')->whereNull('helped_at')->whereNull('helping_run_id')->where('mark_count', 0)->orderBy('id')->limit(self::MOST)->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();
            if ($new === []) {
                return null;
            }
            try {
                $run = $this->runs->begin($project, $model, null, Mapping::fromArray($stage), (float) $stage['from'], [], 'beside', $new, $this->models->then($project->id, $stage['then']));
            } catch (InvalidValue) {
                // the codebook or the model has changed since: people go on without it, and trouble() says why
                return null;
            }
            foreach (array_chunk($new, 500) as $some) {
                DB::table('items')->whereIn('id', $some)->update(['helping_run_id' => $run->id]);
            }

            return $run;
        });
    }

    /** Why it can't work any more; null: it can. */
    public function trouble(Project $project): ?string
    {
        $stage = $project->model_stage;
        if ($stage === null) {
            return null;
        }
        $model = ModelRow::query()->where('project_id', $project->id)->find($stage['model']);
        if ($model === null) {
            return 'its model is not there any more';
        }
        try {
            Suggesting::of($project->codebookVersion()->codebook(), $this->models->knows($model, $this->models->then($project->id, $stage['then'])), Mapping::fromArray($stage), (float) $stage['from']);
        } catch (InvalidValue $e) {
            return $e->getMessage();
        }

        return null;
    }

    /** All projects that have such a stage. @return int runs begun */
    public function beginAll(): int
    {
        $begun = 0;
        foreach (Project::query()->whereNotNull('model_stage')->get() as $project) {
            $begun += $this->begin($project) === null ? 0 : 1;
        }

        return $begun;
    }
}
