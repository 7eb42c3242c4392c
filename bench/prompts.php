<?php

declare(strict_types=1);

use App\Help\Endpoints;
use App\Intake\TakeTexts;
use App\Models\Item;
use App\Models\PromptTrial;
use App\Prompts\ChatModels;
use App\Prompts\PromptResults;
use App\Prompts\Prompts;
use App\Prompts\PromptTrials;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Prompt\Price;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;
use Skeno\Demo\Chance;
use Skeno\Demo\ScoutNotes;
use Skeno\StandIns\ChatServer;
use Symfony\Component\Process\Process;

/** Prompts: a trial as large as one may be, by the stand-in chat model, and what the page asks for while it goes on. */
return static function (callable $print, string $folder, array $options): void {
    $codebook = Codebook::fromJson((string) file_get_contents(__DIR__.'/../demo/resources/scout-notes.json'));
    $project = app(App\Projects\Projects::class)->create('bench prompts', '', '', $codebook, null);
    $lines = '';
    for ($i = 0; $i < PromptTrials::MOST; $i++) {
        $note = ScoutNotes::note(new Chance("bench prompts/{$i}"));
        $lines .= json_encode(['id' => "n{$i}", 'text' => $note['text'], 'labelled' => 'objects', 'annotations' => array_map(static fn (array $span, int $k): array => ['id' => "a{$k}", 'type' => 'Annotation', 'body' => ['type' => 'TextualBody', 'value' => $span['class']], 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => $span['start'], 'end' => $span['end']]]], $note['spans'], array_keys($note['spans']))])."\n";
    }
    file_put_contents($file = "{$folder}/prompts.jsonl", $lines);
    app(TakeTexts::class)($project, Format::Jsonl, $file, 'prompts.jsonl', Columns::guessed(), true, false);
    Item::query()->where('project_id', $project->id)->update(['state' => 'accepted']);

    $port = 20_000 + getmypid() % 20_000;
    $standIn = new Process([PHP_BINARY, '-S', "127.0.0.1:{$port}", __DIR__.'/../stand-ins/serve.php'], timeout: null);
    $standIn->disableOutput();
    $standIn->start();
    usleep(700_000);
    app(Endpoints::class)->allow("http://127.0.0.1:{$port}", true);
    $model = app(ChatModels::class)->connect($project, 'reader', "http://127.0.0.1:{$port}", 'note-reader', ChatServer::KEY, Price::of(0.5, 2));
    $trials = app(PromptTrials::class);
    $tried = [];
    foreach ([1, 2] as $number) {
        $version = app(Prompts::class)->save($project, 'Find all', $model, Task::all($codebook), Template::of((string) file_get_contents(__DIR__."/../demo/resources/prompts/find-all-{$number}.txt")), null)->load(['prompt', 'asked.endpoint']);
        $trial = isset($tried[0]) ? $trials->beginAs($tried[0], $version, null, queued: false) : $trials->begin($project, $version, null, Item::query()->where('project_id', $project->id)->pluck('id')->all(), PromptTrials::MOST, 1, queued: false);
        $start = microtime(true);
        $trials->work($trial->load(['project', 'version.asked.endpoint']));
        $seconds = microtime(true) - $start;
        $tried[] = $trial->refresh();
    }
    $standIn->stop();
    $asked = (float) DB::table('prompt_trial_items')->where('prompt_trial_id', $tried[1]->id)->sum('seconds');
    $print('a trial of 500 notes by the stand-in', sprintf('%.1f s, %.1f of them its own', $seconds, $seconds - $asked), '');
    $results = app(PromptResults::class);
    $found = static fn (int $id): PromptTrial => PromptTrial::query()->with(['version.prompt', 'version.asked'])->findOrFail($id);
    $item = (int) DB::table('prompt_trial_items')->where('prompt_trial_id', $tried[1]->id)->value('item_id');
    foreach ([
        'its figures, nine rows with their intervals' => static fn () => $results->figures($found($tried[1]->id)),
        'its texts one by one' => static fn () => $results->texts($found($tried[1]->id)),
        'held against the other version' => static fn () => $results->against($found($tried[1]->id), $found($tried[0]->id)),
        'one text side by side' => static fn () => $results->text($found($tried[1]->id), $item),
    ] as $what => $work) {
        $times = [];
        for ($k = 0; $k < 9; $k++) {
            $start = microtime(true);
            $work();
            $times[] = 1e3 * (microtime(true) - $start);
        }
        sort($times);
        $print($what, sprintf('median %.0f, most %.0f ms', $times[4], $times[8]), '');
    }
};
