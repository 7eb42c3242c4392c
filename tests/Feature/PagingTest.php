<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Actor;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Models\User;
use App\Objects\Objects;
use App\Work\Queue;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnState;
use Tests\TestCase;

/** Pages are read from either end, from an index, or around a place: put together they are the whole list, each entry once. */
final class PagingTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        [$this->ines, $this->mei] = [$this->member($this->project, Role::Manager, 'Ines'), $this->member($this->project, Role::Labeller, 'Mei')];
        $first = $this->items($this->project, 1)[0];
        // names in another order than ids
        $rows = array_map(fn (int $i): array => ['project_id' => $this->project->id, 'set_id' => $first->set_id, 'asset_id' => $first->asset_id, 'path' => sprintf('slope/q%03d.png', $i * 37 % 101)], range(1, 89));
        DB::table('items')->insert($rows);
        DB::table('layers')->insertUsing(['project_id', 'item_id', 'kind', 'name'], DB::table('items')->where('id', '>', $first->id)->selectRaw("project_id, id, 'agreed', 'agreed'"));
    }

    /** Marks on all items, many alike, a few of the items archived. */
    private function marks(): void
    {
        $random = new Randomizer(new Mt19937(3));
        foreach (Item::query()->orderBy('id')->get() as $i => $item) {
            if ($i % 9 === 0) {
                $item->update(['state' => ItemState::Archived, 'archived_at' => now()]);
            }
            for ($n = $random->getInt(0, 3); $n > 0; $n--) {
                // many alike, so that the order of equals counts; some not looked at yet
                $width = $random->getInt(0, 3) === 0 ? null : 10.0 * $random->getInt(1, 4);
                MarkRow::query()->create(['id' => $this->ulid(), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => DB::table('layers')->where('item_id', $item->id)->value('id'), 'layer' => 'agreed', 'source' => 'hand', 'class' => $random->getInt(0, 3) === 0 ? 'scab' : 'apple', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 40], 'answers' => [], 'flags' => [], 'revision' => 1, 'width' => $width, 'height' => $width === null ? null : 20.0, 'oddness' => $width === null ? null : (float) $random->getInt(0, 3), 'confidence' => $random->getInt(0, 2) === 0 ? null : $random->getInt(1, 4) / 4, 'author_id' => $random->getInt(0, 1) === 0 ? $this->mei->id : null, 'deleted_at' => $random->getInt(0, 5) === 0 ? now() : null]);
            }
        }
    }

    public function test_pages_of_a_sheet_put_together_are_the_whole_of_it_in_every_order(): void
    {
        $this->marks();
        $objects = app(Objects::class);
        $page = fn (array $in): array => $objects->page(new Actor($this->ines), $this->project, $in);
        $standing = MarkRow::query()->where('class', 'apple')->whereNull('deleted_at')->whereIn('item_id', Item::query()->whereNull('archived_at')->select('id'))->pluck('id')->sort()->values()->all();
        self::assertGreaterThan(40, count($standing));
        foreach (['item', 'oddness', 'size', 'aspect', 'time', 'author', 'confidence'] as $sort) {
            foreach (['asc', 'desc'] as $order) {
                $whole = array_column(array_column($page(['class' => 'apple', 'sort' => $sort, 'order' => $order, 'limit' => 200])['data'], 'mark'), 'id');
                self::assertSame($standing, collect($whole)->sort()->values()->all(), "{$sort} {$order}");
                foreach ([7, 10] as $limit) {
                    $together = [];
                    for ($offset = 0; $offset < count($whole) + $limit; $offset += $limit) {
                        $some = $page(['class' => 'apple', 'sort' => $sort, 'order' => $order, 'limit' => $limit, 'offset' => $offset]);
                        self::assertSame([count($whole), $offset], [$some['total'], $some['offset']]);
                        array_push($together, ...array_column(array_column($some['data'], 'mark'), 'id'));
                    }
                    self::assertSame($whole, $together, "{$sort} {$order}, {$limit} at a time");
                }
            }
        }
        // from a mark on, whatever became of those before it
        $whole = array_column(array_column($page(['sort' => 'item', 'limit' => 200])['data'], 'mark'), 'id');
        self::assertSame(array_slice($whole, 31, 20), array_column(array_column($page(['sort' => 'item', 'limit' => 20, 'after' => $whole[30]])['data'], 'mark'), 'id'));
    }

    /** Who reaches nothing, a few items, most or all of them is counted in three ways: each says the same as looking at every mark. */
    public function test_who_reaches_a_part_of_a_project_sees_and_counts_that_part(): void
    {
        $this->marks();
        DB::table('items')->where('path', 'like', '%7%')->update(['set_id' => $low = DB::table('sets')->insertGetId(['project_id' => $this->project->id, 'path' => 'low'])]);
        $rafe = $this->member($this->project, Role::Reviewer, 'Rafe');
        $present = Item::query()->whereNull('archived_at')->orderBy('id')->pluck('id')->all();
        foreach ([[], ['choose' => 'random', 'count' => 9], ['choose' => 'random', 'count' => 55], ['choose' => 'all']] as $more) {
            if ($more !== []) {
                $this->assign($this->project, $this->ines, $this->mei, $rafe, $more);
            }
            foreach ([$rafe, $this->mei] as $who) {
                // nobody has opened anything: what waits is the labeller's, and the reviewer's whatever its state
                $within = DB::table('turns')->where('stage', 'label')->pluck('item_id')->all();
                foreach ([['apple', null], ['scab', null], [null, 'low'], ['apple', 'low'], [null, null]] as [$class, $set]) {
                    $expected = MarkRow::query()->whereNull('deleted_at')->whereIn('item_id', $within)->when($class !== null, fn ($marks) => $marks->where('class', $class))
                        ->whereIn('item_id', Item::query()->whereNull('archived_at')->when($set !== null, fn ($items) => $items->where('set_id', $low))->select('id'))->pluck('id')->sort()->values()->all();
                    $page = app(Objects::class)->page(new Actor($who), $this->project, array_filter(['class' => $class, 'set' => $set]) + ['limit' => 200]);
                    self::assertSame([count($expected), $expected], [$page['total'], collect($page['data'])->pluck('mark.id')->sort()->values()->all()], "{$who->name}, ".count($within)." items, class {$class}, set {$set}");
                }
            }
        }
        self::assertCount(count($present), array_unique($within));
    }

    public function test_a_ribbon_shows_what_lies_around_an_item_and_says_its_place(): void
    {
        $this->assign($this->project, $this->ines, $this->mei, null);
        $other = $this->member($this->project, Role::Labeller, 'Otto');
        foreach (Turn::query()->with('item')->orderBy('id')->get() as $i => $turn) {
            // some are others', some her own, some archived
            match (true) {
                $i % 5 === 0 => $turn->update(['user_id' => $other->id, 'state' => TurnState::Submitted]),
                $i % 7 === 0 => $turn->update(['user_id' => $this->mei->id, 'state' => TurnState::Accepted]),
                $i % 11 === 0 => $turn->item->update(['archived_at' => now(), 'state' => ItemState::Archived]),
                default => null,
            };
        }
        $reachable = Turn::query()->whereIn('item_id', Item::query()->whereNull('archived_at')->select('id'))->where(fn ($query) => $query->where('user_id', $this->mei->id)->orWhere('state', TurnState::Waiting))->orderBy('item_id')->pluck('id')->all();
        $queue = app(Queue::class);
        $mei = new Actor($this->mei);
        foreach ([0, 3, 29, 30, 31, 50, count($reachable) - 1] as $place) {
            $around = $queue->around($mei, Turn::query()->findOrFail($reachable[$place]));
            self::assertSame(array_slice($reachable, max(0, $place - 30), min(30, $place) + 31), array_column($around['data'], 'turn'));
            self::assertSame([$place + 1, count($reachable)], [$around['place'], $around['total']]);
            $found = $queue->find($mei, Turn::query()->findOrFail($reachable[0]), (string) ($place + 1), null, 'name');
            self::assertContains([$reachable[$place], $place + 1], array_map(static fn (array $row): array => [$row['turn'], $row['place']], $found['data']));
        }
        // an item that is somebody else's by now is still in its own ribbon
        $gone = Turn::query()->where('user_id', $other->id)->orderBy('id')->skip(4)->firstOrFail();
        $around = $queue->around($mei, $gone);
        self::assertContains($gone->id, array_column($around['data'], 'turn'));
        self::assertSame(count($reachable) + 1, $around['total']);
        $found = $queue->find($mei, $gone, 'q05', null, 'name');
        self::assertSame(Turn::query()->whereIn('turns.id', $reachable)->join('items', 'items.id', '=', 'turns.item_id')->where('items.path', 'like', '%q05%')->orderBy('items.path')->pluck('turns.id')->all(), array_column($found['data'], 'turn'));
        self::assertSame(count($found['data']), array_sum($found['states']));
        self::assertSame([], $queue->find($mei, $gone, '%', null, 'name')['data']);
    }
}
