<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Help\Bounded;
use App\Help\CallModel;
use App\Help\Endpoints;
use App\Help\Models;
use App\Help\RunModel;
use App\Help\Runs;
use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use App\Support\Cancelled;
use App\Support\Refusal;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Imagick;
use ImagickDraw;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Role;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/** Models of other servers: what may be asked, what they say, and what becomes of it. */
final class HelpTest extends TestCase
{
    use ServesModels;

    private Project $project;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Help');
    }

    /** @return array<string, mixed> */
    private static function card(): array
    {
        return json_decode((string) file_get_contents(base_path('stand-ins/cards/fruit-finder.json')), true);
    }

    private function model(string $address, string $remote = 'fruit-finder', bool $private = true): ModelRow
    {
        app(Endpoints::class)->allow($address, $private);

        return app(Models::class)->connect($this->project, $address, $remote, self::card());
    }

    /** Red discs on green, each 80 px across. @param  list<array{int, int}>  $at */
    private function orchard(string $path, array $at): Item
    {
        $image = new Imagick;
        $image->newImage(640, 480, '#3c6e32');
        $draw = new ImagickDraw;
        $draw->setFillColor('#be2828');
        foreach ($at as [$x, $y]) {
            $draw->circle($x, $y, $x, $y + 40);
        }
        $image->drawImage($draw);
        $file = $this->temporary().'/'.basename($path);
        $image->writeImage("png24:{$file}");
        $outcome = app(TakeFiles::class)->one($this->project, $file, $path, false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    /** @param  array<string, mixed>  $arguments @return array{int, mixed} */
    private function command(string $command, array $arguments): array
    {
        $code = Artisan::call($command, $arguments + ['--json' => true]);

        return [$code, json_decode(Artisan::output(), true)];
    }

    public function test_a_model_is_connected_tried_run_confirmed_and_its_run_taken_back_by_commands(): void
    {
        $two = $this->orchard('north/two.png', [[150, 120], [400, 300]]);
        $none = $this->orchard('north/none.png', []);
        $this->orchard('slope/one.png', [[300, 200]]);
        $address = $this->serve('stand-ins/serve.php');
        $card = base_path('stand-ins/cards/fruit-finder.json');
        $name = ['project' => $this->project->name];
        // what is not listed is not asked, and this machine only when it is listed as such
        self::assertSame(2, $this->command('skeno:models', $name + ['--card' => $card, '--address' => $address])[0]);
        $this->command('skeno:models', ['--allow' => $address]);
        $this->command('skeno:models', $name + ['--card' => $card, '--address' => $address]);
        [$code, $said] = $this->command('skeno:models', $name + ['--check' => 'fruit-finder']);
        self::assertSame(2, $code);
        self::assertStringContainsString('private', $said['error']);
        $this->command('skeno:models', ['--allow' => $address, '--private' => true]);
        [$code, $said] = $this->command('skeno:models', $name + ['--check' => 'fruit-finder']);
        self::assertSame([0, true, []], [$code, $said['ready'], $said['lacks']]);

        [, $preview] = $this->command('skeno:run', $name + ['--model' => 'fruit-finder', '--preview' => '1']);
        self::assertSame([1, 0], [count($preview['preview']), MarkRow::query()->count()]);
        [$code, $run] = $this->command('skeno:run', $name + ['--model' => 'fruit-finder', '--set' => 'north']);
        self::assertSame([0, 'done', 2, 2, 1, 1, 0], [$code, $run['state'], $run['items'], $run['things'], $run['with'], $run['without'], $run['failed_count']]);
        $found = MarkRow::query()->where('item_id', $two->id)->orderByDesc('confidence')->get();
        self::assertSame([['apple', 'box', 'suggestion', 'model'], ['apple', 'box', 'suggestion', 'model']], $found->map(static fn (MarkRow $mark): array => [$mark->class, $mark->kind, $mark->layer, $mark->source])->all());
        foreach ($found as $mark) {
            self::assertEqualsWithDelta(80, $mark->geometry['width'], 3);
            self::assertGreaterThan(0.8, $mark->confidence);
        }
        self::assertSame(0, $two->refresh()->mark_count, 'they are no labels');
        self::assertSame(1, Layer::query()->where('item_id', $none->id)->where('run_id', $run['run'])->count(), 'that nothing was found is known');

        // one is confirmed by a hand; taken back, the run leaves that, and takes the other
        $manager = $this->member($this->project, Role::Manager, 'Ines');
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->assign($this->project, $manager, $mei, null);
        $base = "/projects/{$this->project->id}";
        do {
            $packet = $this->api($mei, 'post', "{$base}/next", ['holding' => $held ?? []])->assertOk()->json('packet');
            $held[] = $packet['turn']['id'];
        } while ($packet['item']['id'] !== $two->id);
        self::assertCount(2, $packet['suggestions']);
        $mark = $this->ulid();
        $this->api($mei, 'post', "{$base}/turns/{$packet['turn']['id']}/edits", ['edits' => [['suggestion' => $found[0]->id] + $this->create($mark)]])->assertOk();
        [$code, $back] = $this->command('skeno:run', $name + ['--take-back' => (string) $run['run']]);
        self::assertSame([0, 1], [$code, $back['taken_back']]);
        self::assertSame(1, $two->refresh()->mark_count);
        self::assertSame([], $this->api($mei, 'get', "{$base}/turns/{$packet['turn']['id']}")->json('suggestions'));
    }

    public function test_a_run_leaves_out_replaces_or_adds_as_it_is_told(): void
    {
        $item = $this->orchard('a.png', [[150, 120]]);
        $model = $this->model($this->serve('stand-ins/serve.php'));
        $runs = app(Runs::class);
        $do = function (string $stays) use ($runs, $model, $item): array {
            $run = $runs->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, [], $stays, [$item->id]);

            return $run->refresh()->report;
        };
        self::assertSame(1, $do('beside')['things']);
        self::assertSame(1, $do('beside')['things']);
        $standing = fn (): int => MarkRow::query()->where('item_id', $item->id)->whereNull('deleted_at')->count();
        self::assertSame(2, $standing());
        $do('replace');
        self::assertSame(1, $standing());
        Item::query()->whereKey($item->id)->update(['mark_count' => 3]);
        self::assertEquals(['left' => 1, 'things' => 0], array_intersect_key($do('without'), ['left' => 1, 'things' => 1]));
        foreach ([[[], 'classes'], [['pear' => 'apple'], 'classes'], [['apple' => 'moth'], 'classes']] as [$classes, $field]) {
            try {
                $runs->begin($this->project, $model, null, new Mapping($classes), 0.5, [], 'beside', [$item->id]);
                self::fail('it ran');
            } catch (InvalidValue $e) {
                self::assertSame($field, $e->field);
            }
        }
    }

    public function test_what_is_found_on_a_clip_is_a_track_at_its_first_frame_that_can_be_confirmed(): void
    {
        $still = $this->temporary().'/still.png';
        $image = new Imagick;
        $image->newImage(640, 480, '#3c6e32');
        $draw = new ImagickDraw;
        $draw->setFillColor('#be2828');
        $draw->circle(200, 200, 200, 240);
        $image->drawImage($draw);
        $image->writeImage("png24:{$still}");
        $clip = $this->temporary().'/row.mp4';
        (new Process(['ffmpeg', '-v', 'error', '-loop', '1', '-i', $still, '-frames:v', '6', '-c:v', 'libx264', '-pix_fmt', 'yuv420p', $clip]))->mustRun();
        $item = Item::query()->findOrFail(app(TakeFiles::class)->one($this->project, $clip, 'row/row.mp4', false)->item);
        $runs = app(Runs::class);
        $run = $runs->begin($this->project, $this->model($this->serve('stand-ins/serve.php')), null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', [$item->id]);
        self::assertSame(['done', 1], [$run->refresh()->state, $run->report['things']]);
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->assign($this->project, $this->member($this->project, Role::Manager, 'Ines'), $mei, null);
        $packet = $this->api($mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label'])->assertOk()->json('packet');
        [$suggestion] = $packet['suggestions'];
        self::assertSame([0, [[0, 0]]], [$suggestion['place'], $suggestion['stretches']]);
        $data = array_intersect_key($suggestion, array_flip(['class', 'kind', 'geometry', 'place', 'stretches'])) + ['answers' => ['ripeness' => ['value' => 'ripe']]];
        $edit = ['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => strtoupper((string) Str::ulid()), 'base' => 0, 'suggestion' => $suggestion['id'], 'data' => $data];
        self::assertSame(['applied'], array_column($this->api($mei, 'post', "/projects/{$this->project->id}/turns/{$packet['turn']['id']}/edits", ['edits' => [$edit]])->assertOk()->json('results'), 'outcome'));
        self::assertSame([], $this->api($mei, 'get', "/projects/{$this->project->id}/turns/{$packet['turn']['id']}")->json('suggestions'));
    }

    public function test_a_run_that_is_broken_off_goes_on_where_it_was(): void
    {
        $items = array_map(fn (int $i): int => $this->orchard("p{$i}.png", [[150, 100 + 20 * $i]])->id, range(0, 3));
        $model = $this->model($this->serve('stand-ins/serve.php'));
        $runs = app(Runs::class);
        $run = $runs->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', $items, queued: false);
        // paused after the second: the job ends, nothing is lost, and it goes on from there
        Run::saved(static function (Run $row): void {
            if ($row->done === 2) {
                DB::table('runs')->where('id', $row->id)->where('state', 'working')->update(['state' => 'paused']);
            }
        });
        (new RunModel($run->id))->handle($runs);
        self::assertSame(['paused', 2], [$run->refresh()->state, $run->done]);
        Run::flushEventListeners();
        $runs->resume($run);
        self::assertSame(['done', 4, 4], [$run->refresh()->state, $run->done, $run->report['things']]);
        self::assertSame(4, MarkRow::query()->whereIn('item_id', $items)->count(), 'none twice');
        try {
            $runs->resume($run);
            self::fail('it went on');
        } catch (Refusal $e) {
            self::assertSame('not_paused', $e->reason);
        }
        // two that work on one: the second notices
        $run = $runs->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', $items, queued: false);
        $stale = Run::query()->with(['project', 'asked.endpoint'])->findOrFail($run->id);
        DB::table('runs')->where('id', $run->id)->update(['done' => 1]);
        $this->expectException(Cancelled::class);
        $runs->work($stale);
    }

    /** @param  non-empty-string  $says */
    #[DataProvider('lies')]
    public function test_a_server_that_lies_is_told_by_what_was_wrong_and_leaves_nothing(string $remote, string $says): void
    {
        $item = $this->orchard('a.png', [[150, 120]]);
        $model = $this->model($this->serve('tests/fixtures/lying-model.php'), $remote);
        $run = app(Runs::class)->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', [$item->id])->refresh();
        self::assertSame(['done', 1, 0], [$run->state, $run->report['failed_count'], $run->report['things']]);
        self::assertSame('a.png', $run->report['failed'][0]['item']);
        self::assertStringContainsString($says, $run->report['failed'][0]['reason']);
        self::assertSame([0, 0], [MarkRow::query()->count(), Layer::query()->where('kind', 'suggestion')->count()]);
    }

    /** @return iterable<string, array{string, string}> */
    public static function lies(): iterable
    {
        yield 'a billion boxes' => ['billion', 'boxes.shape'];
        yield 'a place that is no number' => ['nan', 'boxes[2] is not a number'];
        yield 'more boxes than scores' => ['shape', 'scores.shape'];
        yield 'half an answer' => ['half', 'broke off'];
        yield 'somewhere else' => ['elsewhere', 'answered 302'];
        yield 'out of memory' => ['busy', 'answered 503: out of memory'];
        yield 'no model at all' => ['page', 'JSON'];
    }

    public function test_a_server_that_is_not_there_fails_the_run_which_can_go_on(): void
    {
        $items = array_map(fn (int $i): int => $this->orchard("p{$i}.png", [[150, 100 + 20 * $i]])->id, range(0, 5));
        $model = $this->model('http://127.0.0.1:1');
        $runs = app(Runs::class);
        $run = $runs->begin($this->project, $model, null, new Mapping(['apple' => 'apple']), 0.5, [], 'beside', $items, queued: false);
        $job = new RunModel($run->id);
        try {
            $job->handle($runs);
        } finally {
            $job->failed(Refusal::because('model_not_reached', 'http://127.0.0.1:1 does not answer'));
        }
        self::assertSame(['failed', 4], [$run->refresh()->state, $run->done]);
        self::assertStringContainsString('does not answer', $run->error);
        // the address is mended: the rest is done
        $model->endpoint?->update(['address' => $this->serve('stand-ins/serve.php')]);
        $runs->resume($run);
        self::assertSame(['done', 6, 2, 4], [$run->refresh()->state, $run->done, $run->report['things'], $run->report['failed_count']]);
    }

    /** @param  non-empty-string  $address */
    #[DataProvider('addresses')]
    public function test_what_is_no_plain_address_is_not_allowed(string $address): void
    {
        $this->expectException(InvalidValue::class);
        app(Endpoints::class)->allow($address, true);
    }

    /** @return iterable<string, array{string}> */
    public static function addresses(): iterable
    {
        yield 'a file' => ['file:///etc/passwd'];
        yield 'a path' => ['http://models.example/v2'];
        yield 'a name and a password' => ['http://a:b@models.example'];
        yield 'a query' => ['http://models.example?x=1'];
        yield 'nothing' => [''];
    }

    public function test_a_private_address_is_not_called_unless_it_is_listed_as_such(): void
    {
        $model = $this->model($this->serve('stand-ins/serve.php'), private: false);
        $this->expectExceptionMessage('private address');
        app(CallModel::class)->find($model, static fn (int $w, int $h): Colours => Colours::of($w, $h, str_repeat("\0", 3 * $w * $h)), 640, 480);
    }

    public function test_the_very_place_is_called_that_was_looked_at(): void
    {
        // a name no name server knows: only who goes where the first look led arrives
        $asked = 0;
        $this->app->instance(Endpoints::class, new Endpoints(static function (string $host) use (&$asked): array {
            $asked++;

            return $host === 'model.invalid' ? ['127.0.0.1'] : [];
        }));
        $port = parse_url($this->serve('stand-ins/serve.php'), PHP_URL_PORT);
        $model = $this->model("http://model.invalid:{$port}");
        $found = app(CallModel::class)->find($model, static fn (int $w, int $h): Colours => Colours::of($w, $h, str_repeat("\0", 3 * $w * $h)), 640, 480);
        self::assertSame([], $found->things);
        self::assertSame(1, $asked);
    }

    public function test_an_answer_without_end_is_left(): void
    {
        $taken = new Bounded(10);
        self::assertSame(6, $taken->write('apples'));
        self::assertSame([0, true, 'apples'], [$taken->write('pears'), $taken->overflowed, (string) $taken]);
    }

    public function test_a_manager_connects_tries_and_runs_and_the_owner_says_where(): void
    {
        $item = $this->orchard('north/two.png', [[150, 120], [400, 300]]);
        $this->orchard('slope/one.png', [[300, 200]]);
        $address = $this->serve('stand-ins/serve.php');
        $owner = $this->person('Owner', true);
        $ines = $this->member($this->project, Role::Manager, 'Ines');
        $base = "/projects/{$this->project->id}";
        $this->api($ines, 'post', '/endpoints', ['address' => $address, 'private' => true])->assertForbidden();
        $connect = ['address' => $address, 'remote' => 'fruit-finder', 'card' => self::card()];
        $this->api($ines, 'post', "{$base}/models", $connect)->assertStatus(422)->assertJsonPath('field', 'address');
        $endpoint = $this->api($owner, 'post', '/endpoints', ['address' => $address, 'private' => true])->assertOk()->json('data.0.id');
        $this->api($ines, 'post', "{$base}/models", ['card' => ['skeno' => 'card/1', 'name' => 'x']] + $connect)->assertStatus(422);
        $model = $this->api($ines, 'post', "{$base}/models", $connect)->assertStatus(201)->json();
        self::assertSame([['classes' => ['apple' => 'apple'], 'nodes' => [], 'tags' => []], $address], [$model['alike'], $model['address']]);
        self::assertSame([$model], $this->api($ines, 'get', "{$base}/models")->assertOk()->json('data'));
        self::assertSame(['boxes', 'scores', 'classes'], array_column($this->api($ines, 'post', "{$base}/models/{$model['id']}/check")->assertOk()->json('outputs'), 'name'));
        $try = $this->api($ines, 'post', "{$base}/models/{$model['id']}/try", ['item' => $item->id, 'classes' => ['apple' => 'apple']])->assertOk()->json();
        self::assertSame([2, 2], [$try['found'], count($try['things'])]);
        $this->api($ines, 'post', "{$base}/models/{$model['id']}/try", ['item' => 99999, 'classes' => ['apple' => 'apple']])->assertStatus(422)->assertJsonPath('field', 'item');
        self::assertSame(0, MarkRow::query()->count());

        $wish = ['model' => $model['id'], 'classes' => ['apple' => 'apple'], 'from' => 0.5, 'stays' => 'beside', 'conditions' => ['set:north']];
        $this->api($ines, 'post', "{$base}/runs", ['classes' => new \stdClass] + $wish)->assertStatus(422)->assertJsonPath('field', 'classes');
        $this->api($ines, 'post', "{$base}/runs", ['own' => ['apple' => 3]] + $wish)->assertStatus(422)->assertJsonPath('field', 'confidence.apple');
        $run = $this->api($ines, 'post', "{$base}/runs", $wish)->assertStatus(201)->json();
        self::assertSame(1, $run['total']);
        // the queue of the tests does it at once
        [$done] = $this->api($ines, 'get', "{$base}/runs")->assertOk()->json('data');
        self::assertSame(['done', 2, 1], [$done['state'], $done['report']['things'], $done['report']['with']]);
        $this->api($ines, 'post', "{$base}/runs/{$run['id']}/resume")->assertStatus(409);
        self::assertSame('done', $this->api($ines, 'post', "{$base}/runs/{$run['id']}/pause")->assertOk()->json('state'), 'what is done can not be paused');
        $back = $this->api($ines, 'post', "{$base}/runs/{$run['id']}/take-back")->assertOk()->json();
        self::assertSame(['taken_back', 2], [$back['state'], $back['gone']]);
        self::assertSame(0, MarkRow::query()->whereNull('deleted_at')->count());
        $this->api($owner, 'delete', "/endpoints/{$endpoint}")->assertStatus(409);
        $this->api($ines, 'delete', "{$base}/models/{$model['id']}")->assertNoContent();
        self::assertSame([], $this->api($owner, 'delete', "/endpoints/{$endpoint}")->assertOk()->json('data'));
    }
}
