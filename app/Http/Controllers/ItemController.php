<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Chores\Chores;
use App\Files\AssetStore;
use App\Files\ClipStore;
use App\Files\TextStore;
use App\Files\Views;
use App\Http\Input;
use App\Http\ShownItem;
use App\Intake\DeriveFiles;
use App\Intake\TakeFacts;
use App\Intake\TakeFrames;
use App\Items\FindItems;
use App\Items\FoundItems;
use App\Items\ItemShape;
use App\Items\ItemStates;
use App\Items\Keys;
use App\Items\Layers;
use App\Items\MarkShape;
use App\Models\Chore;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Set;
use App\Models\Turn;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Imaging\TilePyramid;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\FactsTable;
use Skeno\Core\People\Ability;
use Skeno\Core\Text\WordBreaks;
use Skeno\Core\Workflow\TurnState;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** Items of a project: lists, one with its marks, and its pictures. */
final class ItemController
{
    /** Seconds in which the tiles of one picture are asked for only once. */
    private const TILES_ASKED = 120;

    private const PAGE = 100;

    /** Bytes of a table of facts. */
    private const MOST_FACTS = 8_000_000;

    public function __construct(private readonly FindItems $find)
    {
    }

    /** Items by stacked conditions (`f[]`, see FindItems), a page at a time, with what each condition leaves over. */
    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $found = $this->found($project, $request->query->all());
        $ids = $found->ids();
        $offset = filter_var($request->query('offset', '0'), FILTER_VALIDATE_INT);
        if ($offset === false || $offset < 0) {
            throw InvalidValue::at('offset', $request->query('offset'), 'a whole number from 0');
        }
        $page = array_slice($ids, $offset, self::PAGE);
        $items = Item::query()->whereIn('id', $page)->with(['asset', 'set'])->get()->keyBy('id');

