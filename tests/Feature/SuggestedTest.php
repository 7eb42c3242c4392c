<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Actor;
use App\Help\Learning;
use App\Help\Outcomes;
use App\Help\Runs;
use App\Help\Trials;
use App\Intake\TakeFiles;
use App\Items\Doubts;
use App\Items\Layers;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use App\Models\Turn;
use App\Models\User;
use App\Work\Seen;
use App\Work\SubmitTurn;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Str;
use Imagick;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\Inference\Knows;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Learn\HeldOut;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Role;
use Tests\TestCase;

/** What is suggested for items as a whole, in which order doubtful items come, and what counts as looked at. */
final class SuggestedTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Orchard', [
            'skeno' => 'codebook/1',
            'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']]],
            'attributes' => [
                ['key' => 'usable', 'name' => 'Usable picture', 'type' => 'yesno', 'scope' => 'item'],
                ['key' => 'weather', 'name' => 'Weather', 'type' => 'one', 'scope' => 'item', 'options' => [['key' => 'dry', 'name' => 'Dry'], ['key' => 'rain', 'name' => 'Rain']]],
            ],
            'tags' => [['key' => 'wet', 'name' => 'Wet leaves', 'group' => 'ground'], ['key' => 'frost', 'name' => 'Frost', 'group' => 'ground'], ['key' => 'dusk', 'name' => 'Dusk']],
        ]);
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
        Queue::fake();
    }

    /** A picture that is dark and wet, or bright and dry. */
    private function taken(int $seed, bool $wet): Item
    {
        $image = new Imagick;
        $image->newImage(160, 120, sprintf('rgb(%d,%d,%d)', ...($wet ? [20 + $seed % 9, 30, 60 + intdiv($seed, 9)] : [210, 200 - $seed % 9, 150 - intdiv($seed, 9)])));
        $file = $this->temporary()."/{$seed}.png";
        $image->writeImage("png24:{$file}");

        return Item::query()->findOrFail(app(TakeFiles::class)->one($this->project, $file, sprintf('row/%03d.png', $seed), false)->item);
    }

    /** @return list<Item> accepted ones of both kinds, of which so many are not held out */
    private function accepted(int $learned): array
    {
        $items = [];
        for ($seed = 1; $learned > 0; $seed++) {
            $item = $this->taken($seed, $seed % 2 === 0);
            Layers::agreed($item->id)->forceFill(['answers' => ['weather' => ['value' => $seed % 2 === 0 ? 'rain' : 'dry']], 'tags' => $seed % 2 === 0 ? ['wet'] : [], 'revision' => 1])->save();
            $item->forceFill(['state' => 'accepted'])->save();
            $items[] = $item;
            $learned -= HeldOut::has($item->id) ? 0 : 1;
        }

        return $items;
    }

    /** @return array<string, mixed> */
    private function packet(User $who): array
    {
        return $this->api($who, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => []])->assertOk()->json('packet');
    }

    /** @param  array<string, mixed>  $more */
    private function handOut(array $more = []): void
    {
        $this->api($this->ines, 'post', "/projects/{$this->project->id}/assignments", $more + ['labellers' => [$this->mei->id], 'reviewers' => []])->assertCreated();
    }

    private function begun(): Run
    {
        $run = new Run;
        $run->forceFill(['project_id' => $this->project->id, 'model' => 'finder', 'wish' => [], 'items' => [], 'state' => 'done', 'report' => []])->save();

        return $run;
    }

    /** @param  array{x: int, y: int, width: int, height: int}  $box */
    private function suggest(Run $run, Item $item, array $box, ?float $confidence): string
    {
        $layer = Layers::ensure($item, LayerKind::Suggestion, $run->id);
        DB::table('marks')->insert(['id' => $id = strtoupper((string) Str::ulid()), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'layer' => 'suggestion', 'source' => 'model', 'class' => 'apple', 'kind' => 'box', 'geometry' => json_encode($box), 'answers' => '{}', 'flags' => '[]', 'confidence' => $confidence, 'revision' => 1, 'created_at' => now(), 'updated_at' => now()]);
        Doubts::refresh([$item->id]);

        return $id;
    }

    private function word(Run $run, Item $item, string $key, ?string $answer, ?float $confidence): string
    {
        $layer = Layers::ensure($item, LayerKind::Suggestion, $run->id);
        DB::table('suggested_words')->insert(['id' => $id = strtoupper((string) Str::ulid()), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'key' => $key, 'answer' => $answer, 'confidence' => $confidence, 'created_at' => now()]);
        Doubts::refresh([$item->id]);

        return $id;
    }

    public function test_words_are_learned_suggested_decided_counted_and_taken_back(): void
    {
        $this->accepted(14);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Looks, queued: false)->load('model'));
        $model = ModelRow::query()->where('kind', 'looks')->firstOrFail();
        self::assertEquals(new Knows([], [], ['wet'], ['weather']), $model->knows());
        $new = [$this->taken(500, true), $this->taken(501, false)];
        $ids = array_map(static fn (Item $item): int => $item->id, $new);
        $runs = app(Runs::class);
        $run = $runs->begin($this->project, $model, null, Mapping::alike($this->project->codebookVersion()->codebook(), $model->knows()), 0.5, [], 'without', $ids, queued: false);
        $runs->work($run->load(['project', 'asked']));
        self::assertSame(['done', 0, 3, 2, 0], [$run->refresh()->state, $run->report['things'], $run->report['said'], $run->report['with'], $run->report['left']]);

        $this->handOut();
        $packet = $this->packet($this->mei);
        self::assertSame($new[0]->id, $packet['item']['id']);
        $words = collect($packet['suggested_words'])->keyBy('key');
        self::assertSame([['value' => 'rain'], null], [$words['weather']['answer'], $words['wet']['answer']]);
        self::assertGreaterThan(0.5, $words['wet']['confidence']);
        // the tag is wrong, the weather is right
        $edits = [
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'drop', 'mark' => $words['wet']['id'], 'base' => 0, 'data' => ['dropped' => true]],
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'answer', 'mark' => strtoupper((string) Str::ulid()), 'base' => 0, 'data' => ['kind' => 'item', 'attribute' => 'weather', 'answer' => ['value' => 'rain']]],
        ];
        $results = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$packet['turn']['id']}/edits", ['edits' => $edits])->assertOk()->json('results');
        self::assertSame(['applied', 'applied'], array_column($results, 'outcome'));
        self::assertSame(['weather'], array_column($this->packet($this->mei)['suggested_words'], 'key'), 'what was found wrong is not offered again');
        self::assertSame(['suggested' => 3, 'right' => 1, 'changed' => 0, 'dropped' => 1, 'left' => 0, 'open' => 1], app(Outcomes::class)->of([$run->id])['said']);
        Layers::agreed($new[1]->id)->forceFill(['answers' => ['weather' => ['value' => 'rain']]])->save();
        self::assertSame(['suggested' => 3, 'right' => 1, 'changed' => 1, 'dropped' => 1, 'left' => 0, 'open' => 0], app(Outcomes::class)->of([$run->id])['said']);
        self::assertSame(3, $runs->takeBack($run->refresh()));
        self::assertSame([[], null], [$this->packet($this->mei)['suggested_words'], $new[0]->refresh()->doubt]);
        self::assertSame(['weather' => ['value' => 'rain']], Layers::agreed($new[0]->id)->answers, 'what was confirmed stays');
    }

    public function test_a_trial_of_words_says_how_often_they_are_right(): void
    {
        $this->accepted(14);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Looks, queued: false)->load('model'));
        $model = ModelRow::query()->where('kind', 'looks')->firstOrFail();
        $all = Item::query()->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();
        $trial = app(Trials::class)->begin($this->project, $model, null, new Mapping([], [], ['wet' => 'wet']), 0.5, array_values($all), queued: false);
        app(Trials::class)->work($trial->load(['project', 'asked']));
        $shown = $this->api($this->ines, 'get', "/projects/{$this->project->id}/trials/{$trial->id}")->assertOk()->json('figures');
        self::assertSame([[], ['question:weather', 'tag:wet'], 0], [$shown['classes'], array_keys($shown['words']), $shown['cost']['there']]);
        self::assertSame($trial->total, $shown['words']['question:weather']['there']);
        self::assertEqualsWithDelta(1.0, $shown['words']['question:weather']['precision']['value'], 1e-9);
        self::assertSame([], $shown['failed']);
    }

    public function test_items_somebody_has_said_something_of_are_left_out_where_only_words_are_looked_for(): void
    {
        $this->accepted(14);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Looks, queued: false)->load('model'));
        $model = ModelRow::query()->where('kind', 'looks')->firstOrFail();
        $said = $this->taken(500, true);
        Layers::agreed($said->id)->forceFill(['tags' => ['dusk'], 'revision' => 1])->save();
        $run = app(Runs::class)->begin($this->project, $model, null, new Mapping([], [], ['wet' => 'wet']), 0.5, [], 'without', [$said->id], queued: false);
        app(Runs::class)->work($run->load(['project', 'asked']));
        self::assertSame([0, 1], [$run->refresh()->report['said'], $run->report['left']]);
    }

    public function test_the_newest_word_is_offered_and_none_the_codebook_does_not_have(): void
    {
        $item = $this->taken(1, true);
        $this->word($this->begun(), $item, 'weather', '{"value":"dry"}', 0.6);
        $newest = $this->word($run = $this->begun(), $item, 'weather', '{"value":"rain"}', 0.7);
        foreach ([['hail', null], ['weather2', '{"value":"rain"}'], ['usable', '{"value":"perhaps"}']] as [$key, $answer]) {
            $this->word($run, $item, $key, $answer, 0.9);
        }
        $this->handOut();
        self::assertSame([$newest], array_column($this->packet($this->mei)['suggested_words'], 'id'));
    }

    public function test_a_word_of_another_item_can_not_be_dropped_nor_confirmed_by_a_mark(): void
    {
        $here = $this->taken(1, true);
        $there = $this->taken(2, true);
        $run = $this->begun();
        $elsewhere = $this->word($run, $there, 'wet', null, 0.9);
        $word = $this->word($run, $here, 'wet', null, 0.9);
        $this->handOut();
        $turn = $this->packet($this->mei)['turn']['id'];
        $results = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'drop', 'mark' => $elsewhere, 'base' => 0, 'data' => ['dropped' => true]],
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => strtoupper((string) Str::ulid()), 'base' => 0, 'suggestion' => $word, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20]]],
        ]])->assertOk()->json('results');
        self::assertSame(['refused', 'refused'], array_column($results, 'outcome'));
        self::assertSame(0, DB::table('suggestion_drops')->count());
    }

    public function test_a_queue_begins_with_what_models_are_least_sure_of_and_follows_when_that_changes(): void
    {
        $items = array_map(fn (int $seed): Item => $this->taken($seed, true), range(1, 4));
        $run = $this->begun();
        $this->suggest($run, $items[1], ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.95);
        $this->suggest($run, $items[2], ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.5);
        $this->word($run, $items[2], 'wet', null, 0.6);
        self::assertSame([null, 0.1, 1.8, null], array_map(static fn (Item $item): ?float => $item->refresh()->doubt === null ? null : round($item->doubt, 6), $items));
        $this->handOut(['order' => 'doubt']);
        $this->handOut(['labellers' => [$this->ines->id], 'pool' => 'all']);
        self::assertSame($items[0]->id, $this->packet($this->ines)['item']['id'], 'another queue is as it was');
        $first = $this->packet($this->mei);
        self::assertSame($items[2]->id, $first['item']['id']);
        $ribbon = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$first['turn']['id']}/queue")->assertOk();
        self::assertSame([1, 4, ['003.png', '002.png', '001.png', '004.png']], [$ribbon->json('place'), $ribbon->json('total'), array_column($ribbon->json('data'), 'name')]);
        // a model looks once more: the last is now the most doubtful of what waits
        $this->suggest($run, $items[3], ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.45);
        $next = fn (int $after): int => $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => [$after], 'after' => $after])->assertOk()->json('packet.item.id');
        self::assertSame($items[3]->id, $next($first['turn']['id']));
    }

    public function test_an_order_or_a_confidence_that_is_none_is_refused(): void
    {
        $this->taken(1, true);
        foreach ([['order' => 'luck'], ['sure' => 0], ['sure' => 1.5]] as $wrong) {
            $this->api($this->ines, 'post', "/projects/{$this->project->id}/assignments", $wrong + ['labellers' => [$this->mei->id], 'reviewers' => []])->assertStatus(422)->assertJsonPath('field', array_key_first($wrong));
        }
        self::assertSame(0, Turn::query()->count());
    }

    /** @param  list<string>  $is */
    #[DataProvider('seen')]
    public function test_sure_suggestions_count_as_looked_at_once_the_picture_was_seen_whole(?float $sure, bool $whole, array $is): void
    {
        $item = $this->taken(1, true);
        $run = $this->begun();
        $first = $this->suggest($run, $item, ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.95);
        $this->suggest($run, $item, ['x' => 41, 'y' => 1, 'width' => 20, 'height' => 20], 0.85);
        $dropped = $this->suggest($run, $item, ['x' => 81, 'y' => 1, 'width' => 20, 'height' => 20], 0.99);
        $confirmed = $this->suggest($run, $item, ['x' => 121, 'y' => 1, 'width' => 20, 'height' => 20], 0.99);
        $this->word($run, $item, 'wet', null, 0.92);
        $this->word($run, $item, 'dusk', null, 0.4);
        $this->word($run, $item, 'weather', '{"value":"rain"}', 0.93);
        $this->handOut(['sure' => $sure]);
        $packet = $this->packet($this->mei);
        self::assertSame($sure, $packet['sure_from']);
        $turn = $packet['turn']['id'];
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/edits", ['edits' => [
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => strtoupper((string) Str::ulid()), 'base' => 0, 'suggestion' => $confirmed, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => 121, 'y' => 1, 'width' => 20, 'height' => 20]]],
            ['id' => strtoupper((string) Str::ulid()), 'action' => 'drop', 'mark' => $dropped, 'base' => 0, 'data' => ['dropped' => true]],
        ]])->assertOk();
        if ($whole) {
            $grid = Seen::of($item, $this->mei->id);
            Seen::add($item, $this->mei->id, str_repeat('1', strlen($grid->cells)));
        }
        $done = $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        self::assertSame(count($is), $done->json('counted'));
        $layer = Layers::agreed($item->id);
        $counted = MarkRow::query()->where('layer_id', $layer->id)->where('source', 'model')->get();
        self::assertSame(in_array('mark', $is, true) ? [[$first, 0.95, $this->mei->id]] : [], $counted->map(static fn (MarkRow $mark): array => [$mark->suggestion_id, $mark->confidence, $mark->author_id])->all());
        self::assertSame([in_array('tag', $is, true) ? ['wet'] : [], in_array('answer', $is, true) ? ['weather' => ['value' => 'rain']] : []], [$layer->tags, $layer->answers]);
        self::assertSame(1 + $counted->count(), $layer->mark_count);
        self::assertSame($counted->count(), DB::table('mark_history')->whereIn('mark_id', $counted->modelKeys())->where('user_id', $this->mei->id)->count());
        // what nobody decided and the rule did not take is left behind
        self::assertSame(2 - $counted->count(), app(Outcomes::class)->of([$run->id])['left']);
    }

    /** @return iterable<string, array{?float, bool, list<string>}> */
    public static function seen(): iterable
    {
        yield 'seen whole' => [0.9, true, ['mark', 'tag', 'answer']];
        yield 'not seen whole' => [0.9, false, []];
        yield 'no such rule' => [null, true, []];
        yield 'nothing is that sure' => [0.96, true, []];
    }

    public function test_the_rule_of_a_lot_can_be_changed_later(): void
    {
        $item = $this->taken(1, true);
        $this->handOut();
        $assignment = Turn::query()->firstOrFail()->assignment_id;
        $at = "/projects/{$this->project->id}/assignments/{$assignment}";
        $this->api($this->ines, 'patch', $at, ['sure' => 2])->assertStatus(422);
        $this->api($this->ines, 'patch', $at, ['sure' => 0.8])->assertOk();
        self::assertSame(0.8, $this->packet($this->mei)['sure_from']);
        $this->api($this->ines, 'patch', $at, ['note' => 'look closely'])->assertOk();
        self::assertSame(0.8, $this->packet($this->mei)['sure_from'], 'what is not spoken of stays');
        $this->api($this->ines, 'patch', $at, ['sure' => null])->assertOk();
        self::assertNull($this->packet($this->mei)['sure_from']);
        self::assertNotNull($item->refresh());
    }

    public function test_who_says_that_nothing_is_there_takes_none(): void
    {
        $item = $this->taken(1, true);
        $this->suggest($this->begun(), $item, ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.95);
        $this->handOut(['sure' => 0.5]);
        $turn = $this->packet($this->mei)['turn']['id'];
        Seen::add($item, $this->mei->id, str_repeat('1', strlen(Seen::of($item, $this->mei->id)->cells)));
        $done = app(SubmitTurn::class)->submit(new Actor($this->mei), Turn::query()->findOrFail($turn), true, false);
        self::assertSame([0, 0, true], [$done['counted'], MarkRow::query()->where('layer', 'agreed')->count(), Layers::agreed($item->id)->nothing]);
    }

    public function test_a_tag_is_not_counted_beside_another_of_its_group(): void
    {
        $item = $this->taken(1, true);
        $run = $this->begun();
        $this->word($run, $item, 'wet', null, 0.95);
        $this->word($run, $item, 'weather', '{"value":"rain"}', 0.95);
        $this->suggest($run, $item, ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 20], 0.95);
        Layers::agreed($item->id)->forceFill(['tags' => ['frost'], 'answers' => ['weather' => ['value' => 'dry']], 'revision' => 1])->save();
        $this->handOut(['sure' => 0.9]);
        $turn = $this->packet($this->mei)['turn']['id'];
        Seen::add($item, $this->mei->id, str_repeat('1', strlen(Seen::of($item, $this->mei->id)->cells)));
        $this->api($this->mei, 'post', "/projects/{$this->project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk()->assertJsonPath('counted', 1);
        $layer = Layers::agreed($item->id);
        self::assertSame([['frost'], ['weather' => ['value' => 'dry']], 1], [$layer->tags, $layer->answers, $layer->revision]);
    }
}
