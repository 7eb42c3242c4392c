<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Codebooks\Codebooks;
use App\Models\CodebookChange;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use App\Rewording\ApplyCodebookChange;
use App\Rewording\ChangeCodebook;
use App\Rewording\RewriteMarks;
use App\Support\Refusal;
use App\Upkeep\Resume;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

/** A codebook changed after labelling has begun: what becomes of the labels, and of hands that are just drawing. */
final class CodebookChangeTest extends TestCase
{
    private Project $project;

    private User $manager;

    private User $mei;

    private int $turn;

    protected function setUp(): void
    {
        parent::setUp();
        $document = Samples::document();
        $document['attributes'][] = ['key' => 'usable', 'name' => 'Usable', 'type' => 'yesno', 'scope' => 'item'];
        $document['tags'] = [['key' => 'wet', 'name' => 'Wet']];
        $this->project = $this->project('Canopy', $document);
        [$this->manager, $this->mei] = [$this->member($this->project, Role::Manager), $this->member($this->project, Role::Labeller)];
        $this->items($this->project, 2);
        $this->assign($this->project, $this->manager, $this->mei, null);
        $this->turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", [])->json('packet.turn.id');
    }

    /** @return array<string, mixed> */
    private function pears(): array
    {
        $document = $this->project->codebookVersion()->codebook()->toArray();
        $document['classes'][0] = ['key' => 'pear', 'name' => 'Pear'] + $document['classes'][0];
        $document['attributes'][0]['options'][1] = ['key' => 'ready', 'name' => 'Ready'];
        $document['tags'] = [['key' => 'moist', 'name' => 'Moist']];

        return $document;
    }

    private const MAPPING = ['class:apple' => 'pear', 'answer:ripeness=ripe' => 'ready', 'tag:wet' => 'moist'];

