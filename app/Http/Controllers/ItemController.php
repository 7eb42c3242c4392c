<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Actor;
use App\Http\Input;
use App\Intake\AssetStore;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Set;
use App\Models\Turn;
use App\Work\ItemShape;
use App\Work\ItemStates;
use App\Work\Layer;
use App\Work\MarkShape;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\People\Ability;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnKey;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** Items of a project: lists, one with its marks, and its pictures. */
final class ItemController
{
    private const PAGE = 100;

    /** Items in byte order of their paths, filtered by set, state and part of the name, a page at a time. */
    public function index(Request $request): JsonResponse
    {
        $query = $this->found(Input::project($request), $request->query->all())->with(['asset', 'set'])->orderBy('path');
        $total = (clone $query)->count();
        $after = $request->query('after');
        if (is_string($after) && $after !== '') {
            $query->where('path', '>', $after);
        }
        $items = $query->limit(self::PAGE + 1)->get();
        $page = $items->take(self::PAGE);

        return new JsonResponse([
            'data' => array_values($page->map(ItemShape::of(...))->all()),
            'total' => $total,
            'next' => $items->count() > self::PAGE ? $page->last()?->path : null,
        ]);
    }

    /** Takes items out of queues and counts, or brings them back: `{archived, items}` by id, or `{archived, filter}` as the list is filtered. */
    public function archive(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        if ($in->has('items') === $in->has('filter')) {
            throw InvalidValue::at('items', null, 'either items or a filter');
        }
        $ids = [];
        foreach ($in->list('items') as $i => $id) {
            $ids[] = is_int($id) ? $id : throw InvalidValue::at("items[{$i}]", $id, 'the id of an item');
        }
        $query = $in->has('filter') ? $this->found($project, $in->map('filter')) : Item::query()->where('project_id', $project->id)->whereIn('id', $ids);

        return new JsonResponse(['changed' => ItemStates::archive($query, $in->bool('archived', true))]);
    }

    /**
     * Items by state, set and part of the name; without a state those that are not archived.
     *
     * @param  array<array-key, mixed>  $filter
     * @return Builder<Item>
     */
    private function found(Project $project, array $filter): Builder
    {
        $query = Item::query()->where('project_id', $project->id);
        $state = $filter['state'] ?? null;
        is_string($state) && $state !== ''
            ? $query->where('state', ItemState::tryFrom($state) ?? throw InvalidValue::at('state', $state, implode(', ', array_column(ItemState::cases(), 'value'))))
            : $query->whereNull('archived_at');
        $set = $filter['set'] ?? null;
        if (is_string($set)) {
            $query->whereIn('set_id', Set::query()->where('project_id', $project->id)->where('path', $set)->select('id'));
        }
        $name = $filter['name'] ?? null;
        if (is_string($name) && $name !== '') {
            $query->where('path', 'like', '%'.addcslashes($name, '%_\\').'%');
        }

        return $query;
    }

    public function sets(Request $request): JsonResponse
    {
        $found = DB::table('sets')->leftJoin('items', static fn ($join) => $join->on('items.set_id', '=', 'sets.id')->whereNull('items.archived_at'))->where('sets.project_id', Input::project($request)->id)->groupBy('sets.path')->orderBy('sets.path')
            ->selectRaw("sets.path as path, count(items.id) as items, sum(case when items.state = 'new' then 1 else 0 end) as new")->get();

        return new JsonResponse(['data' => $found->map(static fn (object $row): array => ['path' => (string) $row->path, 'items' => (int) $row->items, 'new' => (int) $row->new])->all()]);
    }

    public function show(Request $request): JsonResponse
    {
        $item = $this->item($request);
        $marks = MarkRow::query()->where('item_id', $item->id)->where('layer', TurnKey::AGREED)->where('kind', '!=', ItemAnswers::KIND)->whereNull('deleted_at')->orderBy('id')->get();
        $said = Layer::said($item->id, TurnKey::AGREED)->toArray();

        return new JsonResponse(ItemShape::of($item) + ['answers' => (object) ($said['answers'] ?? []), 'tags' => $said['tags'] ?? [], 'marks' => array_values($marks->map(MarkShape::of(...))->all())]);
    }

    public function picture(Request $request, AssetStore $store): BinaryFileResponse
    {
        $item = $this->item($request);
        $actor = Input::actor($request);
        // labellers see the pictures of the work that concerns them, not the whole project
        if (! $actor->may(Ability::SeeItems, Input::project($request)) && ! $this->concerns($actor, $item)) {
            throw new NotFoundHttpException('there is no such item');
        }
        $size = $request->query('size', 'screen');
        if (! is_string($size) || ! array_key_exists($size, AssetStore::SIDES)) {
            throw InvalidValue::at('size', $size, implode(', ', array_keys(AssetStore::SIDES)));
        }
        $file = $store->derived($item->asset, $size);
        $response = new BinaryFileResponse($file, 200, [
            'Content-Type' => str_ends_with($file, '.jpg') ? 'image/jpeg' : 'image/'.$item->asset->format,
            'Cache-Control' => 'private, max-age=31536000, immutable',
        ]);
        $response->setEtag($item->asset->hash.$size);
        $response->isNotModified($request);

        return $response;
    }

    private function concerns(Actor $actor, Item $item): bool
    {
        return Turn::query()->where('item_id', $item->id)->where(static fn ($query) => $query
            ->where('user_id', $actor->user->id)
            ->orWhereIn('assignment_id', DB::table('assignment_people')->where('user_id', $actor->user->id)->select('assignment_id')))->exists();
    }

    private function item(Request $request): Item
    {
        return Item::query()->where('project_id', Input::project($request)->id)->with(['asset', 'set'])->findOrFail(Input::id($request, 'item'));
    }
}
