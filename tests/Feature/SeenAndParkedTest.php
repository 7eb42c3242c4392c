<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\Turn;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Tests\TestCase;

/** What must have been looked at before it is done, what is set aside, and what is asked from the bench. */
final class SeenAndParkedTest extends TestCase
{
    private Project $project;

    private User $manager;

    private User $mei;

    private User $tobias;

    private string $path;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        [$this->manager, $this->mei, $this->tobias] = [$this->member($this->project, Role::Manager), $this->member($this->project, Role::Labeller), $this->member($this->project, Role::Reviewer)];
        // four cells
        $this->items($this->project, 2, 'slope', 120, 100);
        $this->assign($this->project, $this->manager, $this->mei, $this->tobias);
        $this->path = "/projects/{$this->project->id}";
    }

    private function take(): int
    {
        return $this->api($this->mei, 'post', "{$this->path}/next", [])->assertOk()->json('packet.turn.id');
    }

    public function test_all_must_be_seen_before_nothing_submit_and_accept(): void
    {
        $this->api($this->manager, 'patch', $this->path, ['require_seen' => true, 'seen_zoom' => 1.5])->assertOk()->assertJson(['require_seen' => true, 'seen_zoom' => 1.5]);
        $turn = $this->take();
        $this->api($this->mei, 'get', "{$this->path}/turns/{$turn}")->assertJson(['seen' => ['cells' => '0000', 'zoom' => 1.5, 'required' => true]]);
        foreach (['01', '01201', '01 0', ''] as $bad) {
            $this->api($this->mei, 'put', "{$this->path}/turns/{$turn}/seen", ['cells' => $bad])->assertStatus(422);
        }
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/submit", ['nothing' => true])->assertStatus(422)->assertJson(['code' => 'not_seen']);
        $this->api($this->mei, 'put', "{$this->path}/turns/{$turn}/seen", ['cells' => '0110'])->assertOk()->assertJson(['cells' => '0110', 'share' => 0.5]);
        // what was seen stays, whatever is sent later or twice
        $this->api($this->mei, 'put', "{$this->path}/turns/{$turn}/seen", ['cells' => '0001'])->assertJson(['cells' => '0111']);
        $refused = $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/submit", ['nothing' => true, 'anyway' => true])->assertStatus(422);
        self::assertStringContainsString('25 %', $refused->json('detail'));
        self::assertSame('open', Turn::query()->findOrFail($turn)->state->value);
        $this->api($this->mei, 'put', "{$this->path}/turns/{$turn}/seen", ['cells' => '1000'])->assertJson(['share' => 1]);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/submit", ['nothing' => true])->assertOk();
        // the reviewer has eyes of their own
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($turn)}/take")->assertOk()->assertJson(['seen' => ['cells' => '0000']]);
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertStatus(422)->assertJson(['code' => 'not_seen']);
        $this->api($this->tobias, 'put', "{$this->path}/turns/{$this->decisionOf($turn)}/seen", ['cells' => '1111'])->assertOk();
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'accept'])->assertOk();
        foreach ([0.05, 9, 'near'] as $bad) {
            $this->api($this->manager, 'patch', $this->path, ['seen_zoom' => $bad])->assertStatus(422);
        }
    }

    public function test_to_return_nothing_need_be_seen(): void
    {
        $turn = $this->take();
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/submit", ['nothing' => true])->assertOk();
        $this->api($this->manager, 'patch', $this->path, ['require_seen' => true])->assertOk();
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($turn)}/decision", ['decision' => 'return', 'reason' => 'there is one'])->assertOk();
    }

    public function test_a_parked_item_waits_for_its_person_with_its_reason(): void
    {
        $turn = $this->take();
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/edits", ['edits' => [$this->create($mark = $this->ulid())]])->assertOk();
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => ' '])->assertStatus(422)->assertJson(['field' => 'reason']);
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => 'mine'])->assertStatus(409);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => 'is this scab or dirt?'])->assertOk()->assertJson(['state' => 'parked']);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => 'twice'])->assertStatus(409);
        $item = Turn::query()->findOrFail($turn)->item_id;
        $this->api($this->manager, 'get', "{$this->path}/items?f[]=state:parked")->assertJson(['total' => 1]);
        $this->api($this->manager, 'get', "{$this->path}/items/{$item}")->assertJson(['parked' => ['by' => $this->mei->name, 'reason' => 'is this scab or dirt?']]);
        // it is in no queue, and an edit that comes late finds it closed
        $next = $this->take();
        self::assertNotSame($turn, $next);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/edits", ['edits' => []])->assertStatus(409);
        $this->api($this->mei, 'get', '/work')->assertJsonPath('projects.0.parked.0.reason', 'is this scab or dirt?')->assertJsonPath('projects.0.parked.0.turn', $turn);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/take")->assertOk()->assertJsonPath('turn.mode', 'label')->assertJsonPath('turn.parked_because', '')->assertJsonPath('marks.0.id', $mark);
        $this->api($this->mei, 'get', '/work')->assertJsonPath('projects.0.parked', []);
        // parked once more, the manager gives it to whoever comes
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => 'too dark'])->assertOk();
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/put-back")->assertStatus(403);
        $this->api($this->manager, 'post', "{$this->path}/turns/{$turn}/put-back")->assertOk()->assertJson(['state' => 'waiting']);
        $this->api($this->manager, 'post', "{$this->path}/turns/{$turn}/put-back")->assertStatus(409);
        self::assertNull(Turn::query()->findOrFail($turn)->user_id);
    }

    /** What a manager's start page lists: each with its count and how long the oldest has waited, and nothing that waits for somebody else. */
    public function test_what_waits_for_a_decision_is_named_to_the_manager(): void
    {
        $needs = fn (User $who): array => $this->api($who, 'get', '/work')->assertOk()->json('needs');
        self::assertSame([], $needs($this->manager));
        $this->travelTo($parked = now()->subDays(9)->startOfSecond());
        $turn = $this->take();
        $this->api($this->mei, 'post', "{$this->path}/turns/{$turn}/park", ['reason' => 'scab or dirt?'])->assertOk();
        $this->travelTo($asked = now()->addDay());
        $other = $this->take();
        $this->api($this->mei, 'post', "{$this->path}/proposals", ['kind' => 'question', 'text' => 'Which?', 'turn' => $other])->assertStatus(201);
        $this->api($this->mei, 'post', "{$this->path}/proposals", ['kind' => 'class', 'name' => 'Dirt', 'text' => ''])->assertStatus(201);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$other}/submit", ['nothing' => true])->assertOk();
        $this->travelTo($returned = now()->addDay());
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($other)}/take")->assertOk();
        $this->api($this->tobias, 'post', "{$this->path}/turns/{$this->decisionOf($other)}/decision", ['decision' => 'return', 'reason' => 'look again'])->assertOk();
        // what came back yesterday is the labeller's to take up; after three days it is the manager's to ask about
        $this->travelTo($returned->copy()->addDays(2));
        self::assertSame(['parked', 'proposals', 'questions'], collect($needs($this->manager))->pluck('kind')->sort()->values()->all());
        $this->travelTo($returned->copy()->addDays(4));
        $found = $needs($this->manager);
        $since = array_column($found, 'since', 'kind');
        self::assertSame(['parked' => $parked->format('Y-m-d\TH:i:s\Z'), 'returned' => $returned->format('Y-m-d\TH:i:s\Z')], array_intersect_key($since, ['parked' => 0, 'returned' => 0]));
        self::assertSame($asked->format('Y-m-d\TH:i:s\Z'), $since['questions']);
        self::assertSame([1, 1, 1, 1], array_column($found, 'count'));
        self::assertSame('parked', $found[0]['kind'], 'who waits longest stands first');
        self::assertSame([$this->project->id, $this->project->name], [$found[0]['project']['id'], $found[0]['project']['name']]);
        // nobody is told what is not theirs to decide
        foreach ([$this->mei, $this->tobias, $this->member($this->project(name: 'Elsewhere'), Role::Manager)] as $who) {
            self::assertSame([], $needs($who));
        }
        // taken up again, it waits for nobody
        $this->api($this->mei, 'post', "{$this->path}/turns/{$other}/take")->assertOk();
        self::assertNotContains('returned', array_column($needs($this->manager), 'kind'));
        DB::table('imports')->insert(['project_id' => $this->project->id, 'user_id' => $this->manager->id, 'state' => 'failed', 'created_at' => now(), 'updated_at' => now()]);
        self::assertContains('imports', array_column($needs($this->manager), 'kind'));
    }

    public function test_a_question_is_answered_at_the_item(): void
    {
        $turn = $this->take();
        $ask = fn (User $who, array $body) => $this->api($who, 'post', "{$this->path}/proposals", ['kind' => 'question'] + $body);
        $ask($this->mei, ['text' => '', 'turn' => $turn])->assertStatus(422)->assertJson(['field' => 'text']);
        $ask($this->mei, ['text' => 'Which?'])->assertStatus(422)->assertJson(['field' => 'turn']);
        $id = $ask($this->mei, ['text' => 'Scab or dirt?', 'turn' => $turn])->assertStatus(201)->json('id');
        $this->api($this->manager, 'get', '/projects')->assertJsonPath('data.0.questions', 1)->assertJsonPath('data.0.proposals', 0);
        $this->api($this->tobias, 'get', "{$this->path}/proposals")->assertJsonPath('data.0.text', 'Scab or dirt?');
        $this->api($this->mei, 'patch', "{$this->path}/proposals/{$id}", ['state' => 'taken', 'answer' => 'scab'])->assertStatus(403);
        $this->api($this->tobias, 'patch', "{$this->path}/proposals/{$id}", ['state' => 'taken', 'answer' => 'Dirt: it wipes off.'])->assertOk();
        $this->api($this->mei, 'get', "{$this->path}/turns/{$turn}")->assertJsonPath('questions.0.answer', 'Dirt: it wipes off.')->assertJsonPath('questions.0.answered_by', $this->tobias->name);
        $this->api($this->mei, 'get', '/work')->assertJsonPath('answers.0.proposal.kind', 'question');
        // a reviewer has no word on classes
        $class = $this->api($this->mei, 'post', "{$this->path}/proposals", ['kind' => 'class', 'name' => 'Dirt', 'text' => ''])->assertStatus(201)->json('id');
        $this->api($this->tobias, 'patch', "{$this->path}/proposals/{$class}", ['state' => 'taken'])->assertStatus(403);
        self::assertSame(1, DB::table('proposals')->where('kind', 'class')->where('state', 'open')->count());
    }
}
