<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\ModelRow;
use App\Models\Project;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Card;
use Skeno\Core\InvalidValue;

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

        return DB::transaction(static fn (): ModelRow => ModelRow::query()->updateOrCreate(['project_id' => $project->id, 'name' => $read->name], ['endpoint_id' => $endpoint->id, 'remote' => $remote, 'card' => $card])->setRelation('endpoint', $endpoint));
    }

    /** @throws InvalidValue */
    public function named(Project $project, string $name): ModelRow
    {
        return ModelRow::query()->where('project_id', $project->id)->where('name', $name)->with('endpoint')->first() ?? throw InvalidValue::at('model', $name, 'a model of this project: '.(ModelRow::query()->where('project_id', $project->id)->orderBy('name')->pluck('name')->implode(', ') ?: 'there is none yet'));
    }
}
