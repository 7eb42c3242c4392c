<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Help\AskModel;
use App\Help\CallModel;
use App\Help\Endpoints;
use App\Help\Models;
use App\Help\ModelStage;
use App\Http\HelpInput;
use App\Http\Input;
use App\Items\ItemShape;
use App\Models\ChatModel;
use App\Models\Endpoint;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use App\Models\Project;
use App\Models\Run;
use App\Models\Trial;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;

/** Models of a project: connected, asked what they are, tried on one item. */
final class HelpController
{
    /** Seconds somebody waits for a model. */
    private const PATIENCE = 10;

    public function __construct(private readonly Models $models, private readonly CallModel $call, private readonly AskModel $ask, private readonly HelpInput $help)
    {
    }

    public function endpoints(): JsonResponse
    {
        return new JsonResponse(['data' => self::addresses()]);
    }

    public function allow(Request $request, Endpoints $endpoints): JsonResponse
    {
        $in = Input::body($request);
        $endpoints->allow($in->string('address', 250), $in->bool('private'));

        return new JsonResponse(['data' => self::addresses()]);
    }

    /** An address no model is connected to any more. */
    public function disallow(Request $request): JsonResponse
    {
        $endpoint = Endpoint::query()->findOrFail(Input::id($request, 'endpoint'));
        DB::transaction(static function () use ($endpoint): void {
            if (ModelRow::query()->where('endpoint_id', $endpoint->id)->exists() || ChatModel::query()->where('endpoint_id', $endpoint->id)->exists()) {
                throw Refusal::because('address_in_use', 'models are connected to this address: take those away first');
            }
            $endpoint->delete();
        });

        return new JsonResponse(['data' => self::addresses()]);
    }

    public function index(Request $request, ModelStage $stage): JsonResponse
    {
        $project = Input::project($request);
        $models = ModelRow::query()->where('project_id', $project->id)->with('endpoint')->orderBy('name')->get();

        return new JsonResponse(['data' => $models->map(static fn (ModelRow $model): array => self::shape($model, $project))->values()->all(), 'addresses' => self::addresses(), 'stage' => self::stageShape($project), 'stage_trouble' => $stage->trouble($project)]);
    }

    public function connect(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $project = Input::project($request);
        $card = $in->object('card')->all();

        return new JsonResponse(self::shape($this->models->connect($project, $in->string('address', 250), $in->string('remote', 200), $card), $project), 201);
    }

    public function disconnect(Request $request): Response
    {
        $model = $this->one($request);
        // decided and done at once: a run that begins meanwhile finds it or does not
        DB::transaction(static function () use ($model): void {
            if (Run::query()->where('model_id', $model->id)->whereIn('state', ['waiting', 'working', 'paused'])->exists() || Trial::query()->where('model_id', $model->id)->whereIn('state', ['waiting', 'working'])->exists()) {
                throw Refusal::because('model_at_work', 'a run or a trial of this model is going on: stop it first');
            }
            $model->delete();
        });

        return new Response('', 204);
    }

    /** Every new picture is asked of it before a labeller sees it. */
    public function stage(Request $request, ModelStage $stage): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $stage->set($project, $this->help->model($project, $in), HelpInput::mapping($in), $in->number('from'), $this->help->then($project, $in));

        return new JsonResponse(['stage' => self::stageShape($project)]);
    }

    public function unstage(Request $request, ModelStage $stage): Response
    {
        $stage->clear(Input::project($request));

        return new Response('', 204);
    }

    /** What it says of itself, and what of its card that does not fit. */
    public function check(Request $request): JsonResponse
    {
        $model = $this->one($request);
        if ($model->learns() !== null) {
            throw Refusal::because('model_learned', "{$model->name} was learned here: there is nobody to ask");
        }
        $said = $this->call->described($model->endpoint ?? throw Refusal::because('model_not_reached', 'it has no address any more'), $model->remote, self::PATIENCE);

        return new JsonResponse($said + ['lacks' => array_values(array_diff($model->card()->wanted(), array_column($said['outputs'], 'name')))]);
    }

    /** What it would suggest on one item, from the least confidence on; nothing is stored. */
    public function try(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $model = $this->one($request);
        $in = Input::body($request);
        $item = Item::query()->where('project_id', $project->id)->with(['asset', 'set'])->find($in->int('item', 1)) ?? throw InvalidValue::at('item', $in->raw('item'), 'an item of this project');
        $then = $this->help->then($project, $in);
        $mapping = HelpInput::mapping($in);
        $suggesting = Suggesting::of($project->codebookVersion()->codebook(), $this->models->knows($model, $then), $mapping, 0.0);
        $found = $this->ask->find($model, $item->asset, $then, $mapping, null, self::PATIENCE);
        $things = [];
        foreach ($found->things as $thing) {
            $mark = $suggesting->mark($thing, '00000000000000000000000000');
            if ($mark !== null) {
                $things[] = ['class' => $mark->class, 'kind' => $mark->kind->value, 'geometry' => (object) $mark->geometry->toArray(), 'answers' => (object) array_map(static fn ($answer): array => $answer->toArray(), $mark->answers), 'confidence' => $mark->confidence];
            }
        }

        return new JsonResponse(['item' => ItemShape::of($item), 'things' => $things, 'words' => array_map(static fn (Saying $one): array => $one->toArray(), $suggesting->sayings($found->told)), 'found' => count($found->things)]);
    }

    private function one(Request $request): ModelRow
    {
        return ModelRow::query()->where('project_id', Input::project($request)->id)->with('endpoint')->findOrFail(Input::id($request, 'model'));
    }

    /** @return array<string, mixed>|null */
    private static function stageShape(Project $project): ?array
    {
        $stage = $project->model_stage;

        return $stage === null ? null : self::mappingShape(Mapping::fromArray($stage)) + $stage;
    }

    /** @return array{classes: object, nodes: object, tags: object} */
    private static function mappingShape(Mapping $mapping): array
    {
        // an empty map is an object all the same
        return ['classes' => (object) $mapping->classes, 'nodes' => (object) array_map(static fn (array $nodes): object => (object) $nodes, $mapping->nodes), 'tags' => (object) $mapping->tags];
    }

    /** @return list<array{id: int, address: string, private: bool}> */
    private static function addresses(): array
    {
        return array_values(Endpoint::query()->orderBy('address')->get()->map(static fn (Endpoint $one): array => ['id' => $one->id, 'address' => $one->address, 'private' => $one->private])->all());
    }

    /** @return array<string, mixed> */
    public static function shape(ModelRow $model, Project $project): array
    {
        $knows = $model->knows();
        $alike = Mapping::alike($project->codebookVersion()->codebook(), $knows);
        $learned = $model->learns() === null ? [] : ['versions' => ModelVersion::query()->select(ModelVersion::COLUMNS)->where('model_id', $model->id)->orderByDesc('number')->limit(20)->get()->map(static fn (ModelVersion $version): array => LearnController::shape($version, $model))->values()->all()];

        return ['id' => $model->id, 'name' => $model->name, 'kind' => $model->kind, 'about' => $model->learns() === null ? $model->card()->about : '', 'address' => $model->endpoint?->address, 'remote' => $model->remote, 'classes' => $knows->classes, 'nodes' => $knows->nodes, 'tags' => $knows->tags, 'questions' => $knows->questions, 'alike' => self::mappingShape($alike), 'card' => (object) $model->card, 'version' => $model->version_id] + $learned + ['versions' => []];
    }
}
