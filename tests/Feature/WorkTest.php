<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\Layers;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Models\User;
use App\Work\Moves;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Workflow\Lease;

final class WorkTest extends TeamTestCase
{
    private function handOut(int $items, array $labellers, bool $review = true): void
    {
        $this->items($this->project, $items);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => array_map(static fn (User $user): int => $user->id, $labellers), 'reviewers' => $review ? [$this->tobias->id] : []])->assertStatus(201);
    }

    /** @return array<string, mixed>|null */
    private function next(User $who, array $body = []): ?array
    {
        return $this->api($who, 'post', "{$this->base}/next", $body)->assertOk()->json('packet');
    }

    /** @param  list<array<string, mixed>>  $edits */
    private function edit(User $who, int $turn, array $edits): array
    {
        return $this->api($who, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => $edits])->assertOk()->json();
    }

    private function submitOne(User $who): int
    {
        $turn = $this->next($who)['turn']['id'];
        $this->edit($who, $turn, [$this->create($this->ulid())]);
        $this->api($who, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertOk();

        return $turn;
    }

    public function test_the_whole_way_of_an_item(): void
    {
        $this->handOut(1, [$this->mei]);
        $mark = $this->ulid();
        $turn = $this->next($this->mei)['turn']['id'];
        $this->edit($this->mei, $turn, [$this->create($mark)]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertJson(['state' => 'submitted']);
        self::assertNull($this->next($this->mei));

        $packet = $this->next($this->tobias, ['purpose' => 'review']);
        self::assertSame(['review', 'Mei'], [$packet['turn']['mode'], $packet['turn']['labeller']['name']]);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return'])->assertStatus(422)->assertJson(['code' => 'reason_missing']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/pins", ['x' => 12.5, 'y' => 20, 'mark' => $mark, 'text' => 'cuts the stem'])->assertStatus(201);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return', 'reason' => 'too tight'])->assertJson(['state' => 'returned']);

        $work = $this->api($this->mei, 'get', '/work')->json('projects.0');
        self::assertSame(['too tight', 'Tobias', ['cuts the stem']], [$work['returned'][0]['reason'], $work['returned'][0]['by'], $work['returned'][0]['pins']]);
        $second = $this->next($this->mei);
        self::assertSame([2, $turn + 1 > $turn], [$second['turn']['round'], $second['turn']['id'] > $turn]);
        self::assertSame(['cuts the stem'], array_column($second['pins'], 'text'));
        $this->edit($this->mei, $second['turn']['id'], [['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['geometry' => ['x' => 8, 'y' => 8, 'width' => 34, 'height' => 34]]]]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$second['turn']['id']}/submit", [])->assertOk();

        $again = $this->next($this->tobias, ['purpose' => 'review']);
        self::assertSame($this->decisionOf($second['turn']['id']), $again['turn']['id']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$again['turn']['id']}/decision", ['decision' => 'accept'])->assertJson(['state' => 'accepted']);
        $item = $this->api($this->ines, 'get', "{$this->base}/items/{$again['item']['id']}")->json();
        self::assertSame(['accepted', 8, 2], [$item['state'], $item['marks'][0]['geometry']['x'], $item['marks'][0]['revision']]);
        $progress = $this->api($this->ines, 'get', "{$this->base}/progress")->json();
        self::assertSame(['accepted' => 1], $progress['states']);
        self::assertSame([['submitted' => 2, 'accepted' => 1, 'returned' => 1]], array_map(static fn (array $day): array => array_diff_key($day, ['day' => 1]), $progress['days']));
        $history = $this->api($this->mei, 'get', "{$this->base}/turns/{$second['turn']['id']}/marks/{$mark}/history")->json('data');
        self::assertSame(['change', 'create'], array_column($history, 'action'));
    }

    public function test_two_labellers_never_get_the_same_item(): void
    {
        $this->handOut(3, [$this->mei, $this->ravi]);
        $mine = $this->next($this->mei)['turn']['id'];
        $ahead = $this->next($this->mei, ['holding' => [$mine], 'preload' => true])['turn']['id'];
        $theirs = $this->next($this->ravi)['turn']['id'];
        self::assertCount(3, array_unique([$mine, $ahead, $theirs]));
        self::assertNull($this->next($this->ravi, ['holding' => [$theirs]]));
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$mine}/take")->assertStatus(409)->assertJson(['code' => 'turn_taken']);
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$mine}/edits", ['edits' => [$this->create($this->ulid())]])->assertStatus(409)->assertJson(['code' => 'turn_taken']);
        self::assertSame(0, MarkRow::query()->count());
        self::assertSame($mine, $this->next($this->mei)['turn']['id'], 'coming back gives the item worked on, neither the preloaded one nor a third');
    }

    public function test_a_lease_that_runs_out_gives_the_item_back_with_its_edits(): void
    {
        $this->handOut(1, [$this->mei, $this->ravi]);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->edit($this->mei, $turn, [$this->create($this->ulid())]);
        $this->travel(Lease::SECONDS - 5)->seconds();
        self::assertNull($this->next($this->ravi));
        $this->travel(10)->seconds();
        $packet = $this->next($this->ravi);
        self::assertSame([$turn, 1], [$packet['turn']['id'], count($packet['marks'])]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid(), 50, 40)]])->assertStatus(409)->assertJson(['code' => 'turn_taken']);
    }

    public function test_activity_renews_the_lease_and_a_lapse_nobody_noticed_is_taken_up_again(): void
    {
        $this->handOut(1, [$this->mei, $this->ravi]);
        $turn = $this->next($this->mei)['turn']['id'];
        $this->travel(Lease::SECONDS - 5)->seconds();
        $this->edit($this->mei, $turn, [$this->create($this->ulid())]);
        $this->travel(Lease::SECONDS - 5)->seconds();
        self::assertNull($this->next($this->ravi), 'the edit renewed the lease');
        $this->travel(60)->seconds();
        self::assertSame(1, Moves::giveBackExpired($this->project->id));
        self::assertSame('waiting', Turn::query()->findOrFail($turn)->state->value);
        $this->edit($this->mei, $turn, [$this->create($this->ulid(), 50, 40)]);
        self::assertSame('open', Turn::query()->findOrFail($turn)->state->value);
        self::assertSame(2, MarkRow::query()->count());
    }

    public function test_what_came_back_stays_with_its_labeller_when_the_lease_runs_out(): void
    {
        $this->handOut(1, [$this->mei, $this->ravi]);
        $turn = $this->submitOne($this->mei);
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return', 'reason' => 'look again'])->assertOk();
        $second = $this->next($this->mei)['turn']['id'];
        $this->travel(Lease::SECONDS + 5)->seconds();
        self::assertNull($this->next($this->ravi), 'not for somebody else');
        self::assertSame($second, $this->next($this->mei)['turn']['id']);
    }

    public function test_edits_are_applied_once_and_a_stale_base_is_a_conflict(): void
    {
        $this->handOut(1, [$this->mei]);
        $turn = $this->next($this->mei)['turn']['id'];
        $mark = $this->ulid();
        $create = $this->create($mark);
        $move = ['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['geometry' => ['x' => 20, 'y' => 20, 'width' => 30, 'height' => 30]]];
        self::assertSame(['applied', 'applied'], array_column($this->edit($this->mei, $turn, [$create, $move])['results'], 'outcome'));
        self::assertSame(['repeated', 'repeated'], array_column($this->edit($this->mei, $turn, [$create, $move])['results'], 'outcome'));
        $stale = $this->edit($this->mei, $turn, [['id' => $this->ulid(), 'base' => 1, 'data' => ['stack' => 4]] + $move])['results'][0];
        self::assertSame(['conflict', 20, 2], [$stale['outcome'], $stale['mark']['geometry']['x'], $stale['mark']['revision']]);
        self::assertSame(2, DB::table('mark_history')->count());
        $delete = ['id' => $this->ulid(), 'action' => 'delete', 'mark' => $mark, 'base' => 2];
        $back = ['id' => $this->ulid(), 'base' => 3] + $create;
        self::assertSame(['applied', 'applied'], array_column($this->edit($this->mei, $turn, [$delete, $back])['results'], 'outcome'), 'undo of a delete');
        self::assertSame(4, MarkRow::query()->findOrFail($mark)->revision);
        self::assertSame(6, Turn::query()->findOrFail($turn)->seconds, 'repeats do not count twice');
    }

    /** What a hand did on top of something that was not taken is not taken either, though its base may be right by chance. */
    public function test_what_follows_a_conflict_in_a_batch_is_a_conflict(): void
    {
        $this->handOut(1, [$this->mei]);
        $turn = $this->next($this->mei)['turn']['id'];
        [$mark, $other] = [$this->ulid(), $this->ulid()];
        $move = fn (string $of, int $base, int $x): array => ['id' => $this->ulid(), 'action' => 'change', 'mark' => $of, 'base' => $base, 'data' => ['geometry' => ['x' => $x, 'y' => 20, 'width' => 30, 'height' => 30]]];
        $this->edit($this->mei, $turn, [$this->create($mark), $this->create($other, 50, 40), $move($mark, 1, 20), $move($mark, 2, 21)]);
        // the mark is at revision 3: the first two are stale, the third meets it by chance
        $results = $this->edit($this->mei, $turn, [$move($mark, 1, 5), $move($mark, 2, 6), $move($mark, 3, 7), $move($other, 1, 8)])['results'];
        self::assertSame(['conflict', 'conflict', 'conflict', 'applied'], array_column($results, 'outcome'));
        self::assertSame(21, MarkRow::query()->findOrFail($mark)->geometry['x']);
        $classless = ['data' => ['class' => 'pear']] + $move($mark, 3, 0);
        self::assertSame(['refused', 'conflict'], array_column($this->edit($this->mei, $turn, [$classless, $move($mark, 3, 9)])['results'], 'outcome'));
        $said = fn (int $base, array $tags): array => ['id' => $this->ulid(), 'action' => 'change', 'mark' => null, 'base' => $base, 'data' => ['kind' => 'item', 'tags' => $tags]];
        $this->edit($this->mei, $turn, [$said(0, []), $said(1, [])]);
        self::assertSame(['conflict', 'conflict'], array_column($this->edit($this->mei, $turn, [$said(1, []), $said(2, [])])['results'], 'outcome'));
        $beside = $this->api($this->ines, 'post', "{$this->base}/edits", ['edits' => array_map(fn (array $edit): array => $edit + ['item' => Turn::query()->findOrFail($turn)->item_id], [$move($mark, 2, 5), $move($mark, 3, 6)])])->assertOk()->json('results');
        self::assertNotContains('applied', array_column($beside, 'outcome'));
    }

    public function test_one_bad_edit_is_refused_by_name_and_the_others_stand(): void
    {
        $this->handOut(2, [$this->mei, $this->ravi]);
        $turn = $this->next($this->mei)['turn']['id'];
        $foreign = $this->ulid();
        $other = $this->next($this->ravi)['turn']['id'];
        $this->edit($this->ravi, $other, [$this->create($foreign)]);
        $bad = $this->create($this->ulid());
        $bad['data']['geometry']['width'] = -5;
        $classless = $this->create($this->ulid());
        $classless['data']['class'] = 'pear';
        $results = $this->edit($this->mei, $turn, [$bad, $classless, ['id' => $this->ulid(), 'action' => 'delete', 'mark' => $foreign, 'base' => 1], 'nonsense', $this->create($this->ulid())])['results'];
        self::assertSame(['refused', 'refused', 'refused', 'refused', 'applied'], array_column($results, 'outcome'));
        self::assertStringContainsString('width', $results[0]['reason']);
        self::assertStringContainsString('"pear"', $results[1]['reason']);
        self::assertNull(MarkRow::query()->findOrFail($foreign)->deleted_at);
    }

    public function test_nothing_unfinished_is_submitted(): void
    {
        $this->handOut(1, [$this->mei]);
        $turn = $this->next($this->mei)['turn']['id'];
        $submit = fn (array $body = []) => $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", $body);
        $submit()->assertStatus(422)->assertJson(['code' => 'nothing_marked']);
        $mark = $this->ulid();
        $unanswered = $this->create($mark);
        unset($unanswered['data']['answers']);
        $findings = $this->edit($this->mei, $turn, [$unanswered])['findings'];
        self::assertSame([['answer_missing', $mark, 'ripeness']], array_map(static fn (array $finding): array => [$finding['code'], $finding['mark'], $finding['attribute']], $findings));
        $message = $findings[0]['message'];
        self::assertStringContainsString('is not answered', $message);
        $submit()->assertStatus(422)->assertJson(['code' => 'findings', 'detail' => $message, 'findings' => [['mark' => $mark]]]);
        $submit(['anyway' => true])->assertStatus(422);
        $submit(['nothing' => true])->assertStatus(422)->assertJson(['code' => 'objects_marked']);
        $this->edit($this->mei, $turn, [['id' => $this->ulid(), 'action' => 'answer', 'mark' => $mark, 'base' => 1, 'data' => ['attribute' => 'ripeness', 'answer' => ['no_value' => 'unsure']]], $this->create($this->ulid(), 10, 11)]);
        $submit()->assertStatus(422)->assertJson(['code' => 'doubts', 'findings' => [['code' => 'duplicate']]]);
        $submit(['anyway' => true])->assertOk();
    }

    public function test_nothing_here_is_not_the_same_as_not_labelled(): void
    {
        $this->handOut(2, [$this->mei]);
        $packet = $this->next($this->mei);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$packet['turn']['id']}/submit", ['nothing' => true])->assertOk();
        self::assertEqualsCanonicalizing(['nothing', 'unlabelled'], array_column($this->api($this->ines, 'get', "{$this->base}/items")->json('data'), 'labelled'));
        $this->api($this->mei, 'post', "{$this->base}/turns/{$packet['turn']['id']}/take-back")->assertOk();
        self::assertSame(['unlabelled', 'unlabelled'], array_column($this->api($this->ines, 'get', "{$this->base}/items")->json('data'), 'labelled'));
    }

    public function test_a_submit_is_taken_back_until_a_reviewer_opens_it(): void
    {
        $this->handOut(2, [$this->mei]);
        $first = $this->submitOne($this->mei);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$first}/take-back")->assertJson(['turn' => ['mode' => 'label']]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$first}/submit", [])->assertOk();
        $this->next($this->tobias, ['purpose' => 'review', 'preload' => true]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$first}/take-back")->assertOk();
        $this->api($this->mei, 'post', "{$this->base}/turns/{$first}/submit", [])->assertOk();
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($first)}/take")->assertOk();
        $this->api($this->mei, 'post', "{$this->base}/turns/{$first}/take-back")->assertStatus(409)->assertJson(['code' => 'review_begun']);
    }

    public function test_a_reviewer_corrects_a_mark_and_it_is_recorded_as_theirs(): void
    {
        $this->handOut(1, [$this->mei]);
        $turn = $this->submitOne($this->mei);
        $mark = MarkRow::query()->sole();
        $review = $this->decisionOf($turn);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$review}/edits", ['edits' => []])->assertStatus(409);
        self::assertSame($review, $this->next($this->tobias, ['purpose' => 'review'])['turn']['id']);
        $this->edit($this->tobias, $review, [['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark->id, 'base' => 1, 'data' => ['class' => 'blurred', 'answers' => []]]]);
        self::assertSame([$this->tobias->id, 'blurred'], [$mark->refresh()->author_id, $mark->class]);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertOk();
        self::assertSame(['Tobias', 'Mei'], array_column($this->api($this->ines, 'get', "{$this->base}/turns/{$turn}/marks/{$mark->id}/history")->json('data'), 'by'));
    }

    public function test_an_unfinished_item_is_not_accepted(): void
    {
        $this->handOut(1, [$this->mei]);
        $turn = $this->submitOne($this->mei);
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->edit($this->tobias, $this->decisionOf($turn), [['id' => $this->ulid(), 'action' => 'answer', 'mark' => MarkRow::query()->sole()->id, 'base' => 1, 'data' => ['attribute' => 'ripeness']]]);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertStatus(422)->assertJson(['code' => 'findings']);
    }

    public function test_nobody_reviews_their_own_work_unless_allowed(): void
    {
        $this->items($this->project, 1);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->tobias->id], 'reviewers' => [$this->tobias->id]])->assertStatus(201);
        $turn = $this->submitOne($this->tobias);
        self::assertNull($this->next($this->tobias, ['purpose' => 'review']));
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertStatus(409)->assertJson(['code' => 'own_work']);
        $this->project->update(['own_review' => true]);
        self::assertNotNull($this->next($this->tobias, ['purpose' => 'review']));
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertOk();
    }

    public function test_a_reviewer_decides_only_on_assignments_they_review(): void
    {
        $this->items($this->project, 1);
        $other = $this->member($this->project, Role::Reviewer, 'Other');
        $this->assign($this->project, $this->ines, $this->mei, $other);
        $turn = $this->submitOne($this->mei);
        self::assertNull($this->next($this->tobias, ['purpose' => 'review']));
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertNotFound();
        $this->api($other, 'get', "{$this->base}/review")->assertJson(['counts' => ['waiting' => 1]]);
        $this->next($other, ['purpose' => 'review']);
        $this->api($this->ines, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertStatus(409)->assertJson(['code' => 'turn_taken']);
    }

    /** Submit goes on from where one is; what was skipped comes when the end has been reached, and what came back before all. */
    public function test_the_next_item_lies_behind_the_one_before(): void
    {
        $this->handOut(6, [$this->mei, $this->ravi]);
        $turns = Turn::query()->orderBy('item_id')->pluck('id')->all();
        $next = fn (int $after, array $holding = []): ?int => $this->next($this->mei, ['after' => $after, 'holding' => $holding])['turn']['id'] ?? null;
        self::assertSame($turns[0], $this->next($this->mei)['turn']['id']);
        // the first is skipped by going on to the third
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turns[2]}/take")->assertOk();
        self::assertSame($turns[3], $next($turns[2], [$turns[2]]));
        $this->api($this->ravi, 'post', "{$this->base}/turns/{$turns[4]}/take")->assertOk();
        self::assertSame($turns[5], $next($turns[3], [$turns[2], $turns[3]]), 'not what somebody else has open');
        self::assertSame($turns[0], $next($turns[5], [$turns[2], $turns[3], $turns[5]]), 'at the end what was skipped');
        self::assertSame($turns[3], $next($turns[2]), 'what is begun behind it comes before what is new');
        // what came back is first, wherever one is
        $this->edit($this->mei, $turns[0], [$this->create($this->ulid())]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turns[0]}/submit", [])->assertOk();
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turns[0])}/decision", ['decision' => 'return', 'reason' => 'look again'])->assertOk();
        $back = $this->next($this->mei, ['after' => $turns[2]]);
        self::assertSame(2, $back['turn']['round']);
        // a turn of nowhere is none
        self::assertNotNull($this->next($this->mei, ['after' => 999_999]));
        $this->api($this->mei, 'post', "{$this->base}/next", ['after' => 'x'])->assertStatus(422)->assertJson(['field' => 'after']);
    }

    public function test_a_review_goes_on_behind_the_one_before(): void
    {
        $this->handOut(4, [$this->mei]);
        $work = array_map(fn (): int => $this->submitOne($this->mei), range(1, 4));
        $decisions = array_map(fn (int $turn): int => $this->decisionOf($turn), $work);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$decisions[1]}/take")->assertOk();
        self::assertSame($decisions[2], $this->next($this->tobias, ['purpose' => 'review', 'after' => $decisions[1], 'holding' => [$decisions[1]]])['turn']['id']);
        self::assertSame($decisions[0], $this->next($this->tobias, ['purpose' => 'review', 'after' => $decisions[3], 'holding' => [$decisions[1], $decisions[2], $decisions[3]]])['turn']['id']);
    }

    /** Who looks at an item again sees the marks as they were when it was returned. */
    public function test_the_marks_of_an_earlier_round_are_there(): void
    {
        $this->handOut(1, [$this->mei]);
        [$moved, $gone, $kept, $come] = [$this->ulid(), $this->ulid(), $this->ulid(), $this->ulid()];
        $turn = $this->next($this->mei)['turn']['id'];
        $this->edit($this->mei, $turn, [$this->create($moved), $this->create($gone, 50, 10), $this->create($kept, 10, 45), $this->create($this->ulid(), 60, 40, 20, 20)]);
        self::assertSame(['at' => null, 'marks' => [], 'keys' => []], $this->api($this->mei, 'get', "{$this->base}/turns/{$turn}/earlier")->assertOk()->json());
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertOk();
        $this->travel(10)->seconds();
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return', 'reason' => 'look again'])->assertOk();
        $this->travel(10)->seconds();
        $second = $this->next($this->mei)['turn']['id'];
        $shape = ['x' => 15, 'y' => 12, 'width' => 30, 'height' => 30];
        $this->edit($this->mei, $second, [
            ['id' => $this->ulid(), 'action' => 'change', 'mark' => $moved, 'base' => 1, 'data' => ['geometry' => ['x' => 12] + $shape]],
            ['id' => $this->ulid(), 'action' => 'change', 'mark' => $moved, 'base' => 2, 'data' => ['geometry' => $shape]],
            ['id' => $this->ulid(), 'action' => 'delete', 'mark' => $gone, 'base' => 1],
            $this->create($come, 40, 40, 10, 10),
        ]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$second}/submit", ['anyway' => true])->assertOk();
        $review = $this->next($this->tobias, ['purpose' => 'review']);
        $earlier = $this->api($this->tobias, 'get', "{$this->base}/turns/{$review['turn']['id']}/earlier")->assertOk()->json();
        self::assertNotNull($earlier['at']);
        $was = array_column($earlier['marks'], null, 'id');
        self::assertCount(4, $was);
        self::assertSame([10, 50], [$was[$moved]['geometry']['x'], $was[$gone]['geometry']['x']]);
        self::assertSame(['value' => 'ripe'], $was[$gone]['answers']['ripeness']);
        self::assertArrayNotHasKey($come, $was);
        $this->api($this->ravi, 'get', "{$this->base}/turns/{$review['turn']['id']}/earlier")->assertStatus(404);
    }

    public function test_urgent_work_comes_first_and_what_came_back_before_that(): void
    {
        $this->items($this->project, 1, 'slope');
        $this->items($this->project, 1, 'terrace');
        $hand = fn (string $set, int $priority) => $this->assign($this->project, $this->ines, $this->mei, $this->tobias, ['sets' => [$set], 'priority' => $priority]);
        $hand('slope', 0);
        $hand('terrace', 5);
        $turn = $this->submitOne($this->mei);
        self::assertSame('terrace/p00.png', Turn::query()->findOrFail($turn)->item->path);
        $this->next($this->tobias, ['purpose' => 'review']);
        $this->api($this->tobias, 'post', "{$this->base}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return', 'reason' => 'look again'])->assertOk();
        self::assertSame('terrace/p00.png', $this->next($this->mei)['item']['path']);
    }

    public function test_handing_out_by_sentence(): void
    {
        $this->items($this->project, 6, 'slope');
        $this->items($this->project, 4, 'terrace');
        $count = fn (array $sentence): int => $this->api($this->ines, 'post', "{$this->base}/assignments/preview", $sentence)->assertOk()->json('items');
        self::assertSame([10, 4, 3, 7], [$count([]), $count(['sets' => ['terrace']]), $count(['choose' => 'first', 'count' => 3]), $count(['choose' => 'random', 'count' => 7, 'seed' => 2])]);
        $made = $this->assign($this->project, $this->ines, $this->mei, $this->tobias, ['choose' => 'first', 'count' => 3]);
        self::assertSame(['waiting' => 3], $made['states']);
        self::assertSame(7, $count([]), 'what is handed out is not in the pool');
        self::assertSame(10, $count(['pool' => 'all']));
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'sets' => ['nowhere']])->assertStatus(422)->assertJson(['field' => 'sets[0]']);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => []])->assertStatus(422);
        $this->api($this->ines, 'post', "{$this->base}/assignments", ['labellers' => [$this->mei->id], 'reviewers' => [$this->ravi->id]])->assertStatus(422)->assertJson(['field' => 'reviewers[0]']);
        $this->next($this->mei);
        $this->api($this->ines, 'delete', "{$this->base}/assignments/{$made['id']}")->assertJson(['withdrawn' => 2]);
        self::assertSame(1, Turn::query()->count(), 'what was begun stays');
    }

    public function test_the_ribbon_shows_own_and_waiting_items_only(): void
    {
        $this->handOut(4, [$this->mei, $this->ravi]);
        $mine = $this->submitOne($this->mei);
        $theirs = $this->next($this->ravi)['turn']['id'];
        $queue = $this->api($this->mei, 'get', "{$this->base}/turns/{$mine}/queue")->assertOk()->json();
        self::assertSame([1, 3, 1], [$queue['place'], $queue['total'], $queue['done']]);
        self::assertNotContains($theirs, array_column($queue['data'], 'turn'));
        $this->api($this->mei, 'post', "{$this->base}/turns/{$queue['data'][2]['turn']}/take")->assertJson(['turn' => ['mode' => 'label']]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$queue['data'][2]['turn']}/give-back")->assertNoContent();
        self::assertSame('waiting', Turn::query()->findOrFail($queue['data'][2]['turn'])->state->value);
    }

    public function test_an_item_of_the_queue_is_found_by_number_name_and_state(): void
    {
        $this->handOut(4, [$this->mei, $this->ravi]);
        $mine = $this->submitOne($this->mei);
        $this->next($this->ravi);
        $find = fn (string $query): array => $this->api($this->mei, 'get', "{$this->base}/turns/{$mine}/queue/find?{$query}")->assertOk()->json();
        $all = $find('');
        self::assertSame([1, 2, 3], array_column($all['data'], 'place'));
        self::assertSame([3, ['submitted' => 1, 'waiting' => 2]], [$all['total'], $all['states']]);
        self::assertSame([$mine], array_column($find('find=1&state=submitted')['data'], 'turn'), 'by its number');
        self::assertSame([3], array_column($find('find=p03')['data'], 'place'), 'by a part of its name');
        self::assertSame([], $find('find=%25')['data'], 'a sign of the database is a sign like any other');
        self::assertSame(['submitted', 'waiting', 'waiting'], array_column($find('sort=state')['data'], 'state'));
        self::assertCount(2, $find('state=waiting')['data']);
        foreach (['state=lost', 'sort=beauty', 'find='.str_repeat('a', 201)] as $bad) {
            $this->api($this->mei, 'get', "{$this->base}/turns/{$mine}/queue/find?{$bad}")->assertStatus(422);
        }
    }

    public function test_items_are_filtered_and_paged(): void
    {
        $this->items($this->project, 3, 'slope');
        $this->items($this->project, 2, 'old wall');
        $paths = fn (string $query): array => array_column($this->api($this->ines, 'get', "{$this->base}/items?{$query}")->assertOk()->json('data'), 'path');
        self::assertSame(['old wall/p00.png', 'old wall/p01.png'], $paths('set=old%20wall'));
        self::assertSame(['slope/p02.png'], $paths('name=p02&set=slope'));
        self::assertSame(['slope/p01.png', 'slope/p02.png'], $paths('offset=3'));
        self::assertSame([], $paths('state=accepted'));
        $this->api($this->ines, 'get', "{$this->base}/items?state=sleepy")->assertStatus(422)->assertJson(['field' => 'state']);
        $this->api($this->ines, 'get', "{$this->base}/sets")->assertJson(['data' => [['path' => 'old wall', 'items' => 2, 'new' => 2], ['path' => 'slope', 'items' => 3, 'new' => 3]]]);
        self::assertSame(5, Item::query()->count());
    }

    /** Labels that came in have turns without an assignment; those of another project are none of this one's. */
    public function test_the_ribbon_shows_only_items_of_its_own_project(): void
    {
        $other = $this->project('Elsewhere');
        $turns = [];
        foreach ([$this->project, $other] as $i => $project) {
            $item = $this->items($project, 1, "ribbon {$i}")[0];
            $turns[] = Turn::query()->create(['project_id' => $project->id, 'item_id' => $item->id, 'stage' => 'label', 'pass' => 1, 'round' => 1, 'layer_id' => Layers::agreed($item->id)->id, 'state' => 'waiting'])->id;
        }
        self::assertSame([$turns[0]], array_column($this->api($this->ines, 'get', "{$this->base}/turns/{$turns[0]}/queue")->assertOk()->json('data'), 'turn'));
    }

    public function test_a_box_with_too_much_air_is_doubted_at_submit_and_passes_when_insisted(): void
    {
        $document = Samples::document();
        $document['classes'][0]['rules'] = ['margin' => ['min' => 0, 'max' => 3, 'unit' => 'px']];
        $project = $this->project('Tight', $document);
        [$manager, $mei] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller)];
        $image = new \Imagick;
        $image->newImage(200, 160, 'black');
        $draw = new \ImagickDraw;
        $draw->setFillColor('white');
        $draw->rectangle(60, 50, 119, 99);
        $image->drawImage($draw);
        $image->setImageFormat('png');
        $image->writeImage($file = $this->temporary().'/fruit.png');
        app(\App\Intake\TakeFiles::class)->one($project, $file, 'fruit.png', false);
        $this->assign($project, $manager, $mei, null);
        $turn = $this->api($mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        $path = "/projects/{$project->id}/turns/{$turn}";
        $mark = $this->ulid();
        $this->api($mei, 'post', "{$path}/edits", ['edits' => [$this->create($mark, 50, 40, 80, 70)]])->assertOk();
        $this->api($mei, 'post', "{$path}/submit", ['nothing' => false])->assertStatus(422)->assertJson(['code' => 'doubts', 'findings' => [['code' => 'air', 'mark' => $mark, 'stops' => false]]]);
        $this->api($mei, 'post', "{$path}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['geometry' => ['x' => 59, 'y' => 49, 'width' => 62, 'height' => 52]]]]])->assertOk();
        $this->api($mei, 'post', "{$path}/submit", ['nothing' => false])->assertOk();
        $this->api($mei, 'post', "{$path}/take-back", [])->assertOk();
        $this->api($mei, 'post', "{$path}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 2, 'data' => ['geometry' => ['x' => 50, 'y' => 40, 'width' => 80, 'height' => 70]]]]])->assertOk();
        $this->api($mei, 'post', "{$path}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
    }

    public function test_a_batch_with_too_many_points_is_sent_back_whole(): void
    {
        $project = $this->project('Outlines', ['skeno' => 'codebook/1', 'classes' => [['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['polygon']]]]);
        [$manager, $mei] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller)];
        $this->items($project, 1, 'outlines');
        $this->assign($project, $manager, $mei, null);
        $turn = $this->api($mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        $ring = [];
        for ($i = 0; $i < 9000; $i++) {
            array_push($ring, 50 + 30 * cos($i / 9000 * 2 * M_PI), 40 + 30 * sin($i / 9000 * 2 * M_PI));
        }
        $leaf = fn (): array => ['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => ['class' => 'leaf', 'kind' => 'polygon', 'geometry' => ['rings' => [$ring]], 'answers' => (object) []]];
        $path = "/projects/{$project->id}/turns/{$turn}/edits";
        $this->api($mei, 'post', $path, ['edits' => array_map(static fn (): array => $leaf(), range(1, 6))])->assertStatus(413)->assertJson(['code' => 'batch_too_large']);
        self::assertSame(0, \App\Models\MarkRow::query()->where('project_id', $project->id)->count());
        $this->api($mei, 'post', $path, ['edits' => [$leaf(), $leaf()]])->assertOk()->assertJsonPath('results.1.outcome', 'applied');
    }
}
