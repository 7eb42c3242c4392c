<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Files\Views;
use App\Help\CallModel;
use App\Help\Endpoints;
use App\Help\Models;
use App\Help\Runs;
use App\Http\Input;
use App\Items\FindItems;
use App\Items\ItemShape;
use App\Models\Endpoint;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;

/** Models of a project: connected, tried on one item, run over many. */
final class HelpController
{
    /** Seconds somebody waits for a model. */
    private const PATIENCE = 10;

    public function __construct(private readonly Models $models, private readonly Runs $runs, private readonly CallModel $call)
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
            if (ModelRow::query()->where('endpoint_id', $endpoint->id)->exists()) {
                throw Refusal::because('address_in_use', 'models are connected to this address: take those away first');
            }
            $endpoint->delete();
        });

        return new JsonResponse(['data' => self::addresses()]);
    }

    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $models = ModelRow::query()->where('project_id', $project->id)->with('endpoint')->orderBy('name')->get();

        return new JsonResponse(['data' => $models->map(static fn (ModelRow $model): array => self::shape($model, $project))->values()->all(), 'addresses' => self::addresses()]);
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
        if (Run::query()->where('model_id', $model->id)->whereIn('state', ['waiting', 'working', 'paused'])->exists()) {
            throw Refusal::because('model_at_work', 'a run of this model is going on: stop it first');
        }
        $model->delete();

        return new Response('', 204);
    }

    /** What it says of itself, and what of its card that does not fit. */
    public function check(Request $request): JsonResponse
    {
        $model = $this->one($request);
        $said = $this->call->described($model->endpoint ?? throw Refusal::because('model_not_reached', 'it has no address any more'), $model->remote, self::PATIENCE);

        return new JsonResponse($said + ['lacks' => array_values(array_diff($model->card()->wanted(), array_column($said['outputs'], 'name')))]);
    }

    /** What it would suggest on one item, from the least confidence on; nothing is stored. */
    public function try(Request $request, Views $views): JsonResponse
    {
        $project = Input::project($request);
        $model = $this->one($request);
        $in = Input::body($request);
        $item = Item::query()->where('project_id', $project->id)->with(['asset', 'set'])->find($in->int('item', 1)) ?? throw InvalidValue::at('item', $in->raw('item'), 'an item of this project');
        $suggesting = Suggesting::of($project->codebookVersion()->codebook(), $model->card(), self::classes($in), 0.0);
        $asset = $item->asset;
        $found = $this->call->find($model, static fn (int $columns, int $rows): Colours => $views->colours($asset, $item->places() === null ? null : 0, 0, 0, $asset->width, $asset->height, $columns, $rows), $asset->width, $asset->height, self::PATIENCE);
        $things = [];
        foreach ($found['things'] as $thing) {
            $mark = $suggesting->mark($thing, '00000000000000000000000000');
            if ($mark !== null) {
                $things[] = ['class' => $mark->class, 'kind' => $mark->kind->value, 'geometry' => (object) $mark->geometry->toArray(), 'confidence' => $mark->confidence];
            }
        }

        return new JsonResponse(['item' => ItemShape::of($item), 'things' => $things, 'found' => count($found['things'])]);
    }

    public function runs(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => Run::query()->where('project_id', Input::project($request)->id)->whereNull('import_id')->select(self::COLUMNS)->orderByDesc('id')->limit(30)->get()->map(self::runShape(...))->all()]);
    }

    public function begin(Request $request, FindItems $find): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $model = ModelRow::query()->where('project_id', $project->id)->find($in->int('model', 1)) ?? throw InvalidValue::at('model', $in->raw('model'), 'a model of this project');
        $own = [];
        foreach ($in->has('own') ? $in->object('own')->all() : [] as $class => $least) {
            $own[(string) $class] = is_int($least) || is_float($least) ? (float) $least : throw InvalidValue::at("own.{$class}", $least, '0 to 1');
        }
        $items = $find($project, array_values($in->has('conditions') ? $in->strings('conditions') : []))->ids();
        $run = $this->runs->begin($project, $model, Input::actor($request)->user, self::classes($in), $in->number('from'), $own, $in->string('stays', 20), $items);

        return new JsonResponse(self::runShape($run), 201);
    }

    public function pause(Request $request): JsonResponse
    {
        $this->runs->pause($run = $this->run($request));

        return new JsonResponse(self::runShape($run->refresh()));
    }

    public function resume(Request $request): JsonResponse
    {
        $this->runs->resume($run = $this->run($request));

        return new JsonResponse(self::runShape($run->refresh()));
    }

    public function cancel(Request $request): JsonResponse
    {
        $this->runs->cancel($run = $this->run($request));

        return new JsonResponse(self::runShape($run->refresh()));
    }

    /** All that nobody has confirmed goes. */
    public function takeBack(Request $request): JsonResponse
    {
        $gone = $this->runs->takeBack($run = $this->run($request));

        return new JsonResponse(['gone' => $gone] + self::runShape($run->refresh()));
    }

    private const COLUMNS = ['id', 'project_id', 'model', 'model_id', 'wish', 'state', 'done', 'total', 'report', 'error', 'created_at'];

    private function one(Request $request): ModelRow
    {
        return ModelRow::query()->where('project_id', Input::project($request)->id)->with('endpoint')->findOrFail(Input::id($request, 'model'));
    }

    private function run(Request $request): Run
    {
        return Run::query()->where('project_id', Input::project($request)->id)->whereNull('import_id')->select(self::COLUMNS)->findOrFail(Input::id($request, 'run'));
    }

    /** @return array<string, string> */
    private static function classes(Fields $in): array
    {
        $classes = [];
        foreach ($in->object('classes')->all() as $theirs => $key) {
            $classes[(string) $theirs] = is_string($key) ? $key : throw InvalidValue::at("classes.{$theirs}", $key, 'the key of a class');
        }

        return $classes;
    }

    /** @return list<array{id: int, address: string, private: bool}> */
    private static function addresses(): array
    {
        return array_values(Endpoint::query()->orderBy('address')->get()->map(static fn (Endpoint $one): array => ['id' => $one->id, 'address' => $one->address, 'private' => $one->private])->all());
    }

    /** @return array<string, mixed> */
    private static function shape(ModelRow $model, Project $project): array
    {
        $card = $model->card();

        return ['id' => $model->id, 'name' => $model->name, 'about' => $card->about, 'address' => $model->endpoint?->address, 'remote' => $model->remote, 'classes' => $card->classes, 'nodes' => $card->nodes, 'alike' => (object) Suggesting::alike($project->codebookVersion()->codebook(), $card), 'card' => (object) $model->card];
    }

    /** @return array<string, mixed> */
    private static function runShape(Run $run): array
    {
        $report = $run->report + ['things' => 0, 'with' => 0, 'without' => 0, 'left' => 0, 'failed' => [], 'failed_count' => 0];

        return ['id' => $run->id, 'model' => $run->model, 'state' => $run->state, 'done' => $run->done, 'total' => $run->total, 'from' => (float) ($run->wish['from'] ?? 0), 'stays' => (string) ($run->wish['stays'] ?? ''), 'report' => $report, 'error' => $run->error, 'at' => $run->created_at?->toIso8601ZuluString()];
    }
}
