<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Actor;
use App\Items\ItemStates;
use App\Items\Layers;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Turn;
use App\Models\User;
use App\Work\Decisions;
use App\Work\Moves;
use App\Work\SubmitTurn;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

/** What passes from station to station, and what does not get lost on the way. */
final class StationsTest extends TeamTestCase
{
    /** @return array<string, mixed>|null */
    private function next(User $who, array $body = []): ?array
    {
        return $this->api($who, 'post', "{$this->base}/next", $body)->assertOk()->json('packet');
    }

    private function label(User $who, ?string $mark = null, float $x = 10): int
    {
        $turn = $this->next($who)['turn']['id'];
        $this->api($who, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [$this->create($mark ?? $this->ulid(), $x)]])->assertOk()->assertJsonPath('results.0.outcome', 'applied');
        $this->api($who, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertOk();

        return $turn;
    }

    private function decide(User $who, int $turn, string $decision = 'accept'): \Illuminate\Testing\TestResponse
    {
        return $this->api($who, 'post', "{$this->base}/turns/{$turn}/decision", ['decision' => $decision, 'reason' => 'look again']);
    }

    private function state(int $turn): string
    {
        return Turn::query()->findOrFail($turn)->state->value;
    }

    /** One labelled and accepted item, handed out to Mei and reviewed by Tobias. @return array{Item, int, int, string} item, label turn, review turn, mark */
    private function accepted(): array
    {
        [$item] = $this->items($this->project, 1, 'done');
        $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        $mark = $this->ulid();
        $turn = $this->label($this->mei, $mark);
        $review = $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'];
        $this->decide($this->tobias, $review)->assertOk();

        return [$item->refresh(), $turn, $review, $mark];
    }

