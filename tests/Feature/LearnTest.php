<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Help\Learning;
use App\Help\LearnVersion;
use App\Help\MeasureModel;
use App\Help\ModelStage;
use App\Help\RunModel;
use App\Help\Runs;
use App\Help\Trials;
use App\Intake\TakeFiles;
use App\Items\Doubts;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use App\Models\Project;
use App\Models\Run;
use App\Models\Trial;
use App\Support\Cancelled;
use App\Support\Refusal;
use App\Upkeep\Resume;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Str;
use Imagick;
use ImagickDraw;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\HeldOut;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Role;
use Tests\TestCase;

/** What a project learns from its accepted labels: versions, how they are measured, what is tried and chained. */
final class LearnTest extends TestCase
{
    private Project $project;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Learn');
        Queue::fake();
    }

    /** A picture with discs, red or green, labelled by boxes and accepted. */
    private function accepted(int $seed, int $discs = 3, string $state = 'accepted'): Item
    {
        mt_srand($seed);
        $image = new Imagick;
        $image->newImage(240, 180, '#46663c');
        $draw = new ImagickDraw;
        for ($i = 0; $i < 40; $i++) {
            $draw->setFillColor(['#3c5c34', '#52744a'][$i % 2]);
            $draw->ellipse(mt_rand(0, 240), mt_rand(0, 180), mt_rand(4, 16), mt_rand(3, 9), 0, 360);
        }
        $boxes = [];
        for ($i = 0; $i < $discs; $i++) {
            [$x, $y, $r] = [40 + 75 * $i, mt_rand(40, 140), mt_rand(13, 18)];
            $ripe = ($seed + $i) % 2 === 0;
            $draw->setFillColor($ripe ? '#b83228' : '#c8c23a');
            $draw->ellipse($x, $y, $r, $r, 0, 360);
            $boxes[] = [['x' => $x - $r, 'y' => $y - $r, 'width' => 2 * $r, 'height' => 2 * $r], $ripe];
        }
        $image->drawImage($draw);
        $image->blurImage(0, 0.8);
        $file = $this->temporary()."/{$seed}.png";
        $image->writeImage("png24:{$file}");
        $outcome = app(TakeFiles::class)->one($this->project, $file, "set/{$seed}.png", false);
        $item = Item::query()->findOrFail($outcome->item);
        $layer = Layer::query()->where('item_id', $item->id)->where('kind', LayerKind::Agreed)->firstOrFail();
        foreach ($boxes as [$box, $ripe]) {
            DB::table('marks')->insert(['id' => strtoupper((string) Str::ulid()), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'layer' => 'agreed', 'source' => 'hand', 'class' => 'apple', 'kind' => 'box', 'geometry' => json_encode($box), 'answers' => json_encode(['ripeness' => ['value' => $ripe ? 'ripe' : 'green']]), 'flags' => '[]', 'revision' => 1, 'created_at' => now(), 'updated_at' => now()]);
        }
        $layer->forceFill(['mark_count' => $discs])->save();
        $item->forceFill(['state' => $state, 'mark_count' => $discs])->save();

        return $item;
    }

    /** @return list<Item> so many, with so many held out */
    private function acceptedAll(int $learned, int $held): array
    {
        $items = [];
        $seed = 1;
        while ($learned > 0 || $held > 0) {
            $item = $this->accepted($seed++);
            $out = HeldOut::has($item->id);
            if (($out ? $held : $learned) > 0) {
                $out ? $held-- : $learned--;
                $items[] = $item;
            } else {
                // enough of these
                $item->forceFill(['state' => 'new'])->save();
            }
        }

        return $items;
    }

    /** @param  array<string, mixed>  $arguments @return array{int, mixed} */
    private function command(string $command, array $arguments): array
    {
        $code = Artisan::call($command, $arguments + ['--json' => true]);

        return [$code, json_decode(Artisan::output(), true)];
    }

    public function test_regions_are_learned_measured_tried_and_run(): void
    {
        $this->acceptedAll(6, 2);
        $new = $this->accepted(500, 3, 'new');
        $name = ['project' => $this->project->name];
        [$code, $said] = $this->command('skeno:learn', $name + ['--kind' => 'regions']);
        self::assertSame(0, $code, (string) json_encode($said));
        self::assertSame(['regions', 1, true, null, 6, 2, ['apple' => 18]], [$said['model'], $said['version'], $said['in_use'], $said['better'], $said['learned']['items'], $said['learned']['held_out'], $said['learned']['things']]);
        self::assertGreaterThan(0.8, $said['figures']['main']['value']);
        self::assertSame(6, $said['figures']['of']['apple']['there']);
        self::assertLessThanOrEqual($said['figures']['of']['apple']['f1']['value'], $said['figures']['of']['apple']['f1']['low']);

        // tried only on what it has not learned from
        [$code, $trial] = $this->command('skeno:trial', $name + ['--model' => 'regions']);
        self::assertSame([0, 2, 6], [$code, $trial['items'], $trial['classes']['apple']['there']]);
        self::assertEqualsWithDelta($said['figures']['of']['apple']['f1']['value'], $trial['classes']['apple']['f1']['value'], 1e-3);
        self::assertSame($trial['cost']['there'], $trial['cost']['kept'] + $trial['cost']['moved'] + $trial['cost']['drawn']);
        self::assertSame(48.0, (float) $trial['cost']['by_hand']);
        self::assertCount(2, $trial['worst']);
        self::assertGreaterThanOrEqual($trial['worst'][1]['seconds'], $trial['worst'][0]['seconds']);

        [$code, $run] = $this->command('skeno:run', $name + ['--model' => 'regions', '--where' => ['state:new']]);
        self::assertSame([0, 'done'], [$code, $run['state']]);
        $marks = MarkRow::query()->where('item_id', $new->id)->where('layer', 'suggestion')->get();
        self::assertGreaterThanOrEqual(2, $marks->count());
        self::assertSame([['box', 'model', 'apple']], $marks->map(static fn (MarkRow $mark): array => [$mark->kind, $mark->source, $mark->class])->unique()->values()->all());
        self::assertSame(ModelVersion::query()->value('id'), Run::query()->findOrFail($run['run'])->version_id);

        // what was found is outlined and answered in the same run
        $learned = $this->command('skeno:learn', $name + ['--kind' => 'looks'])[1];
        self::assertSame(['object:ripeness'], $learned['learned']['classes']);
        self::assertGreaterThan(0.9, $learned['figures']['of']['object:ripeness']['accuracy']['value']);
        [, $preview] = $this->command('skeno:run', $name + ['--model' => 'regions', '--then' => 'looks', '--where' => ['state:new'], '--preview' => '1']);
        self::assertNotSame([], $preview['preview'][0]['suggested']);
        $this->command('skeno:run', $name + ['--model' => 'regions', '--then' => 'looks', '--where' => ['state:new'], '--stays' => 'replace']);
        $truth = MarkRow::query()->where('item_id', $new->id)->where('layer', 'agreed')->get();
        $answered = MarkRow::query()->where('item_id', $new->id)->where('layer', 'suggestion')->whereNull('deleted_at')->get();
        self::assertGreaterThanOrEqual(2, $answered->count());
        foreach ($answered as $mark) {
            $near = $truth->sortBy(static fn (MarkRow $true): float => hypot($true->geometry['x'] - $mark->geometry['x'], $true->geometry['y'] - $mark->geometry['y']))->first();
            self::assertSame($near?->answers['ripeness']['value'], $mark->answers['ripeness']['value'] ?? null);
        }
        $models = $this->command('skeno:models', $name)[1]['models'];
        self::assertSame([['looks', 'looks', 1], ['regions', 'regions', 1]], array_map(static fn (array $one): array => [$one['name'], $one['kind'], $one['version']], $models));
    }

    public function test_too_little_is_refused_and_leaves_nothing_behind(): void
    {
        $name = ['project' => $this->project->name];
        for ($seed = 1; $seed <= 3; $seed++) {
            $this->accepted($seed);
        }
        [$code, $said] = $this->command('skeno:learn', $name + ['--kind' => 'regions']);
        self::assertSame([2, 0, 0], [$code, ModelRow::query()->count(), ModelVersion::query()->count()]);
        self::assertStringContainsString('at least 4 accepted pictures to learn from', $said['error']);
        self::assertStringContainsString('looks, regions, skeletons', $this->command('skeno:learn', $name + ['--kind' => 'magic'])[1]['error']);
        self::assertStringContainsString('drawn as a skeleton', (string) ($this->learnedFrom(6)[1]['error'] ?? ''));
        // enough pictures, but of one kind of thing too few: the version says so, and nothing is in use
        MarkRow::query()->where('class', 'apple')->orderBy('id')->skip(5)->take(100)->get()->each->delete();
        $said = $this->command('skeno:learn', $name + ['--kind' => 'regions'])[1];
        self::assertStringContainsString('at least 8 accepted labels that cover an area', $said['error']);
        self::assertSame(['failed', null], [ModelVersion::query()->value('state'), ModelRow::query()->value('version_id')]);
        self::assertSame(2, $this->command('skeno:trial', $name + ['--model' => 'regions', '--classes' => 'apple'])[0]);
        self::assertSame(2, $this->command('skeno:run', $name + ['--model' => 'regions', '--classes' => 'apple=apple'])[0]);
    }

    /** @return array{int, mixed} of learning skeletons, with so many accepted pictures */
    private function learnedFrom(int $count): array
    {
        $this->acceptedAll($count, 1);

        return $this->command('skeno:learn', ['project' => $this->project->name, '--kind' => 'skeletons']);
    }

    public function test_a_version_that_is_stopped_or_broken_off_ends_so(): void
    {
        $this->acceptedAll(5, 1);
        $learning = app(Learning::class);
        $version = $learning->begin($this->project, LearnedKind::Regions);
        Queue::assertPushed(LearnVersion::class, 1);
        try {
            $learning->begin($this->project, LearnedKind::Regions);
            self::fail('two at once');
        } catch (Refusal $e) {
            self::assertStringContainsString('is being learned', $e->getMessage());
        }
        // its job is lost: it is asked for again
        app(Resume::class)();
        Queue::assertPushed(LearnVersion::class, 2);
        $learning->cancel($version);
        try {
            $learning->work($version->load('model'));
            self::fail('it was stopped');
        } catch (Cancelled) {
            self::assertSame('cancelled', $version->refresh()->state);
        }
        (new LearnVersion($version->id))->handle();
        self::assertNull(ModelRow::query()->value('version_id'));
        // stopped while it learns: nothing of it stays
        $second = $learning->begin($this->project, LearnedKind::Regions, queued: false);
        DB::listen(static function ($query) use ($second): void {
            if (str_contains($query->sql, 'update "model_versions"') && in_array('working', $query->bindings, true) && ! in_array('cancelled', $query->bindings, true)) {
                ModelVersion::query()->whereKey($second->id)->toBase()->update(['state' => 'cancelled']);
            }
        });
        try {
            $learning->work($second->load('model'));
            self::fail('it was stopped');
        } catch (Cancelled) {
            self::assertSame([2, 'cancelled', null], [$second->refresh()->number, $second->state, $second->packed]);
        }
    }

    public function test_the_newest_that_is_better_is_taken_and_one_may_go_back(): void
    {
        $this->acceptedAll(6, 2);
        $learning = app(Learning::class);
        $one = $learning->begin($this->project, LearnedKind::Regions, queued: false);
        $learning->work($one->load('model'));
        $model = ModelRow::query()->firstOrFail();
        self::assertSame($one->id, $model->version_id);
        self::assertSame(0, $learning->again());
        // much more is accepted, but labelled all over the place
        for ($seed = 900; $seed < 908; $seed++) {
            $item = $this->accepted($seed);
            if (HeldOut::has($item->id)) {
                $item->forceFill(['state' => 'new'])->save();
            } else {
                MarkRow::query()->where('item_id', $item->id)->update(['geometry' => json_encode(['x' => 2, 'y' => 2, 'width' => 70, 'height' => 60])]);
            }
        }
        self::assertSame(1, $learning->again());
        self::assertSame(0, $learning->again(), 'it is being learned already');
        $two = ModelVersion::query()->where('number', 2)->firstOrFail();
        (new LearnVersion($two->id))->handle();
        $two->refresh();
        self::assertSame(['done', false], [$two->state, $two->better], (string) json_encode($two->figures));
        self::assertSame($one->id, $model->refresh()->version_id);
        self::assertGreaterThan($two->figures['main']['value'], $two->figures['before']['value']);
        $learning->use($model, $two);
        self::assertSame($two->id, $model->refresh()->version_id);
        ModelVersion::query()->whereKey($one->id)->toBase()->update(['packed' => null]);
        $this->expectException(Refusal::class);
        $learning->use($model, $one);
    }

    public function test_a_trial_is_gone_on_with_and_stopped(): void
    {
        $this->acceptedAll(6, 3);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Regions, queued: false)->load('model'));
        $model = ModelRow::query()->firstOrFail();
        $trials = app(Trials::class);
        $all = Item::query()->pluck('id')->map(intval(...))->all();
        $trial = $trials->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, $all, most: 2);
        self::assertSame([2, 'waiting'], [$trial->total, $trial->state]);
        app(Resume::class)();
        Queue::assertPushed(MeasureModel::class, 2);
        // it was broken off after the first
        $trials->work($trial->load(['project', 'asked']));
        $found = static fn (): array => DB::table('trial_items')->where('trial_id', $trial->id)->orderBy('id')->pluck('matched', 'item_id')->all();
        $whole = $found();
        DB::table('trial_items')->where('trial_id', $trial->id)->orderByDesc('id')->limit(1)->delete();
        $trial->refresh()->forceFill(['state' => 'working', 'done' => 1])->save();
        $trials->work($trial->refresh()->load(['project', 'asked']));
        self::assertSame([2, 'done', $whole], [$trial->refresh()->done, $trial->state, $found()]);
        $figures = $trials->figures($trial, 0.5);
        self::assertSame([6, 2], [$figures['cost']['there'], count($figures['worst'])]);
        self::assertSame(6, $trials->figures($trial, 1.0)['cost']['drawn']);
        $again = $trials->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, $all);
        $trials->cancel($again);
        try {
            $trials->work($again->load(['project', 'asked']));
            self::fail('it was stopped');
        } catch (Cancelled) {
            self::assertSame([0, 0], [$again->refresh()->done, DB::table('trial_items')->where('trial_id', $again->id)->count()]);
        }
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage('held out');
        $trials->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, array_values(array_filter($all, static fn (int $id): bool => ! HeldOut::has($id))));
    }

    public function test_managers_learn_and_try_over_http_and_nobody_else(): void
    {
        $this->acceptedAll(5, 2);
        $manager = $this->member($this->project, Role::Manager, 'Ines');
        $at = "/projects/{$this->project->id}";
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        foreach ([['learn', ['kind' => 'regions']], ['trials', ['model' => 1, 'classes' => ['apple' => 'apple'], 'from' => 0.5]]] as [$path, $body]) {
            $this->api($mei, 'post', "{$at}/{$path}", $body)->assertForbidden();
        }
        $this->api($manager, 'post', "{$at}/learn", ['kind' => 'magic'])->assertStatus(422);
        $model = $this->api($manager, 'post', "{$at}/learn", ['kind' => 'regions'])->assertCreated()->json();
        self::assertSame([1, 'waiting', false], [count($model['versions']), $model['versions'][0]['state'], $model['versions'][0]['in_use']]);
        (new LearnVersion($model['versions'][0]['id']))->handle();
        $models = $this->api($manager, 'get', "{$at}/models")->assertOk()->json('data');
        self::assertSame(['regions', ['apple'], ['apple' => 'apple'], true, 'done'], [$models[0]['kind'], $models[0]['classes'], $models[0]['alike']['classes'], $models[0]['versions'][0]['in_use'], $models[0]['versions'][0]['state']]);
        $item = Item::query()->where('state', 'accepted')->value('id');
        $tried = $this->api($manager, 'post', "{$at}/models/{$model['id']}/try", ['item' => $item, 'classes' => ['apple' => 'apple'], 'then' => 'outline'])->assertOk()->json();
        self::assertNotSame([], $tried['things']);
        $trial = $this->api($manager, 'post', "{$at}/trials", ['model' => $model['id'], 'classes' => ['apple' => 'apple'], 'from' => 0.4, 'most' => 1])->assertCreated()->json();
        app(Trials::class)->work(Trial::query()->with(['project', 'asked'])->findOrFail($trial['id']));
        $shown = $this->api($manager, 'get', "{$at}/trials/{$trial['id']}?from=0.5")->assertOk()->json();
        self::assertSame([0.5, 'done', 3], [$shown['figures']['from'], $shown['state'], $shown['figures']['cost']['there']]);
        self::assertSame(1, count($this->api($manager, 'get', "{$at}/trials")->assertOk()->json('data')));
        $this->api($manager, 'get', "{$at}/trials/{$trial['id']}?from=7")->assertStatus(422);
        $this->api($manager, 'post', "{$at}/models/{$model['id']}/check")->assertStatus(409);
        $this->api($manager, 'post', "{$at}/runs", ['model' => $model['id'], 'classes' => ['apple' => 'apple'], 'from' => 0.5, 'stays' => 'beside', 'then' => $model['id']])->assertStatus(422);
        $this->api($manager, 'post', "{$at}/models/{$model['id']}/versions/{$model['versions'][0]['id']}/use")->assertOk();
        // ids of another project are of no use
        $other = $this->project('Other');
        $elsewhere = $this->member($other, Role::Manager, 'Olga');
        $this->api($elsewhere, 'post', "/projects/{$other->id}/models/{$model['id']}/versions/{$model['versions'][0]['id']}/use")->assertNotFound();
        $this->api($elsewhere, 'get', "/projects/{$other->id}/trials/{$trial['id']}")->assertNotFound();
        $this->api($elsewhere, 'post', "/projects/{$other->id}/runs", ['model' => $model['id'], 'classes' => ['apple' => 'apple'], 'from' => 0.5, 'stays' => 'beside'])->assertStatus(422);
    }

    public function test_what_people_made_of_suggestions_is_counted(): void
    {
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $ines = $this->member($this->project, Role::Manager, 'Ines');
        [$given, $open] = [$this->accepted(1, 0, 'new'), $this->accepted(2, 0, 'new')];
        $this->assign($this->project, $ines, $mei, null);
        $run = new Run;
        $run->forceFill(['project_id' => $this->project->id, 'model' => 'finder', 'wish' => [], 'items' => [], 'state' => 'done', 'report' => ['things' => 7]])->save();
        $suggest = function (Item $item, int $n) use ($run): array {
            $layer = \App\Items\Layers::ensure($item, LayerKind::Suggestion, $run->id);

            return array_map(function (int $i) use ($item, $layer): string {
                $id = strtoupper((string) Str::ulid());
                DB::table('marks')->insert(['id' => $id, 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'layer' => 'suggestion', 'source' => 'model', 'class' => 'apple', 'kind' => 'box', 'geometry' => json_encode(['x' => 10 + 30 * $i, 'y' => 10, 'width' => 20, 'height' => 20]), 'answers' => '{}', 'flags' => '[]', 'confidence' => 0.7, 'revision' => 1, 'created_at' => now(), 'updated_at' => now()]);

                return $id;
            }, range(0, $n - 1));
        };
        $suggestions = $suggest($given, 5);
        $suggest($open, 2);
        $turn = $this->api($mei, 'post', "/projects/{$this->project->id}/next", [])->json('packet');
        self::assertSame($given->id, $turn['item']['id']);
        $edit = static fn (string $action, ?string $mark, array $more): array => ['id' => strtoupper((string) Str::ulid()), 'action' => $action, 'mark' => $mark, 'base' => 0] + $more;
        $make = static fn (int $i, string $class, array $box, ?string $of): array => $edit('create', strtoupper((string) Str::ulid()), ['seconds' => 3, 'data' => ['class' => $class, 'kind' => 'box', 'geometry' => $box, 'answers' => ['ripeness' => ['value' => 'ripe']]]] + ($of === null ? [] : ['suggestion' => $of]));
        $box = static fn (int $i, int $dx = 0): array => ['x' => 10 + 30 * $i + $dx, 'y' => 10, 'width' => 20, 'height' => 20];
        $edits = [
            $make(0, 'apple', $box(0), $suggestions[0]), $make(1, 'apple', $box(1, 5), $suggestions[1]),
            ['data' => ['class' => 'scab', 'kind' => 'box', 'geometry' => $box(2), 'answers' => []]] + $make(2, 'scab', $box(2), $suggestions[2]),
            $make(9, 'apple', $box(0, 150), null), $edit('drop', $suggestions[3], ['data' => ['dropped' => true]]),
        ];
        $results = $this->api($mei, 'post', "/projects/{$this->project->id}/turns/{$turn['turn']['id']}/edits", ['edits' => $edits])->assertOk()->json('results');
        self::assertSame(array_fill(0, 5, 'applied'), array_column($results, 'outcome'), (string) json_encode($results));
        $at = "/projects/{$this->project->id}/runs/{$run->id}/outcome";
        // nothing is given away yet: what is undecided is open
        $before = $this->api($ines, 'get', $at)->assertOk()->json();
        self::assertSame([7, 1, 1, 1, 1, 0, 3, 0], [$before['suggested'], $before['untouched'], $before['moved'], $before['class_changed'], $before['dropped'], $before['left'], $before['open'], $before['missed']]);
        // 20 × 20 moved by 5: 15 of 25 in common
        self::assertEqualsWithDelta(0.6, $before['alike'], 1e-4);
        DB::table('turns')->where('id', $turn['turn']['id'])->update(['state' => 'submitted', 'seconds' => 60]);
        $after = $this->api($ines, 'get', $at)->json();
        self::assertSame([1, 2, 1, 1, 15.0], [$after['left'], $after['open'], $after['missed'], $after['items'], (float) $after['seconds']]);
        self::assertNull($after['by_hand'], 'nobody has worked without suggestions yet');
        // two objects by hand, in two rounds
        $hand = $this->accepted(3, 2, 'new');
        $this->assign($this->project, $ines, $mei, null);
        $turn = (array) DB::table('turns')->where('item_id', $hand->id)->first();
        DB::table('turns')->where('id', $turn['id'])->update(['state' => 'returned', 'followed' => true, 'seconds' => 30]);
        DB::table('turns')->insert(['id' => null, 'round' => 2, 'state' => 'accepted', 'seconds' => 10] + $turn);
        self::assertSame([20.0, 15.0], [(float) $this->api($ines, 'get', $at)->json('by_hand'), (float) $this->api($ines, 'get', $at)->json('seconds')]);
        $this->api($mei, 'get', $at)->assertForbidden();
    }

    public function test_a_lot_is_drawn_by_what_a_model_is_unsure_of(): void
    {
        $ines = $this->member($this->project, Role::Manager, 'Ines');
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $items = array_map(fn (int $seed): Item => $this->accepted($seed, 0, 'new'), range(1, 4));
        $at = "/projects/{$this->project->id}/assignments";
        $body = ['labellers' => [$mei->id], 'reviewers' => [], 'choose' => 'doubt', 'count' => 2];
        $this->api($ines, 'post', $at, $body)->assertStatus(409)->assertJsonPath('code', 'not_suggested');
        $run = new Run;
        $run->forceFill(['project_id' => $this->project->id, 'model' => 'finder', 'wish' => [], 'items' => [], 'state' => 'done'])->save();
        // one sure thing; two doubts; many sure things; one doubt
        foreach ([[0.99], [0.5, 0.4], [0.95, 0.96, 0.97, 0.02], [0.6]] as $i => $confidences) {
            $layer = \App\Items\Layers::ensure($items[$i], LayerKind::Suggestion, $run->id);
            foreach ($confidences as $confidence) {
                DB::table('marks')->insert(['id' => strtoupper((string) Str::ulid()), 'project_id' => $this->project->id, 'item_id' => $items[$i]->id, 'layer_id' => $layer->id, 'layer' => 'suggestion', 'source' => 'model', 'class' => 'apple', 'kind' => 'box', 'geometry' => '{"x":1,"y":1,"width":9,"height":9}', 'answers' => '{}', 'flags' => '[]', 'confidence' => $confidence, 'revision' => 1, 'created_at' => now(), 'updated_at' => now()]);
            }
        }
        Doubts::refresh(array_map(static fn (Item $item): int => $item->id, $items));
        $this->api($ines, 'post', $at, $body)->assertCreated();
        self::assertSame([$items[1]->id, $items[3]->id], DB::table('turns')->where('project_id', $this->project->id)->orderBy('item_id')->pluck('item_id')->map(intval(...))->all());
    }

    public function test_new_pictures_are_asked_of_a_model_before_a_labeller_sees_them(): void
    {
        $this->acceptedAll(5, 1);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Regions, queued: false)->load('model'));
        $model = ModelRow::query()->firstOrFail();
        $ines = $this->member($this->project, Role::Manager, 'Ines');
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $at = "/projects/{$this->project->id}";
        // unlabelled pictures of acceptedAll are out of it
        DB::table('items')->where('state', 'new')->update(['archived_at' => now()]);
        $new = $this->accepted(700, 3, 'new');
        DB::table('marks')->where('item_id', $new->id)->delete();
        DB::table('items')->where('id', $new->id)->update(['mark_count' => 0]);
        $this->assign($this->project, $ines, $mei, null);
        $body = ['model' => $model->id, 'classes' => ['apple' => 'apple'], 'from' => 0.5];
        $this->api($mei, 'put', "{$at}/model-stage", $body)->assertForbidden();
        $this->api($ines, 'put', "{$at}/model-stage", ['classes' => ['pear' => 'apple']] + $body)->assertStatus(422);
        self::assertSame($model->id, $this->api($ines, 'put', "{$at}/model-stage", $body)->assertOk()->json('stage.model'));
        $run = Run::query()->firstOrFail();
        self::assertSame([[$new->id], $run->id], [$run->items, $new->refresh()->helping_run_id]);
        Queue::assertPushed(RunModel::class, 1);
        // it is held back for as long as it is asked about, and asked about once
        self::assertNull($this->api($mei, 'post', "{$at}/next", [])->assertOk()->json('packet'));
        self::assertSame(0, app(ModelStage::class)->beginAll());
        app(Runs::class)->work($run->load(['project', 'asked']));
        self::assertGreaterThanOrEqual(2, count($this->api($mei, 'post', "{$at}/next", [])->assertOk()->json('packet.suggestions')));
        self::assertSame([null, 0], [$new->refresh()->helping_run_id, app(ModelStage::class)->beginAll()]);
        // a run that is stopped, or that gives up, holds nothing back
        foreach (['cancel', 'fail'] as $how) {
            $item = $this->accepted(710 + strlen($how), 0, 'new');
            $held = app(ModelStage::class)->begin($this->project->refresh());
            self::assertNotNull($held);
            self::assertSame($held->id, $item->refresh()->helping_run_id);
            $how === 'cancel' ? app(Runs::class)->cancel($held) : (new RunModel($held->id))->failed(null);
            self::assertNull($item->refresh()->helping_run_id);
            self::assertNull(app(ModelStage::class)->begin($this->project->refresh()));
        }
        // without its model it says so and holds nothing back
        Run::query()->update(['state' => 'done']);
        $this->api($ines, 'delete', "{$at}/models/{$model->id}")->assertNoContent();
        self::assertSame('its model is not there any more', $this->api($ines, 'get', "{$at}/models")->json('stage_trouble'));
        $this->accepted(720, 0, 'new');
        self::assertNull(app(ModelStage::class)->begin($this->project->refresh()));
        $this->api($ines, 'delete', "{$at}/model-stage")->assertNoContent();
        self::assertNull($this->api($ines, 'get', "{$at}/models")->json('stage'));
    }

    public function test_a_skeleton_is_fitted_at_the_bench_once_skeletons_were_learned(): void
    {
        $nodes = [['key' => 'tip', 'name' => 'Tip', 'x' => 0.5, 'y' => 0], ['key' => 'end', 'name' => 'End', 'x' => 0.5, 'y' => 1], ['key' => 'left', 'name' => 'Left', 'x' => 0, 'y' => 0.4, 'twin' => 'right'], ['key' => 'right', 'name' => 'Right', 'x' => 1, 'y' => 0.4, 'twin' => 'left']];
        $this->project = $this->project('Arrows', ['skeno' => 'codebook/1', 'classes' => [['key' => 'arrow', 'name' => 'Arrow', 'shapes' => ['skeleton'], 'skeleton' => 'arrow'], ['key' => 'spot', 'name' => 'Spot', 'shapes' => ['box']]], 'skeletons' => [['key' => 'arrow', 'name' => 'Arrow', 'nodes' => $nodes, 'edges' => [['end', 'tip'], ['left', 'tip'], ['right', 'tip']]]]]);
        $truth = [];
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $item = $this->arrow(99, $truth, 'new');
        $this->assign($this->project, $this->member($this->project, Role::Manager, 'Ines'), $mei, null);
        $turn = $this->api($mei, 'post', "/projects/{$this->project->id}/next", [])->json('packet.turn.id');
        for ($seed = 1, $learned = 0; $learned < 14; $seed++) {
            $learned += HeldOut::has($this->arrow($seed, $truth)->id) ? 0 : 1;
        }
        // two arrows that point the same way are one picture
        $held = Item::query()->where('state', 'accepted')->pluck('id')->filter(static fn (int $id): bool => HeldOut::has($id))->count();
        $at = "/projects/{$this->project->id}/turns/{$turn}/fit-skeleton";
        $pose = $truth[$item->id];
        $box = ['x' => min(array_column($pose, 'x')) - 3, 'y' => min(array_column($pose, 'y')) - 3];
        $box += ['width' => max(array_column($pose, 'x')) + 3 - $box['x'], 'height' => max(array_column($pose, 'y')) + 3 - $box['y']];
        $this->api($mei, 'post', $at, ['class' => 'arrow', 'box' => $box])->assertStatus(409)->assertJsonPath('code', 'model_not_learned');
        $learning = app(Learning::class);
        $version = $learning->begin($this->project, LearnedKind::Skeletons, queued: false);
        $learning->work($version->load('model'));
        self::assertSame($held, $version->refresh()->figures['items']);
        foreach ([['box' => $box], ['nodes' => array_map(static fn (array $node): array => ['x' => $node['x'] + 4, 'y' => $node['y'] - 3], $pose)]] as $how) {
            $fitted = $this->api($mei, 'post', $at, ['class' => 'arrow'] + $how)->assertOk()->json();
            self::assertSame(['end', 'left', 'right', 'tip'], collect($fitted['nodes'])->keys()->sort()->values()->all());
            foreach ($pose as $key => $node) {
                self::assertLessThan(14, hypot($fitted['geometry']['nodes'][$key]['x'] - $node['x'], $fitted['geometry']['nodes'][$key]['y'] - $node['y']), $key);
            }
        }
        foreach ([['class' => 'spot', 'box' => $box], ['class' => 'arrow'], ['class' => 'arrow', 'box' => $box, 'nodes' => []], ['class' => 'arrow', 'nodes' => ['tip' => ['x' => 1, 'y' => 1]]], ['class' => 'arrow', 'box' => ['x' => 900, 'y' => 0, 'width' => 10, 'height' => 10]], ['class' => 'arrow', 'nodes' => array_map(static fn (): array => ['x' => 5, 'y' => 5], $pose)]] as $bad) {
            $this->api($mei, 'post', $at, $bad)->assertStatus(422);
        }
        self::assertSame(['arrow'], $this->api($mei, 'get', "/projects/{$this->project->id}/turns/{$turn}")->assertOk()->json('fits'));
        self::assertSame(0, MarkRow::query()->where('item_id', $item->id)->count());
    }

    /**
     * A picture with an arrow that points somewhere.
     *
     * @param  array<int, array<string, array{x: float, y: float}>>  $truth  is told where, by item
     */
    private function arrow(int $seed, array &$truth, string $state = 'accepted'): Item
    {
        mt_srand($seed);
        $image = new Imagick;
        $image->newImage(240, 180, '#d8cfa0');
        $angle = deg2rad(mt_rand(0, 359));
        $pose = [];
        foreach (['tip' => [40, 0], 'end' => [-40, 0], 'left' => [8, -26], 'right' => [8, 26]] as $node => [$x, $y]) {
            $pose[$node] = ['x' => round(120 + $x * cos($angle) - $y * sin($angle), 1), 'y' => round(90 + $x * sin($angle) + $y * cos($angle), 1)];
        }
        $draw = new ImagickDraw;
        $draw->setStrokeColor('#4a3a2a');
        $draw->setStrokeWidth(5);
        $draw->line($pose['end']['x'], $pose['end']['y'], $pose['tip']['x'], $pose['tip']['y']);
        $draw->setFillColor('#5e4a36');
        $draw->setStrokeWidth(1);
        $draw->polygon([$pose['tip'], $pose['left'], $pose['right']]);
        $image->drawImage($draw);
        $image->blurImage(0, 0.8);
        $file = $this->temporary()."/arrow-{$seed}.png";
        $image->writeImage("png24:{$file}");
        $item = Item::query()->findOrFail(app(TakeFiles::class)->one($this->project, $file, "set/arrow-{$seed}.png", false)->item);
        $truth[$item->id] = $pose;
        if ($state === 'accepted') {
            $layer = Layer::query()->where('item_id', $item->id)->where('kind', LayerKind::Agreed)->firstOrFail();
            DB::table('marks')->insert(['id' => strtoupper((string) Str::ulid()), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'layer' => 'agreed', 'source' => 'hand', 'class' => 'arrow', 'kind' => 'skeleton', 'geometry' => json_encode(['nodes' => array_map(static fn (array $node): array => $node + ['state' => 'visible'], $pose)]), 'answers' => '{}', 'flags' => '[]', 'revision' => 1, 'created_at' => now(), 'updated_at' => now()]);
            $layer->forceFill(['mark_count' => 1])->save();
            $item->forceFill(['state' => $state, 'mark_count' => 1])->save();
        }

        return $item;
    }

    public function test_what_has_learned_nothing_finds_nothing_and_what_answers_is_not_run_alone(): void
    {
        $this->acceptedAll(5, 1);
        $learning = app(Learning::class);
        $learning->work($learning->begin($this->project, LearnedKind::Looks, queued: false)->load('model'));
        [$code, $said] = $this->command('skeno:run', ['project' => $this->project->name, '--model' => 'looks', '--preview' => '1']);
        self::assertSame(2, $code);
        self::assertStringContainsString('chosen as what comes then', $said['error']);
        $empty = ModelRow::query()->create(['project_id' => $this->project->id, 'name' => 'empty', 'kind' => 'regions', 'card' => [], 'remote' => '']);
        $this->expectException(InvalidValue::class);
        app(Runs::class)->begin($this->project, $empty, null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', [1]);
    }
}
