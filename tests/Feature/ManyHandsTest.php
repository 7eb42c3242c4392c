<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\ItemStates;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Turn;
use App\Models\User;
use App\Work\Moves;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\DataProvider;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\People\Role;
use Skeno\Core\Workflow\Lease;

/**
 * A team that does whatever comes to its mind, in any order, also what it may not: after every step nothing is lost, held twice or counted
 * wrongly, and what was refused has changed nothing.
 */
final class ManyHandsTest extends TeamTestCase
{
    private Randomizer $random;

    private User $una;

    private int $ids = 0;

    /** @var list<string> what was done, for the message of a failure */
    private array $told = [];

    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 6) as $seed) {
            yield "seed {$seed}" => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function test_whatever_a_team_does_in_whatever_order_nothing_is_lost_or_held_twice(int $seed): void
    {
        $this->random = new Randomizer(new Mt19937($seed));
        $this->una = $this->member($this->project, Role::Reviewer, 'Una');
        $this->items($this->project, 6);
        $this->handOut();
        // what is done most often comes more than once
        $doings = ['label', 'label', 'label', 'draw', 'draw', 'draw', 'draw', 'change', 'remove', 'submit', 'submit', 'submit', 'submit', 'review', 'review', 'decide', 'decide', 'decide', 'decide',
            'handOut', 'handOut', 'giveBack', 'park', 'putBack', 'pass', 'lapse', 'takeBack', 'beside', 'archive', 'leave', 'trespass'];
        $done = [];
        for ($step = 0; $step < 160; $step++) {
            $doing = $this->pick($doings);
            $marks = $this->marks();
            $accepted = $this->accepted();
            $answer = $this->{$doing}();
            if ($answer === null) {
                continue;
            }
            $status = $answer->getStatusCode();
            $this->told[] = "{$doing} {$status} ".(json_decode((string) $answer->getContent(), true)['code'] ?? '');
            self::assertContains($status, [200, 201, 204, 403, 404, 409, 422], $this->story());
            if ($status >= 400) {
                self::assertSame($marks, $this->marks(), $this->story());
            } else {
                $done[$doing] = ($done[$doing] ?? 0) + 1;
            }
            // what is accepted changes by being decided on or corrected beside the turns, never by somebody's drawing
            if (in_array($doing, ['label', 'draw', 'change', 'remove', 'submit', 'review', 'giveBack', 'park', 'putBack', 'pass', 'lapse', 'handOut', 'leave', 'trespass'], true)) {
                self::assertSame($accepted, array_intersect_key($this->accepted(), $accepted), $this->story());
            }
            $this->mustHold();
        }
        self::assertGreaterThan(8, count($done), 'too little came of it: '.json_encode($done));
    }

    /** Counted, so that a seed tells the same story each time. */
    protected function ulid(): string
    {
        return sprintf('01%024d', ++$this->ids);
    }

    private function mustHold(): void
    {
        $story = $this->story();
        // the state of an item is what its turns say
        $states = DB::table('items')->pluck('state', 'id')->all();
        ItemStates::refresh(array_keys($states));
        self::assertSame($states, DB::table('items')->pluck('state', 'id')->all(), $story);
        // who holds something has a lease on it, and nobody else has
        self::assertSame(0, DB::table('turns')->whereRaw("(state = 'open') is not (leased_until is not null)")->count(), $story);
        self::assertSame(0, DB::table('turns')->where('state', 'open')->whereNull('user_id')->count(), $story);
        // of the rounds of an item's pass at a station one is the last
        self::assertSame([], DB::table('turns')->where('followed', false)->where('stage', 'label')->groupBy('item_id', 'assignment_id', 'pass')->havingRaw('count(*) > 1')->pluck('item_id')->all(), $story);
        // blind passes of one item are different people's
        self::assertSame([], DB::table('turns')->where('followed', false)->where('stage', 'label')->whereNotNull('user_id')->groupBy('item_id', 'assignment_id', 'user_id')->havingRaw('count(*) > 1')->pluck('item_id')->all(), $story);
        // nobody decides on their own work
        self::assertSame([], DB::table('turns as d')->join('turns as w', static fn ($join) => $join->on('w.item_id', '=', 'd.item_id')->on('w.assignment_id', '=', 'd.assignment_id')->on('w.round', '=', 'd.round')->on('w.user_id', '=', 'd.user_id'))
            ->where('w.stage', 'label')->where('d.stage', 'review')->whereIn('d.state', ['open', 'accepted'])->pluck('d.id')->all(), $story);
        // kept counts are a recount
        $counted = DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('marks.layer', 'agreed')->whereNull('marks.deleted_at')->groupBy('items.state', 'marks.class')->orderBy('items.state')->orderBy('marks.class')->selectRaw('items.state, marks.class, count(*) as n')->get()->map(static fn (object $row): array => (array) $row)->all();
        $kept = DB::table('mark_counts')->groupBy('state', 'class')->havingRaw('sum(marks) > 0')->orderBy('state')->orderBy('class')->selectRaw('state, class, sum(marks) as n')->get()->map(static fn (object $row): array => (array) $row)->all();
        self::assertEquals($counted, $kept, $story);
        foreach (DB::table('layers')->get() as $layer) {
            self::assertSame(DB::table('marks')->where('layer_id', $layer->id)->whereNull('deleted_at')->count(), (int) $layer->mark_count, "layer {$layer->name}: {$story}");
        }
        self::assertSame([], DB::table('items')->join('layers', 'layers.item_id', '=', 'items.id')->where('layers.name', 'agreed')->whereColumn('items.mark_count', '!=', 'layers.mark_count')->pluck('items.id')->all(), $story);
        // a mark that was drawn is there, or its going is in the history
        self::assertSame([], DB::table('marks')->whereNotNull('deleted_at')->whereNotExists(static fn ($gone) => $gone->from('mark_history')->whereColumn('mark_history.mark_id', 'marks.id')->where('action', 'delete'))->pluck('id')->all(), $story);
    }

    private function story(): string
    {
        return implode("\n", array_slice($this->told, -25));
    }

    /** @return array<string, string> */
    private function marks(): array
    {
        return DB::table('marks')->orderBy('id')->get(['id', 'revision', 'class', 'geometry', 'deleted_at', 'layer_id'])->mapWithKeys(static fn (object $mark): array => [$mark->id => json_encode($mark)])->all();
    }

    /** What a release of accepted items would have, by item. @return array<int, string> */
    private function accepted(): array
    {
        $of = [];
        foreach (DB::table('items')->where('state', 'accepted')->orderBy('id')->pluck('id') as $item) {
            $of[$item] = (string) json_encode(DB::table('marks')->where('item_id', $item)->where('layer', 'agreed')->whereNull('deleted_at')->orderBy('id')->get(['id', 'class', 'geometry']));
        }

        return $of;
    }

    /**
     * @template T
     *
     * @param  list<T>  $of
     * @return T
     */
    private function pick(array $of): mixed
    {
        return $of[$this->random->getInt(0, count($of) - 1)];
    }

    private function often(int $percent): bool
    {
        return $this->random->getInt(1, 100) <= $percent;
    }

    private function anybody(): User
    {
        return $this->pick([$this->ines, $this->tobias, $this->una, $this->mei, $this->ravi]);
    }

    private function labeller(): User
    {
        return $this->pick([$this->mei, $this->ravi]);
    }

    /** @param  list<string>  $states */
    private function turn(array $states, string $stage): ?Turn
    {
        $found = Turn::query()->with('user')->where('followed', false)->whereIn('state', $states)->where('stage', $stage)->orderBy('id')->get()->all();

        return $found === [] ? null : $this->pick(array_values($found));
    }

    private function at(Turn $turn): string
    {
        return "{$this->base}/turns/{$turn->id}";
    }

    private function handOut(): TestResponse
    {
        $two = $this->often(35);
        $again = $this->pick([null, 'on_top', 'blind']);

        return $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => $two ? [$this->mei->id, $this->ravi->id] : [$this->labeller()->id], 'reviewers' => $this->pick([[$this->tobias->id], [$this->tobias->id, $this->una->id], [$this->una->id]]),
            'overlap' => $two && $this->often(50) ? 2 : 1, 'choose' => 'random', 'count' => $this->random->getInt(1, 4), 'seed' => $this->random->getInt(1, 99)] + ($again === null ? [] : ['pool' => 'all', 'again' => $again]));
    }

    private function label(): TestResponse
    {
        return $this->api($this->labeller(), 'post', "{$this->base}/next", ['preload' => $this->often(30)]);
    }

    private function draw(): ?TestResponse
    {
        $turn = $this->turn(['open'], $this->often(85) ? 'label' : 'review');

        return $turn === null ? null : $this->api($turn->user, 'post', "{$this->at($turn)}/edits", ['edits' => [$this->create($this->ulid(), $this->random->getInt(0, 50), $this->random->getInt(0, 40), 20, 20)]]);
    }

    private function change(): ?TestResponse
    {
        return $this->touch('change');
    }

    private function remove(): ?TestResponse
    {
        return $this->touch('delete');
    }

    /** On a mark of the turn's layer, or of any: then it has to be refused. */
    private function touch(string $action): ?TestResponse
    {
        $turn = $this->turn(['open'], 'label');
        $marks = $turn === null ? [] : MarkRow::query()->when($this->often(80), static fn ($of) => $of->where('layer_id', $turn->layer_id))->orderBy('id')->get()->all();
        if ($turn === null || $marks === []) {
            return null;
        }
        $mark = $this->pick(array_values($marks));
        $edit = ['id' => $this->ulid(), 'action' => $action, 'mark' => $mark->id, 'base' => $this->often(80) ? $mark->revision : 1];

        return $this->api($turn->user, 'post', "{$this->at($turn)}/edits", ['edits' => [$edit + ($action === 'change' ? ['data' => $this->create($mark->id, $this->random->getInt(0, 50), 5)['data']] : [])]]);
    }

    private function submit(): ?TestResponse
    {
        $turn = $this->turn(['open'], 'label');

        return $turn === null ? null : $this->api($turn->user, 'post', "{$this->at($turn)}/submit", ['nothing' => $this->often(90) === MarkRow::query()->where('layer_id', $turn->layer_id)->whereNull('deleted_at')->doesntExist(), 'anyway' => $this->often(80)]);
    }

    private function review(): TestResponse
    {
        return $this->api($this->pick([$this->tobias, $this->una, $this->ines]), 'post', "{$this->base}/next", ['purpose' => 'review', 'preload' => $this->often(20)]);
    }

    private function decide(): ?TestResponse
    {
        $turn = $this->turn(['open'], 'review');

        return $turn === null ? null : $this->api($turn->user, 'post', "{$this->at($turn)}/decision", ['decision' => $this->pick(['accept', 'accept', 'return']), 'reason' => 'look again']);
    }

    private function giveBack(): ?TestResponse
    {
        $turn = $this->turn(['open'], $this->pick(['label', 'review']));

        return $turn === null ? null : $this->api($turn->user, 'post', "{$this->at($turn)}/give-back", []);
    }

    private function park(): ?TestResponse
    {
        $turn = $this->turn(['open'], 'label');

        return $turn === null ? null : $this->api($turn->user, 'post', "{$this->at($turn)}/park", ['reason' => 'too dark']);
    }

    private function putBack(): ?TestResponse
    {
        $turn = $this->turn(['parked', 'open'], 'label');

        return $turn === null ? null : $this->api($this->ines, 'post', "{$this->at($turn)}/put-back", []);
    }

    private function pass(): ?TestResponse
    {
        $turn = $this->turn(['waiting', 'open', 'parked', 'returned', 'submitted'], $this->pick(['label', 'label', 'review']));

        return $turn === null ? null : $this->api($this->ines, 'post', "{$this->at($turn)}/pass", ['user' => $this->pick([null, $this->mei->id, $this->ravi->id, $this->una->id])]);
    }

    private function lapse(): ?TestResponse
    {
        $this->travel(Lease::SECONDS + 60)->seconds();
        Moves::giveBackExpired();
        $this->told[] = 'leases ran out';

        return null;
    }

    private function takeBack(): ?TestResponse
    {
        $turn = $this->turn(['accepted'], 'review');

        return $turn === null ? null : $this->api($this->pick([$this->ines, $turn->user ?? $this->ines, $this->una]), 'post', "{$this->at($turn)}/take-back", []);
    }

    private function beside(): ?TestResponse
    {
        $marks = MarkRow::query()->where('layer', 'agreed')->whereNull('deleted_at')->orderBy('id')->get()->all();
        if ($marks === []) {
            return null;
        }
        $mark = $this->pick(array_values($marks));
        $action = $this->pick(['change', 'change', 'delete']);

        return $this->api($this->pick([$this->ines, $this->tobias, $this->mei]), 'post', "{$this->base}/edits", ['edits' => [['item' => $mark->item_id, 'id' => $this->ulid(), 'action' => $action, 'mark' => $mark->id, 'base' => $mark->revision] + ($action === 'change' ? ['data' => $this->create($mark->id, 1, 1)['data']] : [])]]);
    }

    private function archive(): TestResponse
    {
        $item = $this->pick(array_values(Item::query()->orderBy('id')->get()->all()));

        return $this->api($this->ines, 'post', "{$this->base}/items/archive", ['archived' => $item->archived_at === null && $this->often(25), 'items' => [$item->id]]);
    }

    private function leave(): TestResponse
    {
        $who = $this->labeller();
        $to = $who->is($this->mei) ? $this->ravi : $this->mei;
        $gone = $this->api($this->ines, 'delete', "{$this->base}/people/{$who->id}".($this->often(60) ? "?to={$to->id}" : ''));
        $this->api($this->ines, 'post', "{$this->base}/people", ['user' => $who->id, 'role' => 'labeller'])->assertStatus(201);

        return $gone;
    }

    /** Somebody does what is not theirs. */
    private function trespass(): ?TestResponse
    {
        $turn = $this->turn(['waiting', 'open', 'parked', 'returned', 'submitted', 'accepted'], $this->pick(['label', 'review']));
        if ($turn === null) {
            return null;
        }
        $who = $this->anybody();
        if ($turn->user_id === $who->id || $who->is($this->ines)) {
            return null;
        }

        return match ($this->random->getInt(0, 3)) {
            0 => $this->api($who, 'post', "{$this->at($turn)}/submit", []),
            1 => $this->api($who, 'post', "{$this->at($turn)}/edits", ['edits' => [$this->create($this->ulid())]]),
            2 => $this->api($who, 'post', "{$this->at($turn)}/decision", ['decision' => 'accept', 'reason' => '']),
            default => $this->api($who, 'post', "{$this->at($turn)}/give-back", []),
        };
    }
}
