<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\ChatModel;
use App\Prompts\ChatModels;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Skeno\Core\Prompt\Price;

/** The chat models of a project: connected by the owner of the installation, whose keys nobody sees again. */
final class ChatModelController
{
    public function __construct(private readonly ChatModels $models)
    {
    }

    public function index(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => ChatModel::query()->where('project_id', Input::project($request)->id)->with('endpoint')->orderBy('name')->get()->map(self::shape(...))->all()]);
    }

    /** Connects one under a name, or changes the one that has it; a key that is not given stays as long as the address does. */
    public function connect(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $price = $in->has('price') && $in->raw('price') !== null ? Price::fromFields($in->object('price')) : null;
        $key = $in->optionalString('key', 1000);
        $model = $this->models->connect(
            Input::project($request), $in->string('name', 100), $in->string('address', 250), $in->string('remote', 200), $key === '' ? null : $key, $price,
            $in->optionalString('path', 200) ?? ChatModels::PATH, $in->optionalInt('most_tokens', 1, 100_000) ?? ChatModels::TOKENS,
        );

        return new JsonResponse(self::shape($model), 201);
    }

    public function disconnect(Request $request): Response
    {
        $this->models->disconnect(ChatModel::query()->where('project_id', Input::project($request)->id)->findOrFail(Input::id($request, 'model')));

        return new Response('', 204);
    }

    /** @return array<string, mixed> without its key */
    private static function shape(ChatModel $model): array
    {
        return ['id' => $model->id, 'name' => $model->name, 'address' => $model->endpoint->address, 'path' => $model->path, 'remote' => $model->remote, 'has_key' => $model->secret !== null, 'price' => $model->price, 'most_tokens' => $model->most_tokens];
    }
}
