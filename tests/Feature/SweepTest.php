<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\User;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

/** One question over many: what a sweep is given, and that it goes on where it is while answers change what is found. */
final class SweepTest extends TestCase
{
    private Project $project;

    private User $manager;

    protected function setUp(): void
    {
        parent::setUp();
        $document = Samples::document();
        $document['attributes'][] = ['key' => 'usable', 'name' => 'Usable', 'type' => 'yesno', 'scope' => 'item', 'no_value' => ['unsure']];
        $document['tags'] = [['key' => 'backlit', 'name' => 'Backlit', 'group' => 'light'], ['key' => 'flat', 'name' => 'Flat', 'group' => 'light'], ['key' => 'wet', 'name' => 'Wet']];
        $this->project = $this->project(document: $document);
        $this->manager = $this->member($this->project, Role::Manager);
    }

    private function found(string $query, ?User $as = null): array
    {
        return $this->api($as ?? $this->manager, 'get', "/projects/{$this->project->id}/{$query}")->assertOk()->json();
    }

    /** Says something of an item. @return array<string, mixed> its outcome */
    private function say(int $item, int $base, array $said): array
    {
        return $this->api($this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => [['item' => $item, 'id' => $this->ulid(), 'action' => $base === 0 ? 'create' : 'change', 'mark' => null, 'base' => $base, 'data' => ['kind' => 'item', ...$said]]]])->assertOk()->json('results.0');
    }

    public function test_an_answer_sweep_goes_on_behind_what_it_has_seen(): void
    {
        $items = $this->items($this->project, 3);
        $edits = [];
        foreach ([0, 0, 1, 1, 2] as $i) {
            $edit = $this->create($this->ulid());
            unset($edit['data']['answers']);
            $edits[] = ['item' => $items[$i]->id] + $edit;
        }
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => $edits])->assertOk();
        $first = $this->found('objects?question=ripeness&answer=open&sort=item&limit=2');
        self::assertSame(5, $first['total']);
        self::assertSame([$edits[0]['mark'], $edits[1]['mark']], array_column(array_column($first['data'], 'mark'), 'id'));
        // the first is answered, so that fewer are found: what comes next is still the third
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => [['item' => $items[0]->id, 'id' => $this->ulid(), 'action' => 'answer', 'mark' => $edits[0]['mark'], 'base' => 1, 'data' => ['attribute' => 'ripeness', 'answer' => ['value' => 'ripe']]]]])->assertJsonPath('results.0.outcome', 'applied');
        $next = $this->found("objects?question=ripeness&answer=open&sort=item&after={$edits[1]['mark']}");
        self::assertSame(array_column(array_slice($edits, 2), 'mark'), array_column(array_column($next['data'], 'mark'), 'id'));
        // without a question: whatever has one open that is always asked
        self::assertSame(5, $this->found('objects?answer=open')['total'], 'damage is open everywhere');
        self::assertSame(0, $this->found('objects?answer=open&class=scab')['total']);
        foreach (['objects?after=nobody', "objects?sort=size&after={$edits[0]['mark']}", 'objects?answer=ripe'] as $bad) {
            $this->api($this->manager, 'get', "/projects/{$this->project->id}/{$bad}")->assertStatus(422);
        }
    }

    public function test_what_is_said_of_items_is_swept_by_question_and_by_tags(): void
    {
        $items = $this->items($this->project, 4);
        [$a, $b, $c] = array_map(static fn ($item): int => $item->id, $items);
        self::assertSame('applied', $this->say($a, 0, ['answers' => ['usable' => ['value' => true]], 'tags' => ['flat', 'wet']])['outcome']);
        $this->say($b, 0, ['answers' => ['usable' => ['value' => false]], 'tags' => ['wet']]);
        $this->say($c, 0, ['answers' => ['usable' => ['no_value' => 'unsure']], 'tags' => []]);
        $found = fn (string $query): array => array_map(static fn (array $one): int => (int) substr($one['item']['name'], 1, 2), $this->found("said?{$query}")['data']);
        self::assertSame([0, 1, 2, 3], $found('question=usable'));
        self::assertSame([3], $found('question=usable&answer=open'));
        self::assertSame([0], $found('question=usable&answer=yes'));
        self::assertSame([1], $found('question=usable&answer=no'));
        self::assertSame([2], $found('question=usable&answer=no:unsure'));
        self::assertSame([1, 2, 3], $found('group=light&answer=open'), 'wet says nothing of the light');
        self::assertSame([0], $found('group=light&answer=flat'));
        self::assertSame([2, 3], $found('tag=wet&answer=open'));
        self::assertSame([2, 3], $found("group=light&after={$b}"));
        self::assertSame([0], $found('group=light&limit=1'));
        self::assertSame([], $found('group=light&set=elsewhere'));
        // a stale base is a conflict here too
        self::assertSame('conflict', $this->say($a, 0, ['tags' => []])['outcome']);
        self::assertSame(['flat', 'wet'], $this->found('said?group=light')['data'][0]['said']['tags']);
        foreach (['', 'question=ripeness', 'group=weather', 'question=usable&answer=blue', 'group=light&answer=wet', 'group=light&after=x', 'group=light&limit=0'] as $bad) {
            $this->api($this->manager, 'get', "/projects/{$this->project->id}/said?{$bad}")->assertStatus(422);
        }
        // labellers sweep over what waits for them, others over nothing
        $mei = $this->member($this->project, Role::Labeller);
        self::assertSame(0, $this->found('said?group=light', $mei)['total']);
        $this->assign($this->project, $this->manager, $mei, null, ['pool' => 'all', 'choose' => 'first', 'count' => 2]);
        self::assertSame(2, $this->found('said?group=light', $mei)['total']);
        $this->api($this->member($this->project, Role::Guest), 'get', "/projects/{$this->project->id}/said?group=light")->assertStatus(403);
    }
}
