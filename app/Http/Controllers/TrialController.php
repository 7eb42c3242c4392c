<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Help\Trials;
use App\Http\HelpInput;
use App\Http\Input;
use App\Items\FindItems;
use App\Models\Trial;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;

/** Trials of models on accepted items. */
final class TrialController
{
    /** All but the list of its items, which may be long. */
    private const COLUMNS = ['id', 'project_id', 'model', 'model_id', 'version_id', 'wish', 'state', 'done', 'total', 'error', 'created_at'];

    public function __construct(private readonly Trials $trials, private readonly HelpInput $help)
    {
    }

    public function index(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => Trial::query()->select(self::COLUMNS)->where('project_id', Input::project($request)->id)->orderByDesc('id')->limit(20)->get()->map(self::shape(...))->all()]);
    }

    public function begin(Request $request, FindItems $find): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $items = $find($project, array_values($in->has('conditions') ? $in->strings('conditions') : []))->ids();
        $trial = $this->trials->begin($project, $this->help->model($project, $in), Input::actor($request)->user, HelpInput::mapping($in), $in->number('from'), $items, $this->help->then($project, $in), $in->optionalInt('most', 1, Trials::MOST) ?? 100);

        return new JsonResponse(self::shape($trial), 201);
    }

    /** Its figures for a confidence, the worst items first. */
    public function show(Request $request): JsonResponse
    {
        $trial = Trial::query()->where('project_id', Input::project($request)->id)->findOrFail(Input::id($request, 'trial'));
        $from = $request->query('from');
        if ($from !== null && ! (is_numeric($from) && (float) $from >= 0 && (float) $from <= 1)) {
            throw InvalidValue::at('from', $from, '0 to 1');
        }

        return new JsonResponse(self::shape($trial) + ['figures' => self::objects($this->trials->figures($trial, $from === null ? (float) $trial->wish['from'] : (float) $from))]);
    }

    public function cancel(Request $request): JsonResponse
    {
        $trial = Trial::query()->select(self::COLUMNS)->where('project_id', Input::project($request)->id)->findOrFail(Input::id($request, 'trial'));
        $this->trials->cancel($trial);

        return new JsonResponse(self::shape($trial->refresh()));
    }

    /**
     * @param  array<string, mixed>  $figures
     * @return array<string, mixed>
     */
    private static function objects(array $figures): array
    {
        // an empty map is an object all the same
        return ['classes' => (object) $figures['classes'], 'words' => (object) $figures['words']] + $figures;
    }

    /** @return array<string, mixed> */
    private static function shape(Trial $trial): array
    {
        return ['id' => $trial->id, 'model' => $trial->model, 'model_id' => $trial->model_id, 'version' => $trial->version_id, 'then' => $trial->wish['then'] ?? null, 'from' => (float) ($trial->wish['from'] ?? 0), 'state' => $trial->state, 'done' => $trial->done, 'total' => $trial->total, 'error' => $trial->error, 'at' => $trial->created_at?->toIso8601ZuluString()];
    }
}
