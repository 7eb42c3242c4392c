<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Help\Learning;
use App\Help\Outcomes;
use App\Http\Input;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use App\Models\Run;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\LearnedKind;

/** Models a project learns from its accepted labels, and their versions. */
final class LearnController
{
    public function __construct(private readonly Learning $learning)
    {
    }

    public function begin(Request $request): JsonResponse
    {
        $word = Input::body($request)->string('kind', 20);
        $kind = LearnedKind::tryFrom($word) ?? throw InvalidValue::at('kind', $word, implode(', ', array_column(LearnedKind::cases(), 'value')));
        $project = Input::project($request);
        $version = $this->learning->begin($project, $kind);

        return new JsonResponse(HelpController::shape($version->model->setRelation('endpoint', null), $project), 201);
    }

    public function cancel(Request $request): JsonResponse
    {
        [$model, $version] = $this->one($request);
        $this->learning->cancel($version);

        return new JsonResponse(HelpController::shape($model, Input::project($request)));
    }

    /** Takes a version into use. */
    public function use(Request $request): JsonResponse
    {
        [$model, $version] = $this->one($request);
        $this->learning->use($model, $version);

        return new JsonResponse(HelpController::shape($model->refresh(), Input::project($request)));
    }

    /** What people have made of what a version has suggested, over all its runs. */
    public function outcome(Request $request, Outcomes $outcomes): JsonResponse
    {
        [$model, $version] = $this->one($request);
        $runs = Run::query()->where('project_id', $model->project_id)->where('model_id', $model->id)->where('version_id', $version->id)->pluck('id');

        return new JsonResponse($outcomes->of(array_values($runs->map(static fn (mixed $id): int => (int) $id)->all())));
    }

    /** @return array<string, mixed> */
    public static function shape(ModelVersion $version, ModelRow $model): array
    {
        return ['id' => $version->id, 'number' => $version->number, 'state' => $version->state, 'done' => $version->done / 1000, 'accepted' => $version->accepted, 'learned' => (object) $version->learned, 'figures' => (object) $version->figures, 'better' => $version->better, 'in_use' => $model->version_id === $version->id, 'error' => $version->error, 'at' => $version->created_at?->toIso8601ZuluString()];
    }

    /** @return array{ModelRow, ModelVersion} */
    private function one(Request $request): array
    {
        $model = ModelRow::query()->where('project_id', Input::project($request)->id)->with('endpoint')->findOrFail(Input::id($request, 'model'));

        return [$model, ModelVersion::query()->select(ModelVersion::COLUMNS)->where('model_id', $model->id)->findOrFail(Input::id($request, 'version'))];
    }
}
