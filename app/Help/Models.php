<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\ModelRow;
use App\Models\Project;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Card;
use Skeno\Core\Inference\Knows;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\LearnedKind;

/** The models of a project. */
final class Models
{
    public function __construct(private readonly Endpoints $endpoints)
    {
    }

    /**
     * Connects a model, or gives one that is there another card.
     *
     * @param  string  $remote  what it is called where it lives: name, or name@version
     *
     * @throws InvalidValue
     */
    public function connect(Project $project, string $address, string $remote, mixed $card): ModelRow
    {
        $read = Card::fromArray($card);
        if (preg_match('/^[\w.\- ]{1,100}(@[\w.\-]{1,50})?$/D', $remote) !== 1) {
            throw InvalidValue::at('remote', $remote, 'the name of a model where it lives, perhaps with @ and its version');
        }
        $endpoint = $this->endpoints->listed($address);
        if (ModelRow::query()->where('project_id', $project->id)->where('name', $read->name)->where('kind', '!=', 'connected')->exists()) {
            throw InvalidValue::at('card.name', $read->name, 'another name: a learned model of this project is called so');
        }

        return DB::transaction(static fn (): ModelRow => ModelRow::query()->updateOrCreate(['project_id' => $project->id, 'name' => $read->name], ['endpoint_id' => $endpoint->id, 'remote' => $remote, 'card' => $card])->setRelation('endpoint', $endpoint));
    }

    /**
     * What is done with each thing a model has found, as a wish has it: nothing, AskModel::OUTLINE, or the id of a learned model.
     *
     * @throws InvalidValue when it is not one of these
     */
    public function then(int $project, mixed $wish): string|ModelRow|null
    {
        if ($wish === null || $wish === AskModel::OUTLINE) {
            return $wish;
        }
        $model = is_int($wish) ? ModelRow::query()->where('project_id', $project)->find($wish) : null;
        if ($model === null || ! in_array($model->learns(), [LearnedKind::Skeletons, LearnedKind::Looks], true)) {
            throw InvalidValue::at('then', $wish, 'outline, or a learned model of skeletons or of looks of this project');
        }

        return $model;
    }

    /** What a model knows by name, with what comes then. */
    public function knows(ModelRow $model, string|ModelRow|null $then): Knows
    {
        return $then instanceof ModelRow ? $model->knows()->then($then->knows()) : $model->knows();
    }

    /** @throws InvalidValue */
    public function named(Project $project, string $name): ModelRow
    {
        return ModelRow::query()->where('project_id', $project->id)->where('name', $name)->with('endpoint')->first() ?? throw InvalidValue::at('model', $name, 'a model of this project: '.(ModelRow::query()->where('project_id', $project->id)->orderBy('name')->pluck('name')->implode(', ') ?: 'there is none yet'));
    }
}
