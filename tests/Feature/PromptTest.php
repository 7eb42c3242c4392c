<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Help\CallEndpoint;
use App\Help\Endpoints;
use App\Models\ChatModel;
use App\Models\Item;
use App\Models\PromptTrial;
use App\Models\PromptVersion;
use App\Prompts\AskChat;
use App\Prompts\ChatModels;
use App\Prompts\PromptResults;
use App\Prompts\Prompts;
use App\Prompts\PromptTrials;
use App\Prompts\TryPrompt;
use App\Support\Cancelled;
use App\Support\Job;
use App\Upkeep\Resume;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Price;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;
use Skeno\StandIns\ChatServer;
use Tests\TestCase;

/** Prompts from their words to their figures, and chat models that break, lie or ask for a key. */
final class PromptTest extends TestCase
{
    use AcceptedNotes;
    use ServesModels;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Scout notes', json_decode((string) file_get_contents(base_path('demo/resources/scout-notes.json')), true));
        // no test waits for a server to be well again
        $this->app->bind(AskChat::class, fn (): AskChat => new AskChat(app(CallEndpoint::class), static fn (int $seconds): null => null));
    }

    /** @param  array<string, mixed>  $arguments @return array{int, mixed, string} */
    private function command(string $command, array $arguments): array
    {
        $code = Artisan::call($command, $arguments + ['project' => $this->project->name, '--json' => true]);
        $said = Artisan::output();

        return [$code, json_decode($said, true), $said];
    }

    private function version(string $address, string $remote = 'note-reader', ?string $key = ChatServer::KEY, string $words = self::CAREFUL): PromptVersion
    {
        $model = app(ChatModels::class)->connect($this->project, $remote, $address, $remote, $key, Price::of(0.5, 2));

        return app(Prompts::class)->save($this->project, 'Find all', $model, Task::all($this->project->codebookVersion()->codebook()), Template::of($words), null)->load(['asked.endpoint', 'prompt']);
    }

    private function trial(PromptVersion $version, int $most = 100): PromptTrial
    {
        $all = Item::query()->where('project_id', $this->project->id)->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();

        return app(PromptTrials::class)->begin($this->project, $version, null, array_values($all), $most, 1, queued: false)->load(['project', 'version.asked.endpoint']);
    }

    public function test_two_versions_are_saved_and_measured_by_commands_and_the_key_is_never_shown(): void
    {
        $this->notes(40);
        $address = $this->chat();
        $key = $this->file('key', ChatServer::KEY."\n");
        [$code, $said, $shown] = $this->command('skeno:chat', ['name' => 'reader', '--address' => $address, '--remote' => 'note-reader', '--key-file' => $key, '--price' => '0.5,2']);
        self::assertSame([0, true, ['in' => 0.5, 'out' => 2]], [$code, $said['models'][0]['has_key'], $said['models'][0]['price']], $shown);
        foreach (['plain' => self::PLAIN, 'careful' => self::CAREFUL, 'again' => self::CAREFUL] as $name => $words) {
            $saved[] = $this->command('skeno:prompt', ['name' => 'Find all', '--words' => $this->file($name, $words), '--model' => 'reader', '--ask' => 'pest,count,variety,block,date,treatment,urgency'])[1]['version'];
        }
        self::assertSame([1, 2, 2], $saved, 'the same words are no other version');
        [$code, $plain] = $this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'accepted', '--of' => '1', '--limit' => '30']);
        self::assertSame([0, 30, 1, 'reader', []], [$code, $plain['items'], $plain['version'], $plain['model'], $plain['failed']]);
        [$code, $careful, $shown] = $this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'accepted', '--limit' => '30']);
        self::assertSame([0, 30, 2], [$code, $careful['items'], $careful['version']]);
        self::assertGreaterThan($plain['all']['exact']['f1']['value'] + 0.1, $careful['all']['exact']['f1']['value']);
        self::assertGreaterThan(0, $careful['mended'] * $careful['left'] * $careful['cost']);
        self::assertSame(0, $careful['uncounted']);
        foreach (['pest', 'count', 'variety', 'block', 'date', 'treatment'] as $class) {
            $recall = $careful['classes'][$class]['overlapping']['recall'];
            self::assertTrue($recall === null || ($recall['low'] <= $recall['value'] && $recall['value'] <= $recall['high']), $class);
        }
        self::assertGreaterThan(0.8, $careful['answers']['urgency']['value']);
        // the same texts are drawn, and the same is said of them
        [, $again] = $this->command('skeno:prompt', ['name' => 'Find all', '--limit' => '30']);
        self::assertSame(array_diff_key($careful, ['trial' => 0, 'seconds' => 0]), array_diff_key($again, ['trial' => 0, 'seconds' => 0]));
        // in words too
        self::assertSame(0, Artisan::call('skeno:prompt', ['project' => $this->project->name, 'name' => 'Find all', '--limit' => '5']));
        self::assertMatchesRegularExpression('/pest: \d+ there, \d+ said\n  exact: f1 .*On 5 texts, 0 failed: .*cost 0\.\d+\.$/s', trim(Artisan::output()));
        self::assertStringNotContainsString(ChatServer::KEY, $shown.json_encode(ChatModel::query()->get()).json_encode(DB::table('chat_models')->get()).json_encode(DB::table('prompt_trial_items')->get()));
        self::assertSame(ChatServer::KEY, Crypt::decryptString((string) ChatModel::query()->value('secret')));
    }

    public function test_a_prompt_is_run_over_the_rest_by_command(): void
    {
        $this->notes(6);
        Item::query()->orderBy('id')->limit(2)->update(['state' => 'new', 'mark_count' => 0]);
        Item::query()->orderBy('id')->skip(2)->limit(1)->get()->each(static fn (Item $item) => $item->forceFill(['state' => 'submitted'])->save());
        $this->version($this->chat());
        [$code, $said] = $this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'rest']);
        self::assertSame([0, 'done', 3, 2, 1], [$code, $said['state'], $said['items'], $said['with'], $said['left']], 'what has marks is left out');
        self::assertGreaterThan(0, $said['things'] * $said['cost']);
        self::assertSame(0, Artisan::call('skeno:prompt', ['project' => $this->project->name, 'name' => 'Find all', '--on' => 'rest', '--stays' => 'beside']));
        self::assertMatchesRegularExpression('/^Run \d+: \d+ spans and \d+ words on 3 texts; nothing on 0, left out 0, failed 0; cost 0\.\d{4}\.$/', trim(Artisan::output()));
        self::assertSame([2, 'stays is "over"; expected beside, replace, without'], [$this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'rest', '--stays' => 'over'])[0], $this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'rest', '--stays' => 'over'])[1]['error']]);
        self::assertSame(2, $this->command('skeno:prompt', ['name' => 'Find all', '--on' => 'all'])[0]);
    }

    public function test_a_key_stays_when_none_is_given_and_does_not_go_to_another_address(): void
    {
        foreach (['https://a.example', 'https://b.example'] as $address) {
            app(Endpoints::class)->allow($address, false);
        }
        $models = app(ChatModels::class);
        $models->connect($this->project, 'large', 'https://a.example', 'large', 'secret-1');
        self::assertSame('secret-1', Crypt::decryptString((string) $models->connect($this->project, 'large', 'https://a.example', 'larger', null)->secret));
        self::assertNull($models->connect($this->project, 'large', 'https://b.example', 'larger', null)->secret);
        self::assertSame(1, ChatModel::query()->count());
        // kept by another installation
        $model = $models->named($this->project, 'large');
        $model->forceFill(['secret' => 'eyJpdiI6Im5vbmUifQ=='])->save();
        $this->expectExceptionMessage('enter it again');
        app(AskChat::class)($model, 'a', 'b');
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function wrong(): iterable
    {
        yield 'an address nobody has allowed' => [['--address' => 'https://elsewhere.example'], 'address'];
        yield 'no address' => [[], '--address'];
        yield 'a path that leads away' => [['--path' => '/../../x@y'], 'path'];
        yield 'a query' => [['--path' => '/v1/chat?x=1'], 'path'];
        yield 'tokens' => [['--tokens' => 'many'], '--tokens'];
        yield 'no tokens' => [['--tokens' => '0'], 'most_tokens'];
        yield 'a price' => [['--price' => '1'], '--price'];
        yield 'a price below nothing' => [['--price' => '1,-1'], '--price.out'];
        yield 'a name with a line in it' => [['name' => "a\nb"], 'name'];
        yield 'a key file' => [['--key-file' => '/nowhere'], '--key-file'];
    }

    /** @param  array<string, mixed>  $options */
    #[DataProvider('wrong')]
    public function test_a_chat_model_that_is_described_wrongly_is_not_connected(array $options, string $path): void
    {
        app(Endpoints::class)->allow('https://a.example', false);
        [$code, $said] = $this->command('skeno:chat', $options + ['name' => 'large'] + ($path === '--address' ? [] : ['--address' => 'https://a.example']));
        self::assertSame(2, $code);
        self::assertStringStartsWith("{$path} is ", $said['error']);
        self::assertSame(0, ChatModel::query()->count());
    }

    public function test_a_key_that_could_end_a_header_is_none_and_is_not_shown(): void
    {
        app(Endpoints::class)->allow('https://a.example', false);
        [$code, , $shown] = $this->command('skeno:chat', ['name' => 'large', '--address' => 'https://a.example', '--key-file' => $this->file('key', "hidden\r\nHost: elsewhere")]);
        self::assertSame(2, $code);
        self::assertStringNotContainsString('hidden', $shown);
    }

    public function test_prompts_that_ask_for_nothing_that_is_there_are_refused(): void
    {
        app(Endpoints::class)->allow('https://a.example', false);
        app(ChatModels::class)->connect($this->project, 'large', 'https://a.example', 'large', null);
        $words = $this->file('words', self::CAREFUL);
        $name = ['name' => 'Find all', '--model' => 'large', '--words' => $words];
        foreach ([[['--ask' => 'leaf'], '--ask'], [['--model' => 'small'], 'model'], [['--model' => null], 'model'], [['--words' => '/nowhere'], '--words'], [['--words' => $this->file('none', 'no place for it')], 'words'], [['--on' => 'everything'], '--on'], [['name' => ' '], 'name'],
            [['--words' => null], 'prompt'], [['--words' => null, '--limit' => 'x'], 'prompt']] as [$options, $path]) {
            [$code, $said] = $this->command('skeno:prompt', array_filter($options + $name, static fn (?string $one): bool => $one !== null));
            self::assertSame(2, $code, $path);
            self::assertStringStartsWith("{$path} is ", $said['error']);
        }
        self::assertSame(0, PromptVersion::query()->count());
        self::assertSame(0, $this->command('skeno:prompt', $name)[0]);
        foreach ([[['--of' => '7'], 'version'], [['--limit' => '0'], 'limit'], [['--limit' => '501'], 'limit'], [['--seed' => '-1'], '--seed'], [[], 'items']] as [$options, $path]) {
            [$code, $said] = $this->command('skeno:prompt', $options + ['name' => 'Find all']);
            self::assertSame(2, $code, $path);
            self::assertStringStartsWith("{$path} is ", $said['error']);
        }
        self::assertSame(0, PromptTrial::query()->count());
        // of another project it is not there
        $other = $this->project('Other');
        $this->expectException(InvalidValue::class);
        app(Prompts::class)->version($other, 'Find all');
    }

    public function test_a_trial_goes_on_after_a_break_and_is_stopped_by_hand(): void
    {
        $this->notes(6);
        $trials = app(PromptTrials::class);
        $trial = $this->trial($this->version($this->chat()));
        self::assertFalse($trials->work($trial, 0.0), 'its time was up');
        self::assertSame(['working', 0], [$trial->refresh()->state, $trial->done]);
        // whoever worked at it is gone: it is found
        app(Resume::class)();
        self::assertTrue(Job::isQueued("prompt-trial:{$trial->id}") || $trial->refresh()->state === 'done');
        (new TryPrompt($trial->id))->handle();
        self::assertSame(['done', 6], [$trial->refresh()->state, $trial->done]);
        self::assertSame(6, DB::table('prompt_trial_items')->count());
        (new TryPrompt($trial->id))->handle();
        self::assertSame(6, DB::table('prompt_trial_items')->count(), 'what is done is not done again');

        $trial = $this->trial(PromptVersion::query()->with(['asked.endpoint', 'prompt'])->firstOrFail());
        $trials->cancel($trial);
        try {
            $trials->work($trial);
            self::fail('it went on');
        } catch (Cancelled) {
            self::assertSame('cancelled', $trial->refresh()->state);
        }
    }

    public function test_stopped_and_gone_on_with_while_a_job_still_waits_for_its_answer_each_text_is_counted_once(): void
    {
        $this->notes(5);
        $trials = app(PromptTrials::class);
        $trial = $this->trial($this->version($this->chat()));
        $busy = true;
        Item::retrieved(static function () use (&$busy, $trial, $trials): void {
            if ($busy) {
                $busy = false;
                $trials->cancel($trial);
                config(['queue.default' => 'database']);
                $trials->resume($trial);
                self::assertTrue($trials->work(PromptTrial::query()->with(['project', 'version.asked.endpoint'])->findOrFail($trial->id)));
            }
        });
        try {
            $trials->work($trial);
            self::fail('it went on');
        } catch (Cancelled) {
            self::assertSame(['done', 5, 5], [$trial->refresh()->state, $trial->done, DB::table('prompt_trial_items')->whereNotNull('result')->count()]);
        } finally {
            Item::flushEventListeners();
        }
    }

    public function test_a_text_that_is_not_accepted_any_more_is_not_counted_and_another_project_s_is_not_read(): void
    {
        $this->notes(5);
        $trial = $this->trial($this->version($this->chat()));
        $items = Item::query()->orderBy('id')->get();
        $items[0]->forceFill(['state' => 'returned'])->save();
        $items[1]->forceFill(['project_id' => $this->project('Other')->id])->save();
        app(PromptTrials::class)->work($trial);
        $figures = app(PromptResults::class)->figures($trial->refresh());
        self::assertSame([3, [$items[0]->id, $items[1]->id], [null, null]], [$figures['items'], array_column($figures['failed'], 'item'), array_column($figures['failed'], 'path')]);
    }

    public function test_a_wrong_key_ends_a_trial_and_is_not_told(): void
    {
        $this->notes(8);
        $version = $this->version($this->chat(), key: 'guessed-key-77');
        [$code, $said, $shown] = $this->command('skeno:prompt', ['name' => 'Find all']);
        self::assertSame([2, 'note-reader answered 401: this key is not known here'], [$code, $said['error']]);
        $trial = PromptTrial::query()->firstOrFail();
        self::assertSame(['failed', 4], [$trial->state, $trial->done]);
        self::assertStringNotContainsString('guessed-key-77', $shown.json_encode(DB::table('prompt_trial_items')->get()).$trial->error);
        self::assertSame($version->id, $trial->prompt_version_id);
    }

    public function test_a_key_a_server_says_again_is_taken_out_of_it(): void
    {
        $address = $this->serve('tests/fixtures/chat-echo.php');
        app(Endpoints::class)->allow($address, true);
        $model = app(ChatModels::class)->connect($this->project, 'echo', $address, 'found', 'very-secret-9');
        self::assertSame('Bearer …', app(AskChat::class)($model, 'a', 'b')->words);
        $this->expectExceptionMessage('echo answered 403: not with Bearer …');
        app(AskChat::class)(app(ChatModels::class)->connect($this->project, 'echo', $address, 'fault', null), 'a', 'b');
    }

    public function test_a_server_that_lies_fails_by_text_and_puts_nothing_out_of_place(): void
    {
        $this->notes(40);
        $trial = $this->trial($this->version($this->chat(), 'note-liar'));
        try {
            app(PromptTrials::class)->work($trial);
        } catch (\RuntimeException|\DomainException $e) {
            // five lies in a row that are no answers
            self::assertMatchesRegularExpression('/note-liar answered|answer/', $e->getMessage());
        }
        $rows = DB::table('prompt_trial_items')->get();
        self::assertGreaterThan(4, $rows->count());
        self::assertGreaterThan(0, $rows->whereNotNull('result')->count() * $rows->whereNull('result')->count());
        foreach ($rows as $row) {
            self::assertSame($row->result === null, $row->failed !== '');
            self::assertLessThan(600, strlen((string) $row->failed));
            self::assertLessThan(100_000, strlen((string) $row->result), 'however much was said');
            $length = Item::query()->with('asset')->findOrFail($row->item_id)->asset->facts['length'];
            foreach (json_decode((string) $row->result, true)['said']['spans'] ?? [] as $span) {
                self::assertTrue($span['start'] >= 0 && $span['end'] > $span['start'] && $span['end'] <= $length);
            }
        }
        $figures = app(PromptResults::class)->figures($trial->refresh());
        self::assertSame([0.0, $rows->whereNotNull('result')->count()], [$figures['cost'], $figures['uncounted']], 'what is not counted is told, not guessed');
    }
}
