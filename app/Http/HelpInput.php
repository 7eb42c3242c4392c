<?php

declare(strict_types=1);

namespace App\Http;

use App\Help\Models;
use App\Models\ModelRow;
use App\Models\Project;
use Skeno\Core\Fields;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\InvalidValue;

/** What requests say of a model: which one, what comes then, which of its classes are which. */
final class HelpInput
{
    public function __construct(private readonly Models $models)
    {
    }

    /** @throws InvalidValue */
    public function model(Project $project, Fields $in): ModelRow
    {
        return ModelRow::query()->where('project_id', $project->id)->with('endpoint')->find($in->int('model', 1)) ?? throw InvalidValue::at('model', $in->raw('model'), 'a model of this project');
    }

    /** @throws InvalidValue */
    public function then(Project $project, Fields $in): string|ModelRow|null
    {
        return $this->models->then($project->id, $in->has('then') ? $in->raw('then') : null);
    }

    /** @throws InvalidValue */
    public static function mapping(Fields $in): Mapping
    {
        return Mapping::fromArray(array_intersect_key($in->all(), array_flip(['classes', 'nodes', 'tags'])), '');
    }
}