        return new JsonResponse([
            'data' => array_values(array_map(static fn (int $id): array => ItemShape::of($items[$id]), array_filter($page, static fn (int $id): bool => isset($items[$id])))),
            'total' => count($ids),
            'all' => $found->all(),
            'steps' => $found->steps,
            'next' => $offset + self::PAGE < count($ids) ? $offset + self::PAGE : null,
        ]);
    }

    /** Every item of the project in a letter or two: what the field map is drawn from. */
    public function map(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $found = $this->found($project, $request->query->all());
        /** @var array<int, string> $sets */
        $sets = Set::query()->where('project_id', $project->id)->pluck('path', 'id')->all();

        return new JsonResponse(['sets' => $found->map($sets), 'steps' => $found->steps, 'total' => count($found->ids()), 'all' => $found->all()]);
    }

    /** Takes items out of queues and counts, or brings them back: `{archived, items}` by id, or `{archived, filter}` as the list is filtered. */
    public function archive(Request $request, Chores $chores): JsonResponse
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
        if ($in->has('filter')) {
            $ids = $this->found($project, $in->map('filter'))->ids();
        }

        $archived = $in->bool('archived', true);
        if (count($ids) > Chores::AT_ONCE) {
            $chore = $chores->begin($project, Input::actor($request)->user, 'archive', ['items' => $ids, 'archived' => $archived], count($ids));

            return new JsonResponse(['changed' => 0, 'chore' => $chore->id], 202);
        }

        return new JsonResponse(['changed' => ItemStates::archive($project, $ids, $archived), 'chore' => null]);
    }

    /**
     * Items by `f` (a list of conditions), `state`, `set` and `name`, in the order of `sort` and `order`.
     *
     * @param  array<array-key, mixed>  $filter
     */
    private function found(Project $project, array $filter): FoundItems
    {
        $conditions = [];
        foreach (['state', 'set', 'name'] as $word) {
            $value = $filter[$word] ?? null;
            if (is_string($value) && ($value !== '' || $word === 'set')) {
                $conditions[] = "{$word}:{$value}";
            }
        }
        $stacked = $filter['f'] ?? [];
        foreach (is_array($stacked) ? $stacked : [$stacked] as $i => $condition) {
            $conditions[] = is_string($condition) ? $condition : throw InvalidValue::at("f[{$i}]", $condition, 'a condition such as state:accepted');
        }
        [$sort, $order] = [$filter['sort'] ?? 'name', $filter['order'] ?? 'asc'];

        return ($this->find)($project, $conditions, is_string($sort) ? $sort : '', is_string($order) ? $order : '');
    }

    /** Facts about pictures: the body is a CSV table, see FactsTable. */
    public function facts(Request $request, TakeFacts $take, Chores $chores): JsonResponse
    {
        $csv = $request->getContent();
        if ($csv === '' || strlen($csv) > self::MOST_FACTS) {
            throw InvalidValue::at('facts', strlen($csv).' bytes', 'a CSV table of at most '.(self::MOST_FACTS / 1_000_000).' MB');
        }
        $file = tempnam(storage_path('tmp'), 'facts');
        if ($file === false) {
            throw Refusal::because('disk_full', 'the table could not be stored: is the disk full?');
        }
        try {
            if (file_put_contents($file, $csv) !== strlen($csv)) {
                throw Refusal::because('disk_full', 'the table could not be stored: is the disk full?');
            }
            $lines = TakeFacts::lines($csv);
            if ($lines <= Chores::AT_ONCE) {
                return new JsonResponse($take(Input::project($request), $file) + ['chore' => null]);
            }
            // what is no table is said at once, whatever its length
            foreach (FactsTable::read($file) as $row) {
                break;
            }
            $chore = DB::transaction(static function () use ($request, $chores, $file, $lines): Chore {
                $chore = $chores->begin(Input::project($request), Input::actor($request)->user, 'facts', [], $lines);
                if (! rename($file, Chores::table($chore))) {
                    throw Refusal::because('disk_full', 'the table could not be stored: is the disk full?');
                }

                return $chore;
            });

            return new JsonResponse(['taken' => 0, 'facts' => [], 'skipped_count' => 0, 'skipped' => [], 'chore' => $chore->id], 202);
        } finally {
            @unlink($file);
        }
    }

    /** Frames of a clip become pictures: `{frames: every:N | list:0,5,9 | stretch:10-40 | different:N, project?}`, by a job. */
    public function frames(Request $request, Chores $chores): JsonResponse
    {
        $item = $this->item($request);
        $in = Input::body($request);
        $choice = $in->string('frames', 4000);
        $frames = TakeFrames::count($item, $choice);
        $into = Input::project($request);
        if ($in->has('project')) {
            $other = Project::query()->find($in->int('project', 1));
            if ($other === null || ! Input::actor($request)->may(Ability::ManageProject, $other)) {
                throw InvalidValue::at('project', $in->raw('project'), 'a project you manage');
            }
            $into = $other;
        }
        $chore = $chores->begin(Input::project($request), Input::actor($request)->user, 'frames', ['item' => $item->id, 'frames' => $choice, 'into' => $into->id], $frames);

        return new JsonResponse(['frames' => $frames, 'chore' => $chore->id], 202);
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
        $layer = Layers::agreed($item->id);
        $marks = MarkRow::query()->where('layer_id', $layer->id)->whereNull('deleted_at')->orderBy('id')->get();
        $said = $layer->said()->toArray();

        $turn = Turn::query()->where('item_id', $item->id)->where('beside', false)->max('id');
        $parked = Turn::query()->where('item_id', $item->id)->where('followed', false)->where('state', TurnState::Parked)->with('user')->first();

        return new JsonResponse(ItemShape::of($item) + ['facts' => (object) $item->facts, 'turn' => is_numeric($turn) ? (int) $turn : null, 'parked' => $parked === null ? null : ['turn' => $parked->id, 'by' => $parked->user->name ?? '', 'reason' => $parked->parked_because], 'answers' => (object) ($said['answers'] ?? []), 'tags' => $said['tags'] ?? [], 'stretches' => $said['stretches'] ?? [], 'marks' => array_values($marks->map(MarkShape::of(...))->all()), 'keys' => $item->places() === null ? [] : Keys::shapes($layer->id)]);
    }

    /** A tile of a large picture. One that is not made yet is made by the worker; until then the copy for the screen stands for it. */
    public function tile(Request $request, AssetStore $store): BinaryFileResponse
    {
        $item = ShownItem::of($request);
        [$level, $column, $row] = array_map(static fn (string $of): int => Input::id($request, $of), ['level', 'column', 'row']);
        if (TilePyramid::of($item->asset->width, $item->asset->height)?->has($level, $column, $row) !== true) {
            throw new NotFoundHttpException('there is no such tile');
        }
        $file = $store->tilesOf($item->asset).'/'.TilePyramid::name($level, $column, $row);
        if (! is_file($file)) {
            // a stage asks for several at once, and again and again until they are there
            if (Cache::add("tiles-{$item->asset->id}", true, self::TILES_ASKED)) {
                dispatch(new DeriveFiles([$item->id]));
            }
            throw Refusal::because('tiles_not_made', 'the tiles of this picture are being made');
        }

        return new BinaryFileResponse($file, 200, ['Content-Type' => 'image/jpeg', 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    /** A text for the bench: what it says, and its tokens as Tokens has them. */
    public function text(Request $request, TextStore $texts): JsonResponse
    {
        $item = ShownItem::of($request);
        if ($item->kind !== 'text') {
            throw new NotFoundHttpException('this item is no text');
        }
        $text = $texts->of($item->asset);

        return new JsonResponse(['body' => $text->body] + WordBreaks::of($text)->toArray(), 200, ['Cache-Control' => 'private, max-age=31536000, immutable'], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
    }

    /** A file of a clip for the bench; of the large ones a range at a time. */
    public function clip(Request $request, ClipStore $clips): BinaryFileResponse
    {
        $item = ShownItem::of($request);
        $name = (string) $request->route('file');
        if ($item->kind !== 'clip' || ! array_key_exists($name, ClipStore::FILES)) {
            throw new NotFoundHttpException('there is no such file of this item');
        }
        try {
            $file = $clips->file($item->asset, $name);
        } catch (Refusal $e) {
            if (Cache::add("clip-{$item->asset->id}", true, self::TILES_ASKED)) {
                dispatch(new DeriveFiles([$item->id]));
            }
            throw $e;
        }
        if (! is_file($file)) {
            throw new NotFoundHttpException('this clip has no such file');
        }

        return new BinaryFileResponse($file, 200, ['Content-Type' => ClipStore::FILES[$name], 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    public function picture(Request $request, Views $views): BinaryFileResponse
    {
        $item = ShownItem::of($request);
        $size = $request->query('size', 'screen');
        if (! is_string($size) || ! array_key_exists($size, AssetStore::SIDES)) {
            throw InvalidValue::at('size', $size, implode(', ', array_keys(AssetStore::SIDES)));
        }
        $places = $item->places();
        $place = $request->query('place');
        if ($place !== null && ($places === null || ! is_string($place) || ! ctype_digit($place) || (int) $place >= $places)) {
            throw InvalidValue::at('place', $place, $places === null ? 'nothing: this item has no axis' : 'a place from 0 to '.($places - 1));
        }
        $file = $views->file($item->asset, $size, $place === null ? null : (int) $place);
        $response = new BinaryFileResponse($file, 200, [
            'Content-Type' => match (true) {
                str_ends_with($file, '.jpg') => 'image/jpeg',
                str_ends_with($file, '.svg') => 'image/svg+xml',
                default => 'image/'.$item->asset->format,
            },
            'Cache-Control' => 'private, max-age=31536000, immutable',
        ]);
        $response->setEtag($item->asset->sha256.$size.(is_string($place) ? $place : ''));
        $response->isNotModified($request);

        return $response;
    }

    private function item(Request $request): Item
    {
        return Item::query()->where('project_id', Input::project($request)->id)->with(['asset', 'set'])->findOrFail(Input::id($request, 'item'));
    }
}