    /** @param  list<array<string, mixed>>  $edits */
    private function edit(array $edits): \Illuminate\Testing\TestResponse
    {
        return $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$this->turn}/edits", ['edits' => $edits]);
    }

    private function save(array $document, array $mapping = [], int $base = 1): \Illuminate\Testing\TestResponse
    {
        return $this->api($this->manager, 'put', "/projects/{$this->project->id}/codebook", ['base' => $base, 'document' => $document, 'mapping' => (object) $mapping, 'note' => 'pears']);
    }

    public function test_a_mapping_takes_the_labels_along_and_is_recorded(): void
    {
        $mark = $this->ulid();
        $this->edit([$this->create($mark), ['id' => $this->ulid(), 'action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => ItemAnswers::KIND, 'answers' => ['usable' => ['value' => true]], 'tags' => ['wet']]]])->assertOk();

        $check = fn (array $mapping): array => $this->api($this->manager, 'post', "/projects/{$this->project->id}/codebook/check", ['document' => $this->pears(), 'mapping' => (object) $mapping])->assertOk()->json();
        // the answers of a class without a place are not asked about before the class has one
        self::assertSame(['class:apple', 'tag:wet'], array_column($check([])['orphans'], 'address'));
        self::assertSame(['answer:ripeness=ripe', 'tag:wet'], array_column($check(['class:apple' => 'pear'])['orphans'], 'address'));
        self::assertSame([[], true], [$check(self::MAPPING)['orphans'], $check(self::MAPPING)['rewrites']]);
        $this->save($this->pears(), self::MAPPING)->assertOk()->assertJson(['version' => 2]);

        $row = MarkRow::query()->findOrFail($mark);
        self::assertSame(['pear', ['ripeness' => ['value' => 'ready']], 1], [$row->class, $row->answers, $row->revision]);
        self::assertSame([['moist'], 1], [Layer::query()->where('revision', 1)->sole()->tags, Layer::query()->max('revision')]);
        $history = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$this->turn}/marks/{$mark}/history")->assertOk()->json('data');
        self::assertSame(['remap', 'create'], array_column($history, 'action'));
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/codebook/versions")->assertJsonPath('data.0.report.0.fate', 'renamed');
        self::assertSame(['class:apple' => 'pear'], array_intersect_key($this->project->codebookVersion()->mapping, ['class:apple' => 1]));
        self::assertSame(2, CodebookChange::query()->sole()->rewritten);
    }

    /** Which words are in use takes seconds to look up at a million marks: nobody's write waits for it, and no label slips in between. */
    public function test_words_in_use_are_looked_up_outside_the_write_lock_while_edits_of_the_project_wait(): void
    {
        $this->edit([$this->create($this->ulid())])->assertOk();
        $outside = DB::transactionLevel();
        $seen = [];
        $refused = null;
        DB::listen(function ($query) use (&$seen, &$refused): void {
            if (! str_contains($query->sql, 'group by "class", "kind"')) {
                return;
            }
            $seen[] = [DB::transactionLevel(), DB::table('codebook_changes')->value('state')];
            try {
                Codebooks::mustBeSteady($this->project->id);
            } catch (Refusal $e) {
                $refused = $e->reason;
            }
        });
        // an orphan: nothing stays behind, and edits go on
        $this->save($this->pears())->assertStatus(409)->assertJson(['code' => 'labels_orphaned']);
        self::assertSame('codebook_changing', $refused);
        self::assertSame([0, 1], [CodebookChange::query()->count(), $this->project->codebooks()->count()]);
        $this->edit([$this->create($this->ulid())])->assertOk();
        // a name alone needs no rewriting
        $document = $this->project->codebookVersion()->codebook()->toArray();
        $document['classes'][0]['name'] = 'Pome';
        $this->save($document)->assertOk()->assertJson(['version' => 2]);
        self::assertSame(0, CodebookChange::query()->count());
        $document['classes'][0]['key'] = 'pome';
        $this->save($document, ['class:apple' => 'pome'], 2)->assertOk();
        self::assertSame(['done', 2], [CodebookChange::query()->sole()->state, MarkRow::query()->where('class', 'pome')->count()]);
        self::assertSame(array_fill(0, 3, [$outside, CodebookChange::CHECKING]), $seen);
    }

    public function test_a_save_that_was_killed_while_it_looked_up_words_does_not_keep_edits_waiting(): void
    {
        $change = CodebookChange::query()->create(['project_id' => $this->project->id, 'base' => 1, 'body' => '{}', 'mapping' => [], 'report' => [], 'state' => CodebookChange::CHECKING]);
        $this->edit([$this->create($this->ulid())])->assertStatus(503)->assertJson(['code' => 'codebook_changing']);
        app(Resume::class)();
        self::assertTrue($change->exists());
        $this->travel(4)->minutes();
        app(Resume::class)();
        $this->edit([$this->create($this->ulid())])->assertOk();
    }

    public function test_what_an_open_bench_did_under_the_old_words_arrives_in_the_new(): void
    {
        $mark = $this->ulid();
        $this->edit([$this->create($mark)])->assertOk();
        $this->save($this->pears(), self::MAPPING)->assertOk();
        // the bench has not heard of it: it moves the mark, draws another, and answers, all in the old words
        $offline = $this->ulid();
        $move = ['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'codebook' => 1, 'data' => $this->create($mark, 50)['data']];
        $answer = $this->edit([$move, ['codebook' => 1] + $this->create($offline, 5)])->assertOk()->assertJson(['codebook_version' => 2, 'findings' => []]);
        self::assertSame(['applied', 'applied'], array_column($answer->json('results'), 'outcome'));
        foreach ([$mark, $offline] as $id) {
            self::assertSame(['pear', ['ripeness' => ['value' => 'ready']]], [MarkRow::query()->findOrFail($id)->class, MarkRow::query()->findOrFail($id)->answers]);
        }
        self::assertSame(50, MarkRow::query()->findOrFail($mark)->geometry['x']);
        // the same words without saying of which version are those of the latest, and it has no apple
        self::assertSame('refused', $this->edit([$this->create($this->ulid())])->json('results.0.outcome'));
        self::assertSame('refused', $this->edit([['codebook' => 9] + $this->create($this->ulid())])->json('results.0.outcome'));
        $bare = ['id' => $this->ulid(), 'action' => 'answer', 'mark' => $mark, 'base' => 2, 'codebook' => 1, 'data' => ['attribute' => 'ripeness', 'answer' => ['value' => 'ripe']]];
        self::assertStringContainsString('class', (string) $this->edit([$bare])->json('results.0.reason'));
    }

    public function test_a_mark_of_a_class_that_is_gone_is_kept_for_the_check_to_find(): void
    {
        $document = $this->project->codebookVersion()->codebook()->toArray();
        array_splice($document['classes'], 1, 1);
        $this->save($document)->assertOk();
        $mark = $this->ulid();
        $scab = ['codebook' => 1] + $this->create($mark);
        $scab['data'] = ['class' => 'scab', 'answers' => (object) []] + $scab['data'];
        $this->edit([$scab])->assertOk()->assertJsonPath('results.0.outcome', 'applied')->assertJsonPath('findings.0.code', 'class_unknown');
        // it can be moved as it is, and given a class there is
        $moved = ['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['class' => 'scab', 'answers' => (object) [], 'geometry' => ['x' => 1, 'y' => 1, 'width' => 30, 'height' => 30]]];
        $this->edit([$moved])->assertJsonPath('results.0.outcome', 'applied');
        $this->edit([['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 2, 'data' => ['class' => 'blurred', 'answers' => (object) []]]])->assertJsonPath('results.0.outcome', 'applied')->assertJsonPath('findings', []);
    }

    public function test_taking_a_class_away_deletes_its_marks_with_history(): void
    {
        $mark = $this->ulid();
        $this->edit([$this->create($mark)])->assertOk();
        $document = $this->project->codebookVersion()->codebook()->toArray();
        array_splice($document['classes'], 0, 1);
        $document['attributes'] = array_slice($document['attributes'], 4);
        $this->save($document)->assertStatus(409)->assertJson(['code' => 'labels_orphaned']);
        $this->save($document, ['class:apple' => null])->assertOk();
        self::assertNotNull(MarkRow::query()->findOrFail($mark)->deleted_at);
        self::assertSame('Apple', json_decode((string) DB::table('codebooks')->where('version', 1)->value('body'), true)['classes'][0]['name']);
        self::assertSame(0, $this->project->items()->sum('mark_count'));
        self::assertStringContainsString('"apple"', (string) DB::table('mark_history')->where('mark_id', $mark)->where('action', 'delete')->value('before'));
    }

    public function test_while_labels_are_rewritten_edits_wait_and_no_second_change_begins(): void
    {
        Queue::fake();
        $this->edit([$this->create($this->ulid())])->assertOk();
        $this->save($this->pears(), self::MAPPING)->assertStatus(202)->assertJson(['version' => 1]);
        Queue::assertPushed(ApplyCodebookChange::class);
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/codebook/change")->assertJson(['change' => ['version' => 2, 'done' => 0, 'total' => 1]]);
        $late = ['codebook' => 1] + $this->create($this->ulid());
        $this->edit([$late])->assertStatus(503)->assertJson(['code' => 'codebook_changing']);
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$this->turn}/submit", ['nothing' => false])->assertStatus(503);
        $this->save($this->pears(), self::MAPPING)->assertStatus(503);
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/releases", ['recipe' => []])->assertStatus(503);
        app(RewriteMarks::class)(CodebookChange::query()->sole());
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/codebook/change")->assertJson(['change' => null]);
        $this->edit([$late])->assertOk()->assertJsonPath('results.0.mark.class', 'pear');
    }

    /** Two classes swap their keys: a mark translated twice would be what it was before. */
    public function test_a_killed_worker_goes_on_where_it_was_and_translates_nothing_twice(): void
    {
        Queue::fake();
        $ids = [];
        foreach (range(0, 5) as $i) {
            $edit = $this->create($ids[] = $this->ulid(), 5 + $i);
            $edit['data'] = ['class' => $i % 2 === 0 ? 'scab' : 'blurred', 'answers' => (object) []] + $edit['data'];
            $this->edit([$edit])->assertJsonPath('results.0.outcome', 'applied');
        }
        sort($ids);
        $before = MarkRow::query()->orderBy('id')->pluck('class')->all();
        $document = $this->project->codebookVersion()->codebook()->toArray();
        $this->save($document, ['class:scab' => 'blurred', 'class:blurred' => 'scab'])->assertStatus(202);
        $change = CodebookChange::query()->sole();
        // what a first chunk would have done before the worker was killed
        $swap = ['scab' => 'blurred', 'blurred' => 'scab'];
        foreach (array_slice($ids, 0, 2) as $i => $id) {
            MarkRow::query()->whereKey($id)->update(['class' => $swap[$before[$i]]]);
        }
        $change->update(['cursor' => $ids[1], 'done' => 2]);
        app(RewriteMarks::class)($change->refresh());
        app(RewriteMarks::class)($change->refresh());
        self::assertSame(array_map(static fn (string $class): string => $swap[$class], $before), MarkRow::query()->orderBy('id')->pluck('class')->all());
        self::assertSame([6, 'done', 2], [$change->refresh()->done, $change->state, $this->project->codebookVersion()->version]);
    }

    public function test_nodes_follow_inside_the_shape_and_what_lost_all_of_them_is_gone(): void
    {
        $document = Samples::shapes()->toArray();
        $project = $this->project('Cards', $document);
        $this->items($project, 1, 'cards');
        foreach (['manager' => $this->manager, 'labeller' => $this->mei] as $role => $user) {
            DB::table('memberships')->insert(['project_id' => $project->id, 'user_id' => $user->id, 'role' => $role, 'created_at' => now(), 'updated_at' => now()]);
        }
        $this->assign($project, $this->manager, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        $pose = fn (array $nodes): array => ['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'data' => ['class' => 'moth', 'kind' => 'skeleton', 'answers' => (object) [], 'geometry' => ['nodes' => array_map(static fn (int $x): array => ['x' => $x, 'y' => 5, 'state' => 'visible'], $nodes)]]];
        $edits = [$pose(['head' => 10, 'fore_l' => 20]), $pose(['fore_l' => 30])];
        $this->api($this->mei, 'post', "/projects/{$project->id}/turns/{$turn}/edits", ['edits' => $edits])->assertOk()->assertJsonPath('results.1.outcome', 'applied');
        $json = (string) json_encode($document);
        $new = Codebook::fromJson(str_replace('"key":"head"', '"key":"front"', str_replace('["head"', '["front"', $json)));
        $mapping = Mapping::fromArray(['node:moth/head' => 'front', 'node:moth/fore_l' => null]);
        app(ChangeCodebook::class)->change($project, $new, $mapping, 1, '', null);
        self::assertSame(2, $project->codebookVersion()->version);
        self::assertSame(['front'], array_keys(MarkRow::query()->findOrFail($edits[0]['mark'])->geometry['nodes']));
        self::assertNotNull(MarkRow::query()->findOrFail($edits[1]['mark'])->deleted_at);
        self::assertSame(1, (int) $project->items()->sum('mark_count'));
    }

    public function test_a_node_that_is_gone_is_kept_at_the_mark_that_was_drawn_with_it(): void
    {
        $project = $this->project('Cards', Samples::shapes()->toArray());
        foreach (['manager' => $this->manager, 'labeller' => $this->mei] as $role => $user) {
            DB::table('memberships')->insert(['project_id' => $project->id, 'user_id' => $user->id, 'role' => $role, 'created_at' => now(), 'updated_at' => now()]);
        }
        $this->items($project, 1, 'cards');
        $this->assign($project, $this->manager, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        // nobody has used the node, so it goes without a word; a bench without a network has it still
        $json = (string) json_encode(Samples::shapes()->toArray());
        app(ChangeCodebook::class)->change($project, Codebook::fromJson(str_replace('"head"', '"front"', $json)), Mapping::none(), 1, '', null);
        $send = fn (array $edit): \Illuminate\Testing\TestResponse => $this->api($this->mei, 'post', "/projects/{$project->id}/turns/{$turn}/edits", ['edits' => [$edit]])->assertOk();
        $mark = $this->ulid();
        $drawn = ['class' => 'moth', 'kind' => 'skeleton', 'answers' => (object) [], 'geometry' => ['nodes' => ['head' => ['x' => 10, 'y' => 5, 'state' => 'visible']]]];
        $new = ['action' => 'create', 'base' => 0, 'data' => $drawn];
        self::assertSame('refused', $send(['id' => $this->ulid(), 'mark' => $this->ulid()] + $new)->json('results.0.outcome'));
        $send(['id' => $this->ulid(), 'mark' => $mark, 'codebook' => 1] + $new)->assertJsonPath('results.0.outcome', 'applied')->assertJsonPath('findings.0.code', 'node_unknown');
        $drawn['geometry']['nodes']['head']['x'] = 20;
        $send(['id' => $this->ulid(), 'action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => $drawn])->assertJsonPath('results.0.outcome', 'applied');
    }

    public function test_words_of_two_versions_ago_are_still_understood(): void
    {
        $codebooks = app(ChangeCodebook::class);
        $document = $this->pears();
        $codebooks->change($this->project, Codebook::fromArray($document), Mapping::fromArray(self::MAPPING), 1, '', null);
        // nothing is in use yet, so the mapping is only recorded
        self::assertSame(2, $this->project->codebookVersion()->version);
        $document['classes'][0] = ['key' => 'quince', 'name' => 'Quince'] + $document['classes'][0];
        $codebooks->change($this->project, Codebook::fromArray($document), Mapping::fromArray(['class:pear' => 'quince']), 2, '', null);
        $this->edit([['codebook' => 1] + $this->create($this->ulid())])->assertJsonPath('results.0.mark.class', 'quince')->assertJsonPath('results.0.mark.answers.ripeness.value', 'ready');
    }

    public function test_the_command_exports_tries_and_imports(): void
    {
        $this->edit([$this->create($this->ulid())])->assertOk();
        self::assertSame(0, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--export' => true]));
        self::assertSame($this->project->codebookVersion()->codebook()->toArray(), json_decode(Artisan::output(), true));
        $folder = $this->temporary();
        file_put_contents("{$folder}/new.json", json_encode($this->pears()));
        file_put_contents("{$folder}/mapping.json", json_encode(self::MAPPING));
        self::assertSame(2, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--import' => "{$folder}/new.json"]));
        self::assertStringContainsString('class:apple', Artisan::output());
        self::assertSame(0, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--import' => "{$folder}/new.json", '--mapping' => "{$folder}/mapping.json", '--try' => true, '--json' => true]));
        self::assertSame(1, $this->project->codebookVersion()->version);
        self::assertSame(0, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--import' => "{$folder}/new.json", '--mapping' => "{$folder}/mapping.json", '--json' => true]));
        self::assertSame(2, json_decode(Artisan::output(), true)['version']);
        self::assertSame(['pear'], MarkRow::query()->pluck('class')->all());
        self::assertSame(2, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--import' => "{$folder}/none.json"]));
        self::assertSame(2, Artisan::call('skeno:codebook', ['project' => 'Canopy', '--import' => "{$folder}/new.json", '--mapping' => "{$folder}/none.json"]));
    }

    public function test_a_project_begins_with_a_template_or_with_anothers_codebook(): void
    {
        $listed = $this->api($this->manager, 'get', '/templates')->assertOk();
        self::assertSame(['Canopy'], array_column($listed->json('projects'), 'name'));
        self::assertSame([], $this->api($this->mei, 'get', '/templates')->json('projects'));
        self::assertContains('count-fruit', array_column($listed->json('templates'), 'key'));
        self::assertSame(0, Artisan::call('skeno:project', ['name' => 'Orchard', '--template' => 'insect-nodes']));
        self::assertSame('moth', Project::query()->where('name', 'Orchard')->sole()->codebookVersion()->codebook()->toArray()['classes'][0]['key']);
        self::assertSame(2, Artisan::call('skeno:project', ['name' => 'Other', '--template' => 'nothing']));
        self::assertStringContainsString('count-fruit', Artisan::output());
    }
}
