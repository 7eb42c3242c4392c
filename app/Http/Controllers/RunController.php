<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Help\Outcomes;
use App\Help\Runs;
use App\Http\HelpInput;
use App\Http\Input;
use App\Items\FindItems;
use App\Models\Run;
use App\Prompts\PromptRuns;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;

/** Runs of models over many items: begun, paused, gone on with, stopped, taken back. */
final class RunController
{
    /** All but the list of its items, which may be long. */
    private const COLUMNS = ['id', 'project_id', 'model', 'model_id', 'version_id', 'prompt_version_id', 'wish', 'state', 'done', 'total', 'report', 'error', 'created_at'];

    public function __construct(private readonly Runs $runs, private readonly HelpInput $help)
    {
    }

    public function index(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => Run::query()->where('project_id', Input::project($request)->id)->whereNull('import_id')->select(self::COLUMNS)->with('prompt.asked')->orderByDesc('id')->limit(30)->get()->map(self::shape(...))->all()]);
    }

    public function begin(Request $request, FindItems $find): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $own = [];
        foreach ($in->has('own') ? $in->object('own')->all() : [] as $class => $least) {
            $own[(string) $class] = is_int($least) || is_float($least) ? (float) $least : throw InvalidValue::at("own.{$class}", $least, '0 to 1');
        }
        $items = $find($project, array_values($in->has('conditions') ? $in->strings('conditions') : []))->ids();
        $run = $this->runs->begin($project, $this->help->model($project, $in), Input::actor($request)->user, HelpInput::mapping($in), $in->number('from'), $own, $in->string('stays', 20), $items, $this->help->then($project, $in));

        return new JsonResponse(self::shape($run), 201);
    }

    public function pause(Request $request): JsonResponse
    {
        $this->runs->pause($run = $this->run($request));

        return new JsonResponse(self::shape($run->refresh()));
    }

    public function resume(Request $request): JsonResponse
    {
        $this->runs->resume($run = $this->run($request));

        return new JsonResponse(self::shape($run->refresh()));
    }

    public function cancel(Request $request): JsonResponse
    {
        $this->runs->cancel($run = $this->run($request));

        return new JsonResponse(self::shape($run->refresh()));
    }

    /** What people have made of what it suggested. */
    public function outcome(Request $request, Outcomes $outcomes): JsonResponse
    {
        return new JsonResponse($outcomes->of([$this->run($request)->id]));
    }

    /** All that nobody has confirmed goes. */
    public function takeBack(Request $request): JsonResponse
    {
        $gone = $this->runs->takeBack($run = $this->run($request));

        return new JsonResponse(['gone' => $gone] + self::shape($run->refresh()));
    }

    private function run(Request $request): Run
    {
        return Run::query()->where('project_id', Input::project($request)->id)->whereNull('import_id')->select(self::COLUMNS)->with('prompt.asked')->findOrFail(Input::id($request, 'run'));
    }

    /** @return array<string, mixed> */
    public static function shape(Run $run): array
    {
        $report = $run->report + ['things' => 0, 'said' => 0, 'with' => 0, 'without' => 0, 'left' => 0, 'failed' => [], 'failed_count' => 0];
        // of a prompt what more there is to tell
        $prompt = $run->prompt_version_id === null ? null : ['version' => $run->prompt_version_id, 'cost' => PromptRuns::cost($run, $run->prompt?->asked?->price())] + ($report['sums'] ?? []) + ['mended' => 0, 'left' => 0, 'cut' => 0, 'tokens_in' => 0, 'tokens_out' => 0, 'uncounted' => 0];

        return ['id' => $run->id, 'model' => $run->model, 'version' => $run->version_id, 'then' => $run->wish['then'] ?? null, 'state' => $run->state, 'done' => $run->done, 'total' => $run->total, 'from' => (float) ($run->wish['from'] ?? 0), 'stays' => (string) ($run->wish['stays'] ?? ''), 'report' => array_diff_key($report, ['sums' => 0]), 'prompt' => $prompt, 'error' => $run->error, 'at' => $run->created_at?->toIso8601ZuluString()];
    }
}
