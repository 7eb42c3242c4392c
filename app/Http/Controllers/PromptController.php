<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Items\FindItems;
use App\Models\ChatModel;
use App\Models\Project;
use App\Models\Prompt;
use App\Models\PromptVersion;
use App\Models\User;
use App\Prompts\PromptRuns;
use App\Prompts\Prompts;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;

/** The prompts of a project, version by version; run over texts. */
final class PromptController
{
    public function __construct(private readonly Prompts $prompts)
    {
    }

    /** All of them, and all a prompt can ask for here. */
    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $prompts = Prompt::query()->where('project_id', $project->id)->orderBy('name')->get();
        $versions = PromptVersion::query()->whereIn('prompt_id', $prompts->pluck('id'))->with('asked')->orderByDesc('number')->get()->groupBy('prompt_id');
        $writers = User::query()->whereIn('id', $versions->flatten(1)->pluck('created_by')->filter()->unique())->pluck('name', 'id');
        $task = Task::all($project->codebookVersion()->codebook());

        return new JsonResponse([
            'data' => $prompts->map(static fn (Prompt $prompt): array => ['id' => $prompt->id, 'name' => $prompt->name, 'versions' => $versions->get($prompt->id, new Collection)->map(static fn (PromptVersion $version): array => self::shape($version, $writers->get($version->created_by)))->values()->all()])->all(),
            'task' => $task->toArray(),
        ]);
    }

    /** Saves a version; the same as the last is no other. */
    public function save(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $model = ChatModel::query()->where('project_id', $project->id)->find($in->int('model', 1)) ?? throw InvalidValue::at('model', $in->raw('model'), 'a chat model of this project');
        $user = Input::actor($request)->user;
        $version = $this->prompts->save($project, $in->string('name', 100), $model, self::task($in, $project), self::words($in), $user);

        return new JsonResponse(self::shape($version->load('asked'), $user->name), 201);
    }

    /** What a model is told before the text, with all that is filled in; of no words those it might begin with. */
    public function preview(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $codebook = $project->codebookVersion()->codebook();
        $task = self::task($in, $project);
        $template = $in->has('words') ? self::words($in) : Template::begun($task);

        return new JsonResponse(['words' => $template->words, 'filled' => $template->filled($codebook, $task)]);
    }

    /** Runs a version over texts that are not accepted; what it says becomes suggestions. */
    public function run(Request $request, FindItems $find, PromptRuns $runs): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $version = self::version($project, $in);
        $items = $find($project, array_values($in->has('conditions') ? $in->strings('conditions') : []))->ids();

        return new JsonResponse(RunController::shape($runs->begin($project, $version, Input::actor($request)->user, $in->string('stays', 20), $items)), 201);
    }

    /** @throws InvalidValue */
    public static function version(Project $project, Fields $in): PromptVersion
    {
        return PromptVersion::query()->whereHas('prompt', static fn ($prompt) => $prompt->where('project_id', $project->id))->with(['prompt', 'asked.endpoint'])->find($in->int('version', 1)) ?? throw InvalidValue::at('version', $in->raw('version'), 'a version of a prompt of this project');
    }

    /** @throws InvalidValue */
    private static function task(Fields $in, Project $project): Task
    {
        return Task::fromFields($in->object('task'), $project->codebookVersion()->codebook());
    }

    private static function words(Fields $in): Template
    {
        return Template::of($in->string('words', 4 * Template::MOST), 'words');
    }

    /** @return array<string, mixed> */
    private static function shape(PromptVersion $version, ?string $by): array
    {
        return ['id' => $version->id, 'prompt' => $version->prompt_id, 'number' => $version->number, 'model' => $version->chat_model_id, 'model_name' => $version->asked?->name, 'task' => $version->task, 'words' => $version->words, 'by' => $by, 'at' => $version->created_at?->toIso8601ZuluString()];
    }
}
