<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Items\FindItems;
use App\Models\PromptTrial;
use App\Prompts\PromptResults;
use App\Prompts\PromptTrials;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;

/** Trials of prompts on accepted texts: begun, looked at while they go on, held against each other, stopped, gone on with. */
final class PromptTrialController
{
    /** All but the list of its items, which may be long. */
    private const COLUMNS = ['id', 'project_id', 'prompt_version_id', 'state', 'done', 'total', 'error', 'created_at'];

    private const MOST = 30;

    public function __construct(private readonly PromptTrials $trials, private readonly PromptResults $results)
    {
    }

    public function index(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => PromptTrial::query()->select(self::COLUMNS)->where('project_id', Input::project($request)->id)->with(['version.prompt', 'version.asked'])->orderByDesc('id')->limit(self::MOST)->get()->map(self::shape(...))->all()]);
    }

    /** On texts that are looked for, or on those of another trial. */
    public function begin(Request $request, FindItems $find): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $version = PromptController::version($project, $in);
        $user = Input::actor($request)->user;
        if ($in->has('as')) {
            $other = PromptTrial::query()->where('project_id', $project->id)->with('project')->find($in->int('as', 1)) ?? throw InvalidValue::at('as', $in->raw('as'), 'a trial of this project');
            $trial = $this->trials->beginAs($other, $version, $user);
        } else {
            $items = $find($project, array_values($in->has('conditions') ? $in->strings('conditions') : []))->ids();
            $trial = $this->trials->begin($project, $version, $user, $items, $in->optionalInt('limit', 1, PromptTrials::MOST) ?? 100, $in->optionalInt('seed', 0, 2_147_483_647) ?? 1);
        }

        return new JsonResponse(self::shape($trial->load(['version.prompt', 'version.asked'])), 201);
    }

    /** Its figures and its texts; with `against` what it gained on another. */
    public function show(Request $request): JsonResponse
    {
        $trial = $this->one($request);
        $figures = $this->results->figures($trial);
        $against = $request->query('against');
        $gained = null;
        if ($against !== null) {
            $before = is_string($against) && ctype_digit($against) && strlen($against) < 19 ? PromptTrial::query()->select(self::COLUMNS)->where('project_id', $trial->project_id)->with(['version.prompt', 'version.asked'])->find((int) $against) : null;
            $gained = $this->results->against($trial, $before ?? throw InvalidValue::at('against', $against, 'a trial of this project'));
            $gained = ['trial' => self::shape($before)] + ['answers' => (object) $gained['answers']] + $gained;
        }

        // an empty map is an object all the same
        return new JsonResponse(self::shape($trial) + ['figures' => ['classes' => (object) $figures['classes'], 'answers' => (object) $figures['answers'], 'tags' => (object) $figures['tags']] + $figures, 'texts' => $this->results->texts($trial), 'against' => $gained]);
    }

    /** One of its texts, what is known beside what was said. */
    public function text(Request $request): JsonResponse
    {
        return new JsonResponse($this->results->text($this->one($request), Input::id($request, 'item')));
    }

    public function cancel(Request $request): JsonResponse
    {
        $this->trials->cancel($this->one($request));

        return new JsonResponse(self::shape($this->one($request)));
    }

    public function resume(Request $request): JsonResponse
    {
        $this->trials->resume($this->one($request));

        return new JsonResponse(self::shape($this->one($request)));
    }

    private function one(Request $request): PromptTrial
    {
        return PromptTrial::query()->select(self::COLUMNS)->where('project_id', Input::project($request)->id)->with(['version.prompt', 'version.asked'])->findOrFail(Input::id($request, 'trial'));
    }

    /** @return array<string, mixed> */
    private static function shape(PromptTrial $trial): array
    {
        return ['id' => $trial->id, 'version' => $trial->prompt_version_id, 'prompt' => $trial->version->prompt->name, 'number' => $trial->version->number, 'model' => $trial->version->asked?->name, 'state' => $trial->state, 'done' => $trial->done, 'total' => $trial->total, 'error' => $trial->error, 'at' => $trial->created_at?->toIso8601ZuluString()];
    }
}