    /** Somebody's glance at their work while another submits put the item back into the queue. */
    public function test_a_submit_is_not_undone_by_a_lease_that_has_run_out(): void
    {
        $this->items($this->project, 1);
        $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid())]])->assertOk();
        $this->travel(Lease::SECONDS + 5)->seconds();
        // what the glance had read before the submit came
        $stale = Turn::query()->findOrFail($turn);
        app(SubmitTurn::class)->submit(new Actor($this->mei), Turn::query()->findOrFail($turn), false, true);
        self::assertSame(0, Moves::giveBackExpired($this->project->id));
        self::assertSame('submitted', $this->state($turn));
        try {
            Moves::to($stale, $stale->value()->giveBack());
            self::fail('a stale turn was moved');
        } catch (IllegalMove $e) {
            self::assertSame('turn_moved', $e->reason);
        }
        $this->api($this->ravi, 'get', '/work')->assertOk();
        self::assertSame('submitted', $this->state($turn));
        self::assertSame(ItemState::Submitted, Item::query()->sole()->state);
    }

    public function test_looking_at_ones_work_changes_nothing(): void
    {
        $this->items($this->project, 1);
        $this->assign($this->project, $this->ines, $this->mei, null);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->travel(Lease::SECONDS + 5)->seconds();
        $this->api($this->mei, 'get', '/work')->assertOk();
        self::assertSame('open', $this->state($turn));
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", ['nothing' => true])->assertOk();
        self::assertSame('accepted', $this->state($turn));
    }

    public function test_a_submit_after_the_item_went_back_takes_it_up_again_unless_somebody_else_has(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id]])->assertStatus(201);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->travel(Lease::SECONDS + 5)->seconds();
        self::assertSame(1, Moves::giveBackExpired());
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", ['nothing' => true])->assertOk()->assertJson(['state' => 'submitted']);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/take-back")->assertOk();
        $this->travel(Lease::SECONDS + 5)->seconds();
        self::assertSame($turn, $this->next($this->ravi)['turn']['id']);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", ['nothing' => true])->assertStatus(409)->assertJson(['code' => 'turn_taken']);
    }

    /** The database's rule for many items is the core's rule for one: random turns over random items. */
    public function test_states_worked_out_by_the_database_are_those_of_the_core(): void
    {
        $items = $this->items($this->project, 12, 'random');
        mt_srand(11);
        foreach ($items as $item) {
            $this->assertTrue(true);
            $layer = Layers::agreed($item->id)->id;
            for ($n = mt_rand(0, 4); $n > 0; $n--) {
                $assignment = DB::table('assignments')->insertGetId(['project_id' => $this->project->id]);
                foreach (range(1, $rounds = mt_rand(1, 2)) as $round) {
                    DB::table('turns')->insert(['project_id' => $this->project->id, 'item_id' => $item->id, 'assignment_id' => $assignment, 'layer_id' => $layer, 'stage' => mt_rand(0, 3) === 0 ? 'review' : 'label', 'pass' => 1, 'round' => $round, 'followed' => $round < $rounds, 'beside' => mt_rand(0, 4) === 0, 'state' => TurnState::cases()[mt_rand(0, 5)]->value]);
                }
            }
        }
        $items[3]->update(['archived_at' => now()]);
        ItemStates::refresh(array_map(static fn (Item $item): int => $item->id, $items));
        $seen = [];
        foreach ($items as $item) {
            $item->refresh();
            $keys = Turn::query()->where('item_id', $item->id)->where('followed', false)->get()->map(static fn (Turn $turn): TurnKey => $turn->key())->all();
            self::assertSame(ItemState::of(array_values($keys), $item->archived_at !== null), $item->state);
            $seen[$item->state->value] = true;
        }
        self::assertGreaterThan(4, count($seen));
    }

    public function test_an_accept_is_taken_back_by_who_gave_it_or_a_manager(): void
    {
        [$item, $turn, $review] = $this->accepted();
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/take-back")->assertStatus(409)->assertJson(['code' => 'review_begun']);
        $other = $this->member($this->project, Role::Reviewer, 'Other');
        DB::table('station_people')->insert(['station_id' => Turn::query()->findOrFail($review)->station_id, 'user_id' => $other->id]);
        $this->api($other, 'post', "{$this->base}/turns/{$review}/take-back")->assertStatus(409)->assertJson(['code' => 'turn_taken']);
        $packet = $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/take-back")->assertOk()->json();
        self::assertSame(['review', [], 'submitted'], [$packet['turn']['mode'], $packet['decisions'], $this->state($turn)]);
        self::assertSame(ItemState::Submitted, $item->refresh()->state);
        $this->decide($this->tobias, $review)->assertOk();
        $this->api($this->ines, 'post', "{$this->base}/turns/{$review}/take-back")->assertOk()->assertJsonPath('turn.mode', 'review');
        $this->decide($this->ines, $review, 'return')->assertOk()->assertJson(['state' => 'returned']);
        self::assertSame(ItemState::Returned, $item->refresh()->state);
        self::assertSame(1, $this->api($this->ines, 'get', "{$this->base}/progress")->json('days.0.returned'));
        self::assertSame(0, $this->api($this->ines, 'get', "{$this->base}/progress")->json('days.0.accepted'), 'what was taken back is not counted');
    }

    public function test_expert_stage_and_a_share_that_is_reviewed(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'reviewers' => [$this->tobias->id], 'experts' => [$this->ines->id]])->assertStatus(201)->assertJson(['experts' => [['name' => 'Ines']]]);
        $turn = $this->label($this->mei);
        $review = $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'];
        $this->decide($this->tobias, $review)->assertOk();
        self::assertSame(['submitted', ItemState::Submitted], [$this->state($turn), Item::query()->sole()->state], 'the expert has not spoken');
        self::assertNull($this->next($this->tobias, ['purpose' => 'review']));
        $expert = $this->next($this->ines, ['purpose' => 'review']);
        self::assertSame(['expert', 'Mei'], [$expert['turn']['stage'], $expert['turn']['labeller']['name']]);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/take-back")->assertStatus(409)->assertJson(['code' => 'review_begun']);
        $this->decide($this->ines, $expert['turn']['id'], 'return')->assertOk();
        self::assertSame(['returned', 2], [$this->state($turn), $this->next($this->mei)['turn']['round']]);

        $this->items($this->project, 30, 'share');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->ravi->id], 'reviewers' => [$this->tobias->id], 'share' => 0.4])->assertStatus(201)->assertJson(['share' => 0.4, 'items' => 30]);
        while (($packet = $this->next($this->ravi)) !== null) {
            $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", ['nothing' => true])->assertOk();
        }
        $states = Turn::query()->where('user_id', $this->ravi->id)->pluck('state')->countBy(static fn (TurnState $state): string => $state->value)->all();
        self::assertSame(30, array_sum($states));
        self::assertSame(['accepted', 'submitted'], collect($states)->keys()->sort()->values()->all());
        self::assertSame($states['submitted'], Turn::query()->where('stage', Stage::Review)->where('state', TurnState::Waiting)->where('round', 1)->count());
    }

    /** Several people label the same item blind; a reviewer makes the agreed labels out of theirs. */
    public function test_overlap_is_blind_until_it_is_resolved(): void
    {
        [$item] = $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [], 'overlap' => 2])->assertStatus(422)->assertJson(['field' => 'overlap']);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'reviewers' => [$this->tobias->id], 'overlap' => 2])->assertStatus(422)->assertJson(['field' => 'overlap']);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id], 'overlap' => 2])->assertStatus(201)->assertJson(['overlap' => 2, 'items' => 1, 'states' => ['waiting' => 2]]);
        [$left, $right] = [$this->ulid(), $this->ulid()];
        $mine = $this->label($this->mei, $left, 10);
        self::assertSame(ItemState::Waiting, $item->refresh()->state);
        self::assertNull($this->next($this->mei), 'nobody labels an item twice');
        self::assertNull($this->next($this->tobias, ['purpose' => 'review']), 'not before all are done');
        $theirs = $this->next($this->ravi);
        self::assertSame([[], 2], [$theirs['marks'], $theirs['turn']['pass']], 'blind');
        $this->api($this->ravi, 'get', "{$this->base}/turns/{$mine}")->assertNotFound();
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$theirs['turn']['id']}/edits", ['edits' => [$this->create($right, 50), ['id' => $this->ulid(), 'action' => 'delete', 'mark' => $left, 'base' => 1]]])->assertJsonPath('results.1.outcome', 'refused');
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$theirs['turn']['id']}/submit", [])->assertOk();
        self::assertSame([ItemState::Submitted, 0], [$item->refresh()->state, $item->mark_count]);
        $this->api($this->ravi, 'get', "{$this->base}/turns/{$theirs['turn']['id']}/passes")->assertForbidden();
        $this->api($this->tobias, 'get', "{$this->base}/turns/{$theirs['turn']['id']}/passes")->assertNotFound();

        $review = $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'];
        $this->decide($this->tobias, $review)->assertStatus(409)->assertJson(['code' => 'not_resolved']);
        $passes = $this->api($this->tobias, 'get', "{$this->base}/turns/{$review}/passes")->assertOk()->json('data');
        self::assertSame([[1, 'Mei', [$left]], [2, 'Ravi', [$right]]], array_map(static fn (array $pass): array => [$pass['pass'], $pass['labeller'], array_column($pass['marks'], 'id')], $passes));
        $resolve = fn (array $body) => $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/resolve", $body);
        $resolve(['pass' => 3])->assertStatus(422)->assertJson(['field' => 'pass']);
        $resolve(['pass' => 1, 'marks' => [$this->ulid()]])->assertStatus(422)->assertJson(['field' => 'marks[0]']);
        $taken = $resolve(['pass' => 1])->assertOk()->json('marks');
        self::assertSame([[10], false], [array_column(array_column($taken, 'geometry'), 'x'), $taken[0]['id'] === $left], 'a copy: what Mei drew stays hers');
        $merged = $resolve(['pass' => 2, 'marks' => [$left, $right]])->assertOk()->json('marks');
        self::assertEqualsCanonicalizing([10, 50], array_column(array_column($merged, 'geometry'), 'x'));
        self::assertSame(2, $item->refresh()->mark_count);
        $this->decide($this->tobias, $review)->assertOk();
        self::assertSame(['accepted', 'accepted', ItemState::Accepted], [$this->state($mine), $this->state($theirs['turn']['id']), $item->refresh()->state]);
    }

    public function test_what_several_have_labelled_can_be_sent_back_to_all_of_them(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id], 'overlap' => 2])->assertStatus(201);
        [$mine, $theirs] = [$this->label($this->mei), $this->label($this->ravi)];
        $review = $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'];
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/resolve", ['redo' => ' '])->assertStatus(422)->assertJson(['code' => 'reason_missing']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/resolve", ['redo' => 'stems are part of the fruit'])->assertOk();
        self::assertSame(['returned', 'returned'], [$this->state($mine), $this->state($theirs)]);
        foreach ([$this->mei, $this->ravi] as $who) {
            self::assertSame('stems are part of the fruit', $this->api($who, 'get', '/work')->json('projects.0.returned.0.reason'));
            $packet = $this->next($who);
            self::assertSame([2, 1], [$packet['turn']['round'], count($packet['marks'])], 'their own marks are still there');
            $this->api($who, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", [])->assertOk();
        }
        self::assertSame(2, $this->next($this->tobias, ['purpose' => 'review'])['turn']['round']);
    }

    /** A second assignment over accepted items un-accepted them, and its person edited the first one's labels. */
    public function test_a_pass_on_top_of_accepted_labels_leaves_them_as_they_are_until_it_is_accepted(): void
    {
        [$item, , , $mark] = $this->accepted();
        $again = ['labellers' => [$this->ravi->id], 'reviewers' => [$this->tobias->id], 'pool' => 'all'];
        $this->api($this->ines, 'post', "{$this->base}/assignments/preview", $again)->assertOk()->assertJson(['items' => 1, 'accepted' => 1, 'under_way' => 0]);
        $this->api($this->ines, 'post', "{$this->base}/assignments", $again)->assertStatus(409)->assertJson(['code' => 'accepted_items', 'accepted' => 1]);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['again' => 'maybe'] + $again)->assertStatus(422)->assertJson(['field' => 'again']);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['again' => 'on_top'] + $again)->assertStatus(201);
        $preview = fn (): array => $this->api($this->ines, 'post', "{$this->base}/releases/preview", ['recipe' => []])->assertOk()->json();
        self::assertSame([ItemState::Accepted, 1], [$item->refresh()->state, $preview()['marks']]);

        $packet = $this->next($this->ravi);
        self::assertSame([true, 1, [10]], [$packet['turn']['beside'], count($packet['marks']), array_column(array_column($packet['marks'], 'geometry'), 'x')]);
        $copy = $packet['marks'][0]['id'];
        $new = $this->ulid();
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/edits", ['edits' => [
            ['id' => $this->ulid(), 'action' => 'change', 'mark' => $copy, 'base' => 1, 'data' => ['geometry' => ['x' => 12, 'y' => 10, 'width' => 28, 'height' => 30]]],
            $this->create($new, 60),
        ]])->assertOk()->assertJsonPath('results.1.outcome', 'applied');
        self::assertSame([ItemState::Accepted, 1, 10], [$item->refresh()->state, $preview()['marks'], MarkRow::query()->findOrFail($mark)->geometry['x']]);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", [])->assertOk();
        $packet = $this->next($this->tobias, ['purpose' => 'review']);
        self::assertCount(2, $packet['marks'], 'the draft is what is reviewed');
        $this->decide($this->tobias, $packet['turn']['id'])->assertOk();
        self::assertSame([ItemState::Accepted, 2], [$item->refresh()->state, $preview()['marks']]);
        $changed = MarkRow::query()->findOrFail($mark);
        self::assertSame([12, 2, $this->ravi->id], [$changed->geometry['x'], $changed->revision, $changed->author_id]);
        self::assertSame(['create', 'settle'], DB::table('mark_history')->where('mark_id', $mark)->orderBy('id')->pluck('action')->all());
    }

    /** The next item is loaded before it is opened, and may be let go again in between: its draft is copied once all the same. */
    public function test_a_draft_is_copied_once_however_often_its_item_is_opened(): void
    {
        [$item] = $this->accepted();
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->ravi->id, $this->mei->id], 'reviewers' => [], 'pool' => 'all', 'again' => 'on_top'])->assertStatus(201);
        $turn = $this->next($this->ravi, ['preload' => true])['turn']['id'];
        self::assertCount(1, $this->next($this->ravi, ['preload' => true])['marks']);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$turn}/give-back")->assertNoContent();
        foreach ([$this->ravi, $this->mei] as $who) {
            $packet = $this->api($who, 'post', "{$this->base}/turns/{$turn}/take")->assertOk()->json();
            self::assertCount(1, $packet['marks']);
            $this->api($who, 'post', "{$this->base}/turns/{$turn}/give-back")->assertNoContent();
        }
        // taken away by hand, the copy does not come back either
        $packet = $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/take")->json();
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'delete', 'mark' => $packet['marks'][0]['id'], 'base' => 1]]])->assertOk()->assertJsonPath('results.0.outcome', 'applied');
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/give-back")->assertNoContent();
        self::assertSame([], $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/take")->json('marks'));
        self::assertSame(1, $item->refresh()->mark_count);
    }

    public function test_what_was_said_before_a_draft_was_accepted_stays_in_the_history(): void
    {
        $this->project->codebookVersion()->update(['body' => Codebook::fromArray(['tags' => [['key' => 'wet', 'name' => 'Wet'], ['key' => 'backlit', 'name' => 'Backlit']]] + Samples::document())->toJson()]);
        [$item] = $this->accepted();
        $agreed = Layers::agreed($item->id);
        $agreed->update(['tags' => ['wet'], 'revision' => 1]);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->ravi->id], 'reviewers' => [], 'pool' => 'all', 'again' => 'on_top'])->assertStatus(201);
        $packet = $this->next($this->ravi);
        self::assertSame(['wet'], $packet['said']['tags']);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'change', 'mark' => null, 'base' => $packet['said']['revision'], 'data' => ['kind' => 'item', 'tags' => ['backlit']]]]])->assertOk()->assertJsonPath('results.0.outcome', 'applied');
        self::assertSame(['wet'], $agreed->refresh()->tags);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", ['anyway' => true])->assertOk();
        self::assertSame(['backlit'], $agreed->refresh()->tags);
        $entry = DB::table('mark_history')->where('layer_id', $agreed->id)->whereNull('mark_id')->sole();
        self::assertSame(['settle', $agreed->revision, $this->ravi->id, ['wet'], ['backlit']], [$entry->action, (int) $entry->revision, (int) $entry->user_id, json_decode((string) $entry->before, true)['tags'], json_decode((string) $entry->after, true)['tags']]);
    }

    public function test_a_pass_on_top_can_take_marks_away_and_one_that_is_returned_changes_nothing(): void
    {
        [$item, , , $mark] = $this->accepted();
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->ravi->id], 'reviewers' => [$this->tobias->id], 'pool' => 'all', 'again' => 'on_top'])->assertStatus(201);
        $packet = $this->next($this->ravi);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'delete', 'mark' => $packet['marks'][0]['id'], 'base' => 1]]])->assertOk();
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", ['nothing' => true])->assertOk();
        $review = $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'];
        $this->decide($this->tobias, $review, 'return')->assertOk();
        self::assertSame([1, null], [$item->refresh()->mark_count, MarkRow::query()->findOrFail($mark)->deleted_at]);
        $second = $this->next($this->ravi);
        self::assertSame([[], 2], [$second['marks'], $second['turn']['round']], 'the draft is gone on with, not copied anew');
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$second['turn']['id']}/submit", ['nothing' => true])->assertOk();
        $this->decide($this->tobias, $this->next($this->tobias, ['purpose' => 'review'])['turn']['id'])->assertOk();
        self::assertSame([0, true, ItemState::Accepted], [$item->refresh()->mark_count, $item->nothing, $item->state]);
        self::assertNotNull(MarkRow::query()->findOrFail($mark)->deleted_at);
    }

    public function test_a_blind_pass_beside_accepted_labels_sees_and_changes_none_of_them(): void
    {
        [$item, , , $mark] = $this->accepted();
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->ravi->id], 'reviewers' => [], 'pool' => 'all', 'again' => 'blind'])->assertStatus(201);
        self::assertSame([], $this->next($this->ravi)['marks']);
        $this->label($this->ravi, null, 55);
        self::assertSame([ItemState::Accepted, 1, 10], [$item->refresh()->state, $item->mark_count, MarkRow::query()->findOrFail($mark)->geometry['x']]);
    }

    public function test_correcting_accepted_labels_beside_the_turns_keeps_accepted_true(): void
    {
        [$item, $turn, $review, $mark] = $this->accepted();
        $correct = fn (array $edit) => $this->api($this->ines, 'post', "{$this->base}/edits", ['edits' => [['id' => $this->ulid(), 'item' => $item->id, 'mark' => $mark] + $edit]])->assertOk()->assertJsonPath('results.0.outcome', 'applied');
        $correct(['action' => 'change', 'base' => 1, 'data' => ['geometry' => ['x' => 11, 'y' => 10, 'width' => 30, 'height' => 30]]]);
        self::assertSame(ItemState::Accepted, $item->refresh()->state, 'a correction that holds');
        $correct(['action' => 'answer', 'base' => 2, 'data' => ['attribute' => 'ripeness']]);
        self::assertSame([ItemState::Submitted, 'submitted', 'waiting'], [$item->refresh()->state, $this->state($turn), $this->state($review)]);
        $waiting = $this->api($this->tobias, 'get', "{$this->base}/review")->assertOk()->json('data.0');
        self::assertStringContainsString('Ripeness is not answered', $waiting['reopened_because']);
        $packet = $this->next($this->tobias, ['purpose' => 'review']);
        self::assertSame([$review, $waiting['reopened_because']], [$packet['turn']['id'], $packet['turn']['reopened_because']]);
        $this->decide($this->tobias, $review)->assertStatus(422)->assertJson(['code' => 'findings']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'answer', 'mark' => $mark, 'base' => 3, 'data' => ['attribute' => 'ripeness', 'answer' => ['value' => 'ripe']]]]])->assertOk();
        $this->decide($this->tobias, $review)->assertOk();
        // taking its last mark asks for "nothing there"
        $correct(['action' => 'delete', 'base' => 4]);
        self::assertSame(ItemState::Submitted, $item->refresh()->state);
        self::assertStringContainsString('nothing there', $this->api($this->tobias, 'get', "{$this->base}/review")->json('data.0.reopened_because'));
    }

    public function test_labels_that_came_in_and_no_longer_hold_wait_for_a_manager(): void
    {
        [$item] = $this->items($this->project, 1);
        $turn = Turn::query()->create(['project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => Layers::agreed($item->id)->id, 'stage' => Stage::Label, 'pass' => 1, 'round' => 1, 'state' => TurnState::Accepted]);
        DB::transaction(static fn () => Decisions::reopen($item->id, 'its class is gone'));
        self::assertSame('submitted', $this->state($turn->id));
        self::assertNull($this->next($this->tobias, ['purpose' => 'review']));
        self::assertSame('its class is gone', $this->next($this->ines, ['purpose' => 'review'])['turn']['reopened_because']);
    }

    public function test_looking_takes_no_lease_and_who_holds_a_review_is_named_and_can_be_freed(): void
    {
        $this->items($this->project, 1);
        $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        $review = $this->decisionOf($this->label($this->mei));
        $this->api($this->ines, 'get', "{$this->base}/turns/{$review}")->assertOk()->assertJson(['turn' => ['mode' => 'look', 'held_by' => null]]);
        self::assertSame('waiting', $this->state($review));
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->api($this->ines, 'get', "{$this->base}/turns/{$review}")->assertJson(['turn' => ['mode' => 'look', 'held_by' => ['name' => 'Tobias']]]);
        $this->api($this->ines, 'get', "{$this->base}/review")->assertJson(['data' => [['held_by' => ['name' => 'Tobias']]]]);
        $this->api($this->ines, 'post', "{$this->base}/turns/{$review}/take")->assertStatus(409)->assertJson(['code' => 'turn_taken']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/pass", ['user' => null])->assertForbidden();
        $this->api($this->ines, 'post', "{$this->base}/turns/{$review}/pass", ['user' => null])->assertOk()->assertJson(['state' => 'waiting']);
        $this->api($this->ines, 'post', "{$this->base}/turns/{$review}/take")->assertOk();
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/edits", ['edits' => [$this->create($this->ulid())]])->assertStatus(409);
    }

    public function test_a_manager_gives_any_unfinished_item_to_anybody(): void
    {
        $this->items($this->project, 2);
        $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid())]])->assertOk();
        $pass = fn (?int $to) => $this->api($this->ines, 'post', "{$this->base}/turns/{$turn}/pass", ['user' => $to]);
        $pass($this->member($this->project, Role::Guest)->id)->assertStatus(422)->assertJson(['code' => 'not_able']);
        $pass($this->person('Nobody')->id)->assertStatus(422);
        $pass($this->ravi->id)->assertOk();
        $packet = $this->next($this->ravi);
        self::assertSame([$turn, 1], [$packet['turn']['id'], count($packet['marks'])], 'though he has no part in the assignment; with what was begun');
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertOk();
        $pass($this->mei->id)->assertStatus(409);
        $this->decide($this->tobias, $this->decisionOf($turn), 'return')->assertOk();
        $pass($this->mei->id)->assertOk()->assertJson(['state' => 'returned']);
        self::assertSame(2, $this->next($this->mei)['turn']['round'], 'fixed by somebody else');
    }

    public function test_a_blind_pass_is_not_given_to_who_labels_the_item_in_another(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id], 'overlap' => 2])->assertStatus(201);
        [$mine, $theirs] = [$this->next($this->mei)['turn']['id'], $this->next($this->ravi)['turn']['id']];
        $this->api($this->ines, 'post', "{$this->base}/turns/{$theirs}/pass", ['user' => $this->mei->id])->assertStatus(422)->assertJson(['code' => 'not_able']);
        // who leaves can't hand it to her either: it waits for somebody else
        $this->api($this->ines, 'delete', "{$this->base}/people/{$this->ravi->id}?to={$this->mei->id}")->assertOk();
        self::assertSame(['waiting', null], [$this->state($theirs), Turn::query()->findOrFail($theirs)->user_id]);
        self::assertSame($mine, $this->next($this->mei)['turn']['id']);
    }

    public function test_an_item_that_comes_back_to_nobody_waits_for_anybody(): void
    {
        [$item] = $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id]])->assertStatus(201);
        $turn = $this->label($this->mei);
        $this->decide($this->tobias, $this->decisionOf($turn), 'return')->assertOk();
        self::assertSame('returned', $item->refresh()->state->value);
        $this->api($this->ines, 'delete', "{$this->base}/people/{$this->mei->id}")->assertOk();
        self::assertSame('waiting', $item->refresh()->state->value, 'its next round has begun, and so it says');
    }

    public function test_who_leaves_leaves_nothing_behind(): void
    {
        $this->items($this->project, 5);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'reviewers' => [$this->tobias->id]])->assertStatus(201);
        $returned = $this->label($this->mei);
        $this->decide($this->tobias, $this->decisionOf($returned), 'return')->assertOk();
        $second = $this->next($this->mei)['turn']['id'];
        self::assertSame(2, Turn::query()->findOrFail($second)->round);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$second}/park", ['reason' => 'too dark'])->assertOk();
        $also = $this->label($this->mei);
        $open = $this->next($this->mei)['turn']['id'];
        $this->decide($this->tobias, $this->decisionOf($also), 'return')->assertOk();
        self::assertSame(['parked', 'returned', 'open'], [$this->state($second), $this->state($also), $this->state($open)]);
        $again = $this->next($this->mei, ['preload' => true, 'holding' => [$open]])['turn']['id'];
        $ahead = $this->next($this->mei, ['preload' => true, 'holding' => [$open, $again]])['turn']['id'];
        self::assertSame([[2, true], [1, true]], array_map(static fn (int $id): array => [Turn::query()->findOrFail($id)->round, Turn::query()->findOrFail($id)->preloaded], [$again, $ahead]));

        $gone = $this->api($this->ines, 'delete', "{$this->base}/people/{$this->mei->id}?to={$this->ravi->id}")->assertOk()->json();
        self::assertSame(['turns' => 3, 'without' => []], $gone);
        self::assertSame([], Turn::query()->where('followed', false)->where('user_id', $this->mei->id)->get()->all());
        self::assertSame(['waiting', null], [$this->state($ahead), Turn::query()->findOrFail($ahead)->user_id], 'what was only fetched ahead is for whoever comes');
        $mine = [];
        while (($packet = $this->next($this->ravi, ['holding' => $mine])) !== null) {
            $mine[] = $packet['turn']['id'];
        }
        self::assertCount(5, $mine, 'what was open, parked and returned, and what waits');
        $this->api($this->ines, 'get', "{$this->base}/assignments")->assertJsonPath('data.0.labellers.0.name', 'Ravi');

        // and without anybody to pass it to
        $left = $this->api($this->ines, 'delete', "{$this->base}/people/{$this->ravi->id}")->assertOk()->json();
        self::assertSame([5, [DB::table('assignments')->value('id')]], [$left['turns'], $left['without']]);
        self::assertSame(5, Turn::query()->where('followed', false)->where('stage', Stage::Label)->where('state', TurnState::Waiting)->whereNull('user_id')->count(), 'all of it waits for whoever comes');
        $this->api($this->ines, 'delete', "{$this->base}/people/{$this->ines->id}")->assertStatus(409)->assertJson(['code' => 'last_manager']);
    }

    public function test_the_table_says_how_many_items_were_handed_out_whatever_became_of_them(): void
    {
        $this->items($this->project, 3);
        $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        $turn = $this->label($this->mei);
        $this->decide($this->tobias, $this->decisionOf($turn), 'return')->assertOk();
        $fixed = $this->next($this->mei)['turn']['id'];
        $this->api($this->mei, 'post', "{$this->base}/turns/{$fixed}/submit", [])->assertOk();
        $begun = $this->next($this->mei)['turn']['id'];
        $this->travel(Lease::SECONDS + 5)->seconds();
        Moves::giveBackExpired();
        $table = $this->api($this->ines, 'get', "{$this->base}/assignments")->json('data.0');
        self::assertSame([3, ['submitted' => 1, 'waiting' => 2], 1], [$table['items'], $table['states'], $table['begun']]);
        self::assertSame($begun, $this->next($this->mei)['turn']['id'], 'what was begun comes before what is new');

        // beside it one that two people label blind: twice the turns, not the items
        $this->items($this->project, 2, 'second');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id, $this->ravi->id], 'reviewers' => [$this->tobias->id], 'overlap' => 2])->assertStatus(201)->assertJson(['items' => 2, 'states' => ['waiting' => 4]]);
        $all = $this->api($this->ines, 'get', "{$this->base}/assignments")->json('data');
        self::assertSame([[2, ['waiting' => 4], 0], [3, ['open' => 1, 'submitted' => 1, 'waiting' => 1], 0]], array_map(static fn (array $row): array => [$row['items'], $row['states'], $row['begun']], $all));
        $queries = 0;
        DB::listen(static function () use (&$queries): void {
            $queries++;
        });
        $this->api($this->ines, 'get', "{$this->base}/assignments");
        $with = $queries;
        for ($i = 0; $i < 3; $i++) {
            $this->items($this->project, 1, "more {$i}");
            $this->assign($this->project, $this->ines, $this->mei, $this->tobias);
        }
        $queries = 0;
        $this->api($this->ines, 'get', "{$this->base}/assignments")->assertJsonCount(5, 'data');
        self::assertSame($with, $queries, 'as many questions to the database for five as for two');
    }

    /** Who reviews in one assignment and labels in another reaches in each what they do there. */
    public function test_reach_follows_the_part_in_the_assignment_not_the_role(): void
    {
        [$labelled] = $this->items($this->project, 1, 'a');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->tobias->id], 'reviewers' => [$this->ines->id]])->assertStatus(201);
        [$foreign] = $this->items($this->project, 1, 'b');
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'reviewers' => [$this->ines->id]])->assertStatus(201);
        $send = fn (Item $item) => $this->api($this->tobias, 'post', "{$this->base}/edits", ['edits' => [['item' => $item->id] + $this->create($this->ulid())]])->assertOk()->json('results.0.outcome');
        self::assertSame(['applied', 'refused'], [$send($labelled), $send($foreign)]);
        self::assertSame(3, Turn::query()->where('item_id', $labelled->id)->sole()->seconds, 'in the course of the turn that waits for them');
    }
}
