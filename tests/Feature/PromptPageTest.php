<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Help\CallEndpoint;
use App\Help\Finder;
use App\Help\Finders;
use App\Help\Models;
use App\Help\RunModel;
use App\Help\Runs;
use App\Help\Suggestions;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\PromptTrial;
use App\Models\Run;
use App\Models\SuggestedWord;
use App\Models\User;
use App\Prompts\AskChat;
use App\Prompts\TryPrompt;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Marks\Mark;
use Skeno\Core\People\Role;
use Skeno\StandIns\ChatServer;
use Tests\TestCase;

/** Prompts as the page asks for them. */
final class PromptPageTest extends TestCase
{
    use AcceptedNotes;
    use ServesModels;

    private string $base;

    private User $ines;

    private User $owner;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Scout notes', json_decode((string) file_get_contents(base_path('demo/resources/scout-notes.json')), true));
        // jobs wait until a test takes them up
        config(['queue.default' => 'database']);
        $this->base = "/projects/{$this->project->id}";
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->owner = $this->person('Vera', true);
        $this->app->bind(AskChat::class, static fn (): AskChat => new AskChat(app(CallEndpoint::class), static fn (int $seconds): null => null));
    }

    private function reader(string $remote = 'note-reader', ?string $key = ChatServer::KEY): int
    {
        return (int) $this->api($this->owner, 'post', "{$this->base}/chat-models", ['name' => $remote, 'address' => $this->chat(), 'remote' => $remote, 'key' => $key, 'price' => ['in' => 0.5, 'out' => 2]])->assertCreated()->json('id');
    }

    private function saved(int $model, string $words = self::CAREFUL): int
    {
        $task = $this->api($this->ines, 'get', "{$this->base}/prompts")->assertOk()->json('task');

        return (int) $this->api($this->ines, 'post', "{$this->base}/prompts", ['name' => 'Find all', 'model' => $model, 'task' => $task, 'words' => $words])->assertCreated()->json('id');
    }

    /** @param  array<string, mixed>  $more */
    private function tried(int $version, array $more = []): int
    {
        $trial = (int) $this->api($this->ines, 'post', "{$this->base}/prompt-trials", ['version' => $version] + $more)->assertCreated()->json('id');
        dispatch_sync(new TryPrompt($trial));

        return $trial;
    }

    public function test_the_owner_connects_a_chat_model_whose_key_nobody_sees_again(): void
    {
        $address = $this->chat();
        $wish = ['name' => 'reader', 'address' => $address, 'remote' => 'note-reader', 'key' => 'larkmoor-stand-in'];
        $this->api($this->ines, 'post', "{$this->base}/chat-models", $wish)->assertForbidden();
        $shown = $this->api($this->owner, 'post', "{$this->base}/chat-models", $wish)->assertCreated()->assertJsonPath('has_key', true)->assertJsonPath('price', null);
        self::assertStringNotContainsString('larkmoor-stand-in', (string) $shown->getContent().$this->api($this->ines, 'get', "{$this->base}/chat-models")->assertOk()->assertJsonPath('data.0.name', 'reader')->getContent());
        // changed without a key it keeps the one it has
        $this->api($this->owner, 'post', "{$this->base}/chat-models", ['key' => '', 'most_tokens' => 500] + $wish)->assertCreated()->assertJsonPath('has_key', true)->assertJsonPath('most_tokens', 500);
        self::assertSame('larkmoor-stand-in', Crypt::decryptString((string) DB::table('chat_models')->value('secret')));
        foreach ([['address' => 'https://elsewhere.example'], ['name' => ''], ['price' => ['in' => -1, 'out' => 0]], ['key' => "a\nb"], ['most_tokens' => 0], ['path' => '../x']] as $wrong) {
            $answer = $this->api($this->owner, 'post', "{$this->base}/chat-models", $wrong + $wish)->assertStatus(422);
            self::assertStringStartsWith((string) array_key_first($wrong), (string) $answer->json('field'));
        }
        self::assertSame(1, DB::table('chat_models')->count());
        // an address with a model is not taken off the list under it
        $endpoint = DB::table('endpoints')->value('id');
        $this->api($this->owner, 'delete', "/endpoints/{$endpoint}")->assertStatus(409);
        $this->api($this->ines, 'delete', "{$this->base}/chat-models/{$shown->json('id')}")->assertForbidden();
        $this->api($this->owner, 'delete', "{$this->base}/chat-models/{$shown->json('id')}")->assertNoContent();
        $this->api($this->owner, 'delete', "/endpoints/{$endpoint}")->assertOk();
    }

    public function test_a_prompt_is_begun_filled_in_and_saved_in_versions(): void
    {
        $model = $this->reader();
        $task = $this->api($this->ines, 'get', "{$this->base}/prompts")->assertOk()->assertJsonPath('data', [])->json('task');
        self::assertContains('pest', $task['classes']);
        self::assertContains('urgency', $task['questions']);
        $begun = $this->api($this->ines, 'post', "{$this->base}/prompts/preview", ['task' => $task])->assertOk();
        self::assertStringContainsString('{classes}', (string) $begun->json('words'));
        self::assertStringNotContainsString('{classes}', (string) $begun->json('filled'));
        self::assertStringContainsString('urgency', (string) $begun->json('filled'));
        // only what is asked for is filled in
        $one = $this->api($this->ines, 'post', "{$this->base}/prompts/preview", ['task' => ['classes' => ['pest'], 'questions' => [], 'tags' => []], 'words' => "{classes}\n{form}"])->assertOk()->json('filled');
        self::assertStringNotContainsString('urgency', $one);
        foreach ([[['words' => 'no form'], 'words'], [['task' => ['classes' => ['tractor'], 'questions' => [], 'tags' => []]], 'task.classes'], [['task' => ['classes' => [], 'questions' => [], 'tags' => []]], 'task.classes']] as [$wrong, $field]) {
            $this->api($this->ines, 'post', "{$this->base}/prompts/preview", $wrong + ['task' => $task, 'words' => self::PLAIN])->assertStatus(422)->assertJsonPath('field', $field);
        }
        $first = $this->saved($model, self::PLAIN);
        self::assertSame($first, $this->saved($model, self::PLAIN));
        $second = $this->saved($model, self::CAREFUL);
        $versions = $this->api($this->ines, 'get', "{$this->base}/prompts")->json('data.0.versions');
        self::assertSame([[$second, 2, 'Ines', 'note-reader'], [$first, 1, 'Ines', 'note-reader']], array_map(static fn (array $version): array => [$version['id'], $version['number'], $version['by'], $version['model_name']], $versions));
        $this->api($this->ines, 'post', "{$this->base}/prompts", ['name' => 'x', 'model' => 999, 'task' => $task, 'words' => self::PLAIN])->assertStatus(422)->assertJsonPath('field', 'model');
        // what asked a model that was taken away is still there, and can't be tried
        $this->api($this->owner, 'delete', "{$this->base}/chat-models/{$model}")->assertNoContent();
        $this->api($this->ines, 'get', "{$this->base}/prompts")->assertJsonPath('data.0.versions.0.model', null)->assertJsonPath('data.0.versions.0.model_name', null);
    }

    public function test_two_versions_are_tried_on_the_same_texts_and_what_changed_is_told(): void
    {
        $this->notes(30);
        $model = $this->reader();
        [$first, $second] = [$this->saved($model, self::PLAIN), $this->saved($model, self::CAREFUL)];
        $before = $this->tried($first, ['limit' => 20, 'seed' => 3]);
        $after = $this->tried($second, ['as' => $before]);
        self::assertSame(PromptTrial::query()->findOrFail($before)->items, PromptTrial::query()->findOrFail($after)->items);
        $alone = $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$before}")->assertOk()->assertJsonPath('against', null)->json();
        $shown = $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$after}?against={$before}")->assertOk()->json();
        self::assertSame(['done', 20, 20, 20], [$shown['state'], $shown['figures']['items'], count($shown['texts']), $shown['against']['items']]);
        $gain = $shown['against']['exact'];
        self::assertEqualsWithDelta($shown['figures']['all']['exact']['f1']['value'] - $alone['figures']['all']['exact']['f1']['value'], $gain['value'], 2e-4);
        self::assertTrue($gain['low'] <= $gain['value'] && $gain['value'] <= $gain['high'] && $gain['value'] > 0.05);
        // what is told of the texts is what the pairs say, and the sums are those of the figures
        $sums = ['right' => 0, 'missing' => 0, 'extra' => 0, 'bounded' => 0];
        foreach ($shown['texts'] as $text) {
            $one = $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$after}/texts/{$text['item']}")->assertOk()->json();
            $of = ['right' => 0, 'missing' => 0, 'extra' => 0, 'bounded' => 0];
            foreach ($one['pairs'] as $pair) {
                $of[$pair['known'] === null ? 'extra' : ($pair['said'] === null ? 'missing' : ($pair['known'] === $pair['said'] ? 'right' : 'bounded'))]++;
                foreach (array_filter([$pair['known'], $pair['said']]) as [$start, $end]) {
                    self::assertTrue($start >= 0 && $start < $end && $end <= mb_strlen($one['text']));
                }
            }
            self::assertSame($of, array_intersect_key($text, $of), (string) $text['path']);
            self::assertSame('', $one['failed']);
            self::assertGreaterThan(0, $one['cost']);
            foreach ($of as $what => $many) {
                $sums[$what] += $many;
            }
        }
        $all = $shown['figures']['all'];
        self::assertSame([$all['known'], $all['said']], [$sums['right'] + $sums['missing'] + $sums['bounded'], $sums['right'] + $sums['extra'] + $sums['bounded']]);
        self::assertEqualsWithDelta(2 * $sums['right'] / ($all['known'] + $all['said']), $all['exact']['f1']['value'], 1e-4);
        // texts that changed, the most first; held against itself none has
        $changed = $shown['against']['changed'];
        self::assertGreaterThan(3, count($changed));
        $many = array_map(static fn (array $one): int => $one['better'] + $one['worse'], $changed);
        $sorted = $many;
        rsort($sorted);
        self::assertSame($sorted, $many);
        self::assertGreaterThan(array_sum(array_column($changed, 'worse')), array_sum(array_column($changed, 'better')));
        self::assertSame([], $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$after}?against={$after}")->json('against.changed'));
        $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$after}?against=999")->assertStatus(422)->assertJsonPath('field', 'against');
        $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$after}/texts/999")->assertNotFound();
        self::assertSame([$after, $before], array_column($this->api($this->ines, 'get', "{$this->base}/prompt-trials")->json('data'), 'id'));
    }

    public function test_texts_that_failed_are_asked_about_again_and_the_rest_is_not(): void
    {
        $this->notes(8);
        $version = $this->saved($this->reader(key: 'wrong'));
        $trial = $this->tried($version);
        $path = "{$this->base}/prompt-trials/{$trial}";
        $this->api($this->ines, 'get', $path)->assertJsonPath('state', 'failed')->assertJsonPath('error', 'note-reader answered 401: this key is not known here');
        $this->reader();
        $this->api($this->ines, 'post', "{$path}/resume")->assertOk()->assertJsonPath('state', 'waiting')->assertJsonPath('done', 0);
        dispatch_sync(new TryPrompt($trial));
        $this->api($this->ines, 'get', $path)->assertJsonPath('state', 'done')->assertJsonPath('figures.items', 8);
        $this->api($this->ines, 'post', "{$path}/resume")->assertStatus(409);
        // one that failed by itself
        $rows = DB::table('prompt_trial_items')->where('prompt_trial_id', $trial)->orderBy('id')->get();
        DB::table('prompt_trial_items')->where('id', $rows[2]->id)->update(['result' => null, 'compared' => null, 'failed' => 'it broke off']);
        $this->api($this->ines, 'get', "{$path}/texts/{$rows[2]->item_id}")->assertOk()->assertJsonPath('failed', 'it broke off')->assertJsonPath('pairs', []);
        $this->api($this->ines, 'post', "{$path}/resume")->assertOk()->assertJsonPath('done', 7);
        dispatch_sync(new TryPrompt($trial));
        $after = DB::table('prompt_trial_items')->where('prompt_trial_id', $trial)->orderBy('id')->get();
        self::assertSame([8, 0], [$after->count(), $after->whereNull('result')->count()]);
        self::assertSame($rows->pluck('id')->reject(static fn (int $id): bool => $id === $rows[2]->id)->values()->all(), $after->pluck('id')->take(7)->all(), 'what was answered was not asked again');
        self::assertSame($rows[2]->item_id, $after->last()?->item_id);
    }

    public function test_a_trial_is_stopped_and_gone_on_with(): void
    {
        $this->notes(5);
        $trial = (int) $this->api($this->ines, 'post', "{$this->base}/prompt-trials", ['version' => $this->saved($this->reader())])->assertCreated()->assertJsonPath('total', 5)->json('id');
        $this->api($this->ines, 'post', "{$this->base}/prompt-trials/{$trial}/resume")->assertStatus(409);
        $this->api($this->ines, 'post', "{$this->base}/prompt-trials/{$trial}/cancel")->assertOk()->assertJsonPath('state', 'cancelled');
        dispatch_sync(new TryPrompt($trial));
        self::assertSame(0, DB::table('prompt_trial_items')->count());
        $this->api($this->ines, 'post', "{$this->base}/prompt-trials/{$trial}/resume")->assertOk();
        dispatch_sync(new TryPrompt($trial));
        $this->api($this->ines, 'get', "{$this->base}/prompt-trials/{$trial}")->assertJsonPath('state', 'done')->assertJsonPath('done', 5);
    }

    /** @param  array<string, mixed>  $wrong */
    #[DataProvider('wrongTrials')]
    public function test_what_can_t_be_tried_is_refused(array $wrong, string $field): void
    {
        $this->notes(3);
        $version = $this->saved($this->reader());
        $this->api($this->ines, 'post', "{$this->base}/prompt-trials", $wrong + ['version' => $version])->assertStatus(422)->assertJsonPath('field', $field);
        self::assertSame(0, PromptTrial::query()->count());
    }

    /** @return array<string, array{array<string, mixed>, string}> */
    public static function wrongTrials(): array
    {
        return [
            'another version' => [['version' => 999], 'version'],
            'too many' => [['limit' => 501], 'limit'],
            'none' => [['limit' => 0], 'limit'],
            'a seed that is none' => [['seed' => -1], 'seed'],
            'no accepted one' => [['conditions' => ['state:new']], 'items'],
            'a condition that is none' => [['conditions' => ['colour:red']], 'f'],
            'another trial' => [['as' => 999], 'as'],
        ];
    }

    public function test_of_another_project_nothing_can_be_reached(): void
    {
        $this->notes(3);
        $version = $this->saved($model = $this->reader());
        $trial = $this->tried($version);
        $other = $this->project('Other');
        $leo = $this->member($other, Role::Manager, 'Leo');
        $theirs = "/projects/{$other->id}";
        foreach (["prompt-trials/{$trial}", "prompt-trials/{$trial}/texts/".Item::query()->value('id')] as $path) {
            $this->api($leo, 'get', "{$theirs}/{$path}")->assertNotFound();
            $this->api($leo, 'get', "{$this->base}/{$path}")->assertNotFound();
        }
        foreach (['cancel', 'resume'] as $act) {
            $this->api($leo, 'post', "{$theirs}/prompt-trials/{$trial}/{$act}")->assertNotFound();
        }
        foreach ([['prompt-trials', ['version' => $version]], ['prompts/run', ['version' => $version, 'stays' => 'beside']], ['prompts', ['name' => 'x', 'model' => $model, 'task' => ['classes' => [], 'questions' => [], 'tags' => []], 'words' => '{form}']]] as [$path, $body]) {
            $this->api($leo, 'post', "{$theirs}/{$path}", $body)->assertStatus(422);
        }
        $this->api($this->owner, 'delete', "{$theirs}/chat-models/{$model}")->assertNotFound();
        self::assertSame([1, 1], [PromptTrial::query()->count(), DB::table('chat_models')->count()]);
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->api($mei, 'get', "{$this->base}/prompts")->assertForbidden();
        $this->api($mei, 'get', "{$this->base}/prompt-trials/{$trial}")->assertForbidden();
    }

    public function test_a_prompt_is_run_over_the_rest_confirmed_counted_and_taken_back(): void
    {
        $this->notes(12);
        Item::query()->orderBy('id')->limit(6)->get()->each(static function (Item $item): void {
            // as they came in: nobody has looked at them
            MarkRow::query()->where('item_id', $item->id)->delete();
            DB::table('layers')->where('item_id', $item->id)->update(['answers' => '{}', 'mark_count' => 0]);
            $item->forceFill(['state' => 'new', 'mark_count' => 0])->save();
        });
        $known = MarkRow::query()->count();
        $version = $this->saved($this->reader());
        $run = $this->api($this->ines, 'post', "{$this->base}/prompts/run", ['version' => $version, 'stays' => 'without'])->assertCreated()->assertJsonPath('model', 'Find all, version 1 (note-reader)')->assertJsonPath('total', 6)->assertJsonPath('state', 'waiting')->json('id');
        dispatch_sync(new RunModel($run));
        $shown = $this->api($this->ines, 'get', "{$this->base}/runs")->assertOk()->json('data.0');
        self::assertSame([$run, 'done', 6, 6], [$shown['id'], $shown['state'], $shown['done'], $shown['report']['with']], (string) json_encode($shown));
        self::assertGreaterThan(10, $shown['report']['things']);
        self::assertSame($shown['report']['things'], MarkRow::query()->where('layer', 'suggestion')->count());
        self::assertSame($shown['report']['said'], SuggestedWord::query()->count());
        self::assertSame([$version, 0], [$shown['prompt']['version'], $shown['prompt']['uncounted']]);
        self::assertGreaterThan(0, $shown['prompt']['cost'] * $shown['prompt']['mended'] * $shown['prompt']['tokens_out']);
        self::assertEqualsWithDelta(($shown['prompt']['tokens_in'] * 0.5 + $shown['prompt']['tokens_out'] * 2) / 1e6, $shown['prompt']['cost'], 1e-9);
        self::assertSame(0, MarkRow::query()->where('layer', 'suggestion')->whereIn('item_id', Item::query()->where('state', 'accepted')->pluck('id'))->count());
        // it is asked again only about those without marks: suggestions are none
        $mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->assign($this->project, $this->ines, $mei, null);
        $packet = $this->api($mei, 'post', "{$this->base}/next", ['purpose' => 'label'])->assertOk()->json('packet');
        self::assertSame(['span', null], [$packet['suggestions'][0]['kind'], $packet['suggestions'][0]['confidence']]);
        self::assertSame('urgency', $packet['suggested_words'][0]['key']);
        foreach ([0, 1] as $i) {
            // one as it is, one a letter longer
            $mark = $packet['suggestions'][$i];
            $geometry = ['end' => $mark['geometry']['end'] + $i] + $mark['geometry'];
            $edit = ['suggestion' => $mark['id'], 'data' => ['class' => $mark['class'], 'kind' => 'span', 'geometry' => $geometry, 'answers' => (object) []]] + $this->create($this->ulid());
            $results = $this->api($mei, 'post', "{$this->base}/turns/{$packet['turn']['id']}/edits", ['edits' => [$edit]])->assertOk()->json('results');
            self::assertSame(['applied'], array_column($results, 'outcome'), (string) json_encode($results));
        }
        $became = $this->api($this->ines, 'get', "{$this->base}/runs/{$run}/outcome")->assertOk()->json();
        self::assertSame([1, 1, 0], [$became['untouched'], $became['moved'], $became['class_changed']]);
        self::assertTrue($became['alike'] > 0.5 && $became['alike'] < 1.0, (string) $became['alike']);
        $gone = $this->api($this->ines, 'post', "{$this->base}/runs/{$run}/take-back")->assertOk()->assertJsonPath('state', 'taken_back')->json('gone');
        self::assertSame($shown['report']['things'] + $shown['report']['said'] - 2, $gone);
        self::assertSame(2, MarkRow::query()->where('layer', 'agreed')->whereNull('deleted_at')->count() - $known, 'what was confirmed is a label');
        $this->api($this->ines, 'post', "{$this->base}/prompts/run", ['version' => $version, 'stays' => 'without', 'conditions' => ['state:accepted']])->assertStatus(422)->assertJsonPath('field', 'items');
        $this->api($this->ines, 'post', "{$this->base}/prompts/run", ['version' => $version, 'stays' => 'on top'])->assertStatus(422)->assertJsonPath('field', 'stays');
    }

    public function test_a_run_leaves_the_rest_to_another_job_and_goes_on_when_its_model_is_back(): void
    {
        $this->notes(4);
        Item::query()->update(['state' => 'new']);
        $version = $this->saved($this->reader());
        $run = (int) $this->api($this->ines, 'post', "{$this->base}/prompts/run", ['version' => $version, 'stays' => 'beside'])->assertCreated()->json('id');
        $runs = app(Runs::class);
        $found = static fn (): Run => Run::query()->with(['project', 'asked.endpoint', 'prompt.asked.endpoint'])->findOrFail($run);
        self::assertFalse($runs->work($found(), 0.0));
        self::assertSame(['working', 0], [$found()->state, $found()->done]);
        self::assertTrue($runs->work($found()));
        self::assertSame(['done', 4, 4], [$found()->state, $found()->done, $found()->report['with']]);
        // its model is gone: it says so, and can be gone on with when it is back
        $again = (int) $this->api($this->ines, 'post', "{$this->base}/prompts/run", ['version' => $version, 'stays' => 'replace'])->assertCreated()->json('id');
        $model = DB::table('chat_models')->value('id');
        $this->api($this->owner, 'delete', "{$this->base}/chat-models/{$model}")->assertStatus(409);
        DB::table('prompt_versions')->update(['chat_model_id' => null]);
        dispatch_sync(new RunModel($again));
        self::assertSame(['failed', 'its chat model is not there any more'], [Run::query()->findOrFail($again)->state, Run::query()->findOrFail($again)->error]);
        DB::table('prompt_versions')->update(['chat_model_id' => $model]);
        $this->api($this->ines, 'post', "{$this->base}/runs/{$again}/resume")->assertOk();
        dispatch_sync(new RunModel($again));
        self::assertSame('done', Run::query()->findOrFail($again)->state);
        self::assertSame(Run::query()->findOrFail($again)->report['things'], MarkRow::query()->where('layer', 'suggestion')->whereNull('deleted_at')->count(), 'earlier suggestions went');
    }

    public function test_what_was_said_in_the_words_of_a_codebook_that_was_changed_meanwhile_is_asked_again(): void
    {
        $this->notes(2);
        Item::query()->update(['state' => 'new']);
        $asked = [];
        $finder = new class($asked, $this->project) implements Finder, Finders
        {
            /** @param  list<int>  $asked */
            public function __construct(public array $asked, private readonly Project $project)
            {
            }

            public function of(Run $run): Finder
            {
                return $this;
            }

            public function looksForObjects(): bool
            {
                return true;
            }

            public function suggest(Item $item, Codebook $codebook): Suggestions
            {
                $this->asked[] = count($codebook->classes);
                if (count($this->asked) === 1) {
                    // while it is thinking, somebody takes a class away
                    $document = json_decode($this->project->codebookVersion()->body, true);
                    $document['classes'] = array_values(array_filter($document['classes'], static fn (array $class): bool => $class['key'] !== 'pest'));
                    $document['relations'] = [];
                    $this->project->codebooks()->create(['version' => 99, 'body' => json_encode($document), 'note' => 'without pests']);
                }

                return new Suggestions(array_map(static fn (string $key): Mark => Mark::of(strtoupper((string) Str::ulid()), $key, Span::of(0, 3)), array_keys($codebook->classes)), [], ['asked' => 1]);
            }
        };
        $runs = new Runs(app(Models::class), [$finder]);
        $run = $runs->put($this->project, null, ['model' => 'fake'], [], 'beside', array_values(Item::query()->orderBy('id')->pluck('id')->all()), queued: false);
        self::assertTrue($runs->work($run->load('project')));
        [$all] = $finder->asked;
        self::assertSame([$all, $all - 1, $all - 1], $finder->asked, 'the first text twice');
        self::assertSame(['done', 2, 2 * ($all - 1), ['asked' => 2]], [$run->refresh()->state, $run->done, $run->report['things'], $run->report['sums']]);
        self::assertSame(0, MarkRow::query()->where('layer', 'suggestion')->where('class', 'pest')->count());
    }
}
