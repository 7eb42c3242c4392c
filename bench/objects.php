<?php

declare(strict_types=1);

use App\Access\Actor;
use App\Items\FindItems;
use App\Models\Membership;
use App\Models\Set;
use App\Models\User;
use App\Objects\Objects;
use App\Projects\Projects;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\People\Role;
use Skeno\Core\Quality\Looks;

require_once __DIR__.'/fill.php';
require_once __DIR__.'/serve.php';

/** 100,000 pictures with an object each: pages of the contact sheet, stacked filters, and the field map, drawn by Chromium too where it is there. */
return static function (callable $print, string $folder): void {
    $document = ['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box'], 'attributes' => ['ripeness']], ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']]], 'attributes' => [['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'options' => [['key' => 'ripe', 'name' => 'Ripe'], ['key' => 'green', 'name' => 'Green']]]], 'tags' => [['key' => 'wet', 'name' => 'Wet']]];
    $user = User::query()->create(['name' => 'Ines Okafor', 'email' => 'ines@larkmoor.example', 'password' => 'x', 'is_owner' => true, 'is_demo' => true, 'settings' => []])->refresh();
    $project = app(Projects::class)->create('objects', '', '', Codebook::fromArray($document), $user);
    Membership::query()->firstOrCreate(['project_id' => $project->id, 'user_id' => $user->id], ['role' => Role::Manager]);
    fill($project, 100_000, 1);
    // all of one class, as after the worker has looked at them
    DB::update("update marks set class = 'apple', width = 40, height = 38, answers = case when rowid % 3 = 0 then '{}' else '{\"ripeness\":{\"value\":\"ripe\"}}' end, oddness = (abs(random()) % 100000) / 20000.0 where project_id = ?", [$project->id]);
    $sets = array_map(static fn (int $i): int => Set::query()->create(['project_id' => $project->id, 'path' => "block {$i}"])->id, range(1, 9));
    DB::update('update items set set_id = '.$sets[0].' + id % 9, state = case id % 5 when 0 then \'new\' when 1 then \'waiting\' when 2 then \'submitted\' else \'accepted\' end where project_id = ?', [$project->id]);
    DB::transaction(static function () use ($project): void {
        DB::table('layers')->where('project_id', $project->id)->whereRaw('item_id % 4 = 0')->update(['tags' => '["wet"]', 'revision' => 1]);
        $vector = pack('g*', ...array_fill(0, Looks::DIMENSIONS, 0.5));
        $looks = DB::connection()->getPdo()->prepare('insert into looks (mark_id, vector) values (?, ?)');
        foreach (DB::table('marks')->where('project_id', $project->id)->where('kind', 'box')->pluck('id') as $id) {
            $looks->execute([$id, $vector]);
        }
    });
    DB::statement('analyze');
    $median = static function (callable $work): float {
        $times = [];
        for ($i = 0; $i < 7; $i++) {
            $at = hrtime(true);
            $work();
            $times[] = (hrtime(true) - $at) / 1e6;
        }
        sort($times);

        return $times[3];
    };
    $actor = new Actor($user);
    $objects = app(Objects::class);
    $page = static fn (array $in): callable => static fn () => json_encode($objects->page($actor, $project, $in + ['class' => 'apple', 'limit' => 60]));
    $print('contact sheet, first page of 100,000 by oddness', sprintf('%.0f ms', $median($page(['sort' => 'oddness']))), '≤ 500 ms');
    $print('a page at the end of them', sprintf('%.0f ms', $median($page(['sort' => 'oddness', 'offset' => 99_900]))), '');
    $print('first page by size, by answer', sprintf('%.0f, %.0f ms', $median($page(['sort' => 'size'])), $median($page(['sort' => 'answer', 'question' => 'ripeness']))), '≤ 500 ms');
    $print('a sweep\'s next 50, not answered', sprintf('%.0f ms', $median($page(['question' => 'ripeness', 'answer' => 'open', 'sort' => 'item', 'limit' => 50]))), '');
    $find = app(FindItems::class);
    $filter = static fn (array $f): callable => static fn () => $find($project, $f)->ids();
    $print('three filters over 100,000 items: set, state, class', sprintf('%.0f ms', $median($filter(['set:block 3', '-state:new', 'class:apple']))), '≤ 300 ms');
    $print('pattern, tag, answer', sprintf('%.0f ms', $median($filter(['re:p0*[1-5]\d+\.jpg$', 'tag:wet', 'answer:ripeness=ripe']))), '≤ 300 ms');
    $paths = Set::query()->where('project_id', $project->id)->pluck('path', 'id')->all();
    $print('field map of 100,000 items, server part', sprintf('%.0f ms, %.0f kB', $median(static fn () => json_encode($find($project, [])->map($paths))), strlen((string) json_encode($find($project, [])->map($paths))) / 1000), '');
    if (! is_file('/usr/bin/chromium')) {
        return;
    }
    $url = bench_serve($folder, 9172);
    passthru('node '.escapeshellarg(__DIR__.'/eyes.mjs')." {$url} {$project->id}");
};
