<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\LayerCopy;
use App\Items\Layers;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Run;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

final class LayersTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    private Item $item;

    private int $turn;

    private string $path;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Shapes', Samples::shapes()->toArray());
        [$this->ines, $this->mei] = [$this->member($this->project, Role::Manager, 'Ines'), $this->member($this->project, Role::Labeller, 'Mei')];
        $this->item = $this->items($this->project, 1)[0];
        $this->assign($this->project, $this->ines, $this->mei, null);
        $this->path = "/projects/{$this->project->id}";
        $this->turn = $this->api($this->mei, 'post', "{$this->path}/next", [])->json('packet.turn.id');
    }

    /** @return array<string, mixed> */
    private function send(array $edit): array
    {
        return $this->api($this->mei, 'post', "{$this->path}/turns/{$this->turn}/edits", ['edits' => [['id' => $this->ulid()] + $edit]])->assertOk()->json('results.0');
    }

    /** The id under which the sayings of an item were stored could be worked out, and was taken by a mark of another project. */
    public function test_nobody_of_another_project_can_stand_in_the_way_of_what_is_said(): void
    {
        $alphabet = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
        $known = '0';
        foreach (array_slice(array_values(unpack('C*', hash('sha256', "agreed {$this->item->id}", true))), 0, 25) as $byte) {
            $known .= $alphabet[$byte & 31];
        }
        $theirs = $this->project('Elsewhere');
        [$manager, $stranger] = [$this->member($theirs, Role::Manager, 'Far'), $this->member($theirs, Role::Labeller, 'Stranger')];
        $this->items($theirs, 1, 'far');
        $this->assign($theirs, $manager, $stranger, null);
        $turn = $this->api($stranger, 'post', "/projects/{$theirs->id}/next", [])->json('packet.turn.id');
        $this->api($stranger, 'post', "/projects/{$theirs->id}/turns/{$turn}/edits", ['edits' => [$this->create($known)]])->assertJsonPath('results.0.outcome', 'applied');

        $said = $this->send(['action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => 'item', 'answers' => ['usable' => ['value' => true]], 'tags' => ['wet']]]);
        self::assertSame(['applied', ['wet']], [$said['outcome'], $said['said']['tags']]);
        // a bench of an earlier version names it by that id still
        self::assertSame('applied', $this->send(['action' => 'change', 'mark' => $known, 'base' => 1, 'data' => ['kind' => 'item', 'answers' => ['usable' => ['value' => true]], 'tags' => []]])['outcome']);
        $this->api($this->mei, 'post', "{$this->path}/turns/{$this->turn}/submit", ['nothing' => true])->assertOk();
        self::assertSame('apple', MarkRow::query()->findOrFail($known)->class, 'and their mark is untouched');
    }

    /** A draft of an item with thousands of marks is made while everybody else waits to write: by few statements, and whole all the same. */
    public function test_a_layer_is_copied_and_cleared_by_few_statements_with_all_that_belongs_to_its_marks(): void
    {
        $agreed = Layers::agreed($this->item->id);
        $one = ['project_id' => $this->project->id, 'item_id' => $this->item->id, 'layer_id' => $agreed->id, 'layer' => 'agreed', 'source' => 'hand', 'author_id' => $this->mei->id, 'class' => 'leaf', 'kind' => 'polygon', 'geometry' => ['rings' => [[1, 1, 20, 2, 10, 30.5]]], 'answers' => [], 'flags' => ['hidden'], 'stack' => 3, 'revision' => 4, 'oddness' => 2.5, 'width' => 19, 'height' => 29.5];
        for ($i = 0; $i < 450; $i++) {
            MarkRow::query()->create(['id' => sprintf('01%024d', $i), 'part_of' => $i % 2 === 1 ? sprintf('01%024d', $i - 1) : null] + $one);
        }
        Layers::count($agreed);
        $draft = Layers::ensure($this->item, LayerKind::Draft, (int) DB::table('assignments')->value('id'));
        $statements = 0;
        DB::listen(static function ($query) use (&$statements): void {
            $statements += preg_match('/^(insert|update|delete)/', $query->sql) === 1 ? 1 : 0;
        });
        $from = MarkRow::query()->where('layer_id', $agreed->id)->orderBy('id')->get();
        $ids = LayerCopy::marks($from, $draft, 'copy', $this->ines, origins: true);
        self::assertLessThan(12, $statements);
        self::assertSame([450, 450, 450], [$draft->refresh()->mark_count, $agreed->refresh()->mark_count, MarkRow::query()->where('layer_id', $draft->id)->count()]);
        foreach ([0, 1, 449] as $i) {
            $copy = MarkRow::query()->findOrFail($ids[$from[$i]->id]);
            self::assertSame($from[$i]->mark()->copy($copy->id, $from[$i]->part_of === null ? null : $ids[$from[$i]->part_of])->toArray(), $copy->mark()->toArray());
            self::assertSame([$from[$i]->id, 4, 1, $this->mei->id, null, null, 'draft'], [$copy->origin_id, $copy->origin_revision, $copy->revision, $copy->author_id, $copy->oddness, $copy->width, $copy->layer]);
            $entry = DB::table('mark_history')->where('mark_id', $copy->id)->sole();
            self::assertSame(['copy', null, $this->ines->id, $draft->id], [$entry->action, $entry->before, $entry->user_id, $entry->layer_id]);
            self::assertEquals($copy->mark()->toArray(), json_decode($entry->after, true));
        }

        $statements = 0;
        LayerCopy::clear($agreed, 'resolve', $this->ines);
        self::assertLessThan(12, $statements);
        self::assertSame([0, 450, 5], [$agreed->refresh()->mark_count, MarkRow::query()->where('layer_id', $agreed->id)->whereNotNull('deleted_at')->count(), $from[7]->refresh()->revision]);
        $entry = DB::table('mark_history')->where('mark_id', $from[7]->id)->where('action', 'resolve')->sole();
        self::assertSame([5, null], [$entry->revision, $entry->after]);
        self::assertEquals($from[7]->mark()->toArray(), json_decode($entry->before, true));
    }

    public function test_an_edit_reaches_no_mark_of_another_item_and_no_other_layer(): void
    {
        $other = $this->items($this->project, 1, 'other')[0];
        $blind = Layers::ensure($this->item, LayerKind::Blind, DB::table('assignments')->max('id'), 2);
        foreach ([Layers::agreed($other->id), $blind] as $layer) {
            $id = $this->ulid();
            DB::table('marks')->insert(['id' => $id, 'project_id' => $this->project->id, 'item_id' => $layer->item_id, 'layer_id' => $layer->id, 'layer' => $layer->kind->value, 'class' => 'apple', 'kind' => 'box', 'geometry' => '{"x":1,"y":1,"width":5,"height":5}']);
            foreach (['change', 'delete', 'create'] as $action) {
                $result = $this->send(['action' => $action, 'mark' => $id, 'base' => $action === 'create' ? 0 : 1, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => 2, 'y' => 2, 'width' => 9, 'height' => 9]]]);
                self::assertSame('refused', $result['outcome']);
            }
            self::assertSame([1, 1], [MarkRow::query()->findOrFail($id)->revision, MarkRow::query()->findOrFail($id)->geometry['x']]);
        }
    }

    public function test_an_edits_id_is_used_up_in_its_own_item_only(): void
    {
        $edit = $this->create($this->ulid());
        DB::table('edits')->insert(['id' => $edit['id'], 'item_id' => $this->items($this->project, 1, 'other')[0]->id, 'mark_id' => $this->ulid(), 'revision' => 1, 'created_at' => now()]);
        self::assertSame('applied', $this->send(['class' => 1] + $edit)['outcome']);
        self::assertSame('repeated', $this->api($this->mei, 'post', "{$this->path}/turns/{$this->turn}/edits", ['edits' => [['id' => DB::table('edits')->where('item_id', $this->item->id)->value('id')] + $edit]])->json('results.0.outcome'));
    }

    public function test_a_confirmed_suggestion_is_not_offered_again_and_is_known_by_its_run(): void
    {
        $run = Run::query()->create(['project_id' => $this->project->id, 'model' => 'fruit finder 3']);
        $layer = Layers::ensure($this->item, LayerKind::Suggestion, $run->id);
        [$one, $two] = [$this->ulid(), $this->ulid()];
        foreach ([$one, $two] as $i => $id) {
            DB::table('marks')->insert(['id' => $id, 'project_id' => $this->project->id, 'item_id' => $this->item->id, 'layer_id' => $layer->id, 'layer' => 'suggestion', 'source' => 'model', 'class' => 'apple', 'kind' => 'box', 'geometry' => json_encode(['x' => 1 + 30 * $i, 'y' => 1, 'width' => 20, 'height' => 20]), 'confidence' => 0.8]);
        }
        $packet = fn (): array => $this->api($this->mei, 'get', "{$this->path}/turns/{$this->turn}")->assertOk()->json();
        self::assertSame([$one, $two], array_column($packet()['suggestions'], 'id'));
        $mark = $this->ulid();
        $result = $this->send(['suggestion' => $one] + $this->create($mark, 1, 1, 20, 20));
        self::assertSame(['applied', $one], [$result['outcome'], $result['mark']['suggestion']]);
        self::assertSame([[$two], [$mark]], [array_column($packet()['suggestions'], 'id'), array_column($packet()['marks'], 'id')], 'after a reload too');
        $this->send(['action' => 'delete', 'mark' => $mark, 'base' => 1]);
        self::assertSame([$one, $two], array_column($packet()['suggestions'], 'id'), 'what was confirmed by a slip is offered again');
        // found wrong, it is not, here; said twice it changes nothing; and it can be taken back
        $wrong = ['action' => 'drop', 'mark' => $one, 'base' => 0, 'data' => ['dropped' => true]];
        self::assertSame(['applied', 'applied', 1], [$this->send($wrong)['outcome'], $this->send($wrong)['outcome'], DB::table('suggestion_drops')->count()]);
        self::assertSame([$two], array_column($packet()['suggestions'], 'id'));
        self::assertSame(1, MarkRow::query()->whereKey($one)->whereNull('deleted_at')->count(), 'the suggestion itself stays as the model made it');
        $this->send(['action' => 'drop', 'mark' => $one, 'base' => 0, 'data' => ['dropped' => false]]);
        self::assertSame([$one, $two], array_column($packet()['suggestions'], 'id'));
        self::assertSame('refused', $this->send(['action' => 'drop', 'mark' => $mark, 'base' => 0, 'data' => ['dropped' => true]])['outcome'], 'a mark is no suggestion');
        self::assertSame('refused', $this->send(['action' => 'drop', 'mark' => $two, 'base' => 0, 'data' => ['dropped' => 'yes']])['outcome']);
        self::assertSame('fruit finder 3', MarkRow::query()->findOrFail($one)->sheet->run?->model);
        $foreign = $this->send(['suggestion' => $this->ulid()] + $this->create($this->ulid()));
        self::assertSame('refused', $foreign['outcome']);
        self::assertStringContainsString('suggestion', $foreign['reason']);
    }

    /** What lists ask is kept on layer and item; it is what counting says, whatever was done. */
    public function test_the_kept_counts_are_what_counting_says(): void
    {
        $ids = [];
        mt_srand(4);
        for ($i = 0; $i < 60; $i++) {
            $known = array_keys($ids);
            if ($known === [] || mt_rand(0, 2) > 0) {
                $id = $this->ulid();
                $ids[$id] = 1;
                $this->send($this->create($id, mt_rand(0, 60), mt_rand(0, 40)));
            } else {
                $id = $known[mt_rand(0, count($known) - 1)];
                $this->send(['action' => 'delete', 'mark' => $id, 'base' => $ids[$id]]);
                unset($ids[$id]);
            }
            if ($i % 10 === 9) {
                $real = MarkRow::query()->where('item_id', $this->item->id)->whereNull('deleted_at')->count();
                self::assertSame([count($ids), count($ids), count($ids)], [$real, Layer::query()->where('item_id', $this->item->id)->sole()->mark_count, $this->item->refresh()->mark_count]);
            }
        }
    }
}
