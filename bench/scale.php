<?php

declare(strict_types=1);

use App\Chores\Chores;
use App\Looks\LookAtObjects;
use App\Models\Assignment;
use App\Models\Membership;
use App\Models\User;
use App\Projects\Projects;
use App\Work\HandOut;
use Illuminate\Database\Events\QueryExecuted;
use Illuminate\Database\Events\TransactionBeginning;
use Illuminate\Database\Events\TransactionCommitted;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Event;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\People\Role;

require_once __DIR__.'/fill.php';
require_once __DIR__.'/serve.php';

/**
 * A project of 100,000 items and 1,000,000 marks, or SKENO_ITEMS of them with ten marks each: what long work holds the write lock for at a
 * time, and what pages that people wait for take over HTTP on PHP's own web server with four workers.
 */
return static function (callable $print, string $folder): void {
    $items = (int) (getenv('SKENO_ITEMS') ?: 100_000);
    $document = ['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box'], 'attributes' => ['ripeness']], ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']]], 'attributes' => [['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'options' => [['key' => 'ripe', 'name' => 'Ripe'], ['key' => 'green', 'name' => 'Green']]]]];
    $project = app(Projects::class)->create('scale', '', '', Codebook::fromArray($document), null);
    fill($project, $items, 10, 'slope', 'new');
    $people = [];
    foreach (['Ines' => Role::Manager, 'Rafe' => Role::Reviewer, 'Mei' => Role::Labeller] as $name => $role) {
        $user = User::query()->create(['name' => $name, 'email' => strtolower($name).'@scale.example', 'password' => 'x', 'settings' => []])->refresh();
        Membership::query()->create(['project_id' => $project->id, 'user_id' => $user->id, 'role' => $role]);
        $people[$name] = ['user' => $user, 'token' => $user->createToken('bench')->plainTextToken];
    }
    // how long the write lock is held: a transaction that writes, or a statement outside any
    $held = ['begun' => 0.0, 'wrote' => false, 'longest' => 0.0];
    Event::listen(TransactionBeginning::class, static function () use (&$held): void {
        if (DB::transactionLevel() === 1) {
            [$held['begun'], $held['wrote']] = [hrtime(true), false];
        }
    });
    Event::listen(QueryExecuted::class, static function (QueryExecuted $query) use (&$held): void {
        if (preg_match('/^\s*(insert|update|delete)/i', $query->sql) === 1) {
            $held['wrote'] = true;
            if (DB::transactionLevel() === 0) {
                $held['longest'] = max($held['longest'], $query->time);
            }
        }
    });
    Event::listen(TransactionCommitted::class, static function () use (&$held): void {
        if (DB::transactionLevel() === 0 && $held['wrote']) {
            $held['longest'] = max($held['longest'], (hrtime(true) - $held['begun']) / 1e6);
        }
    });
    $long = static function (string $what, callable $work) use (&$held, $print): void {
        $held['longest'] = 0.0;
        $at = hrtime(true);
        $work();
        $print($what, sprintf('%.1f s, at most %.0f ms at a time', (hrtime(true) - $at) / 1e9, $held['longest']), '≤ 500 ms at a time');
    };
    $through = static fn () => Artisan::call('skeno:work', ['--once-through' => true]);
    $n = number_format($items);

    $ids = DB::table('items')->where('project_id', $project->id)->orderBy('id')->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();
    $chores = app(Chores::class);
    $long("{$n} items handed out", static function () use ($project, $people, $chores, $through): void {
        $behind = static fn (Assignment $assignment, array $items, bool $new) => $chores->begin($project, null, 'hand_out', ['assignment' => $assignment->id, 'items' => $items, 'only_new' => $new], count($items));
        app(HandOut::class)->make($project, $people['Ines']['user'], Fields::of(['labellers' => [$people['Mei']['user']->id], 'reviewers' => [$people['Rafe']['user']->id], 'pool' => 'new']), $behind);
        $through();
    });
    $long("{$n} items archived", static function () use ($chores, $project, $ids, $through): void {
        $chores->begin($project, null, 'archive', ['items' => $ids, 'archived' => true], count($ids));
        $through();
    });
    $long("{$n} items brought back", static function () use ($chores, $project, $ids, $through): void {
        $chores->begin($project, null, 'archive', ['items' => $ids, 'archived' => false], count($ids));
        $through();
    });
    $long("facts about {$n} items", static function () use ($chores, $project, $items, $through): void {
        $chore = $chores->begin($project, null, 'facts', [], $items);
        $rows = '';
        for ($i = 0; $i < $items; $i++) {
            $rows .= sprintf("slope/p%06d.jpg,%d,%s\n", $i, $i % 90, $i % 2 === 0 ? 'rain' : 'dry');
        }
        file_put_contents(Chores::table($chore), "file,height,weather\n".$rows);
        $through();
    });
    // a third submitted and waiting for review, half accepted after review with decisions, the rest waits
    [$mei, $rafe] = [$people['Mei']['user']->id, $people['Rafe']['user']->id];
    $station = DB::table('stations')->where('stage', 'review')->value('id');
    DB::transaction(static function () use ($project, $mei, $rafe, $station): void {
        DB::update("update turns set state = case when item_id % 6 < 2 then 'submitted' else 'accepted' end, user_id = ?, submitted_at = datetime('now', '-' || (item_id % 40) || ' days') where project_id = ? and item_id % 6 < 5", [$mei, $project->id]);
        DB::insert("insert into turns (project_id, item_id, assignment_id, stage, pass, round, state, station_id, layer_id, user_id, created_at, updated_at) select project_id, item_id, assignment_id, 'review', pass, round, case when state = 'accepted' then 'accepted' else 'waiting' end, ?, layer_id, case when state = 'accepted' then {$rafe} end, submitted_at, submitted_at from turns where project_id = ? and stage = 'label' and state in ('submitted', 'accepted')", [$station, $project->id]);
        DB::insert("insert into decisions (turn_id, reviewer_id, decision, reason, created_at, updated_at) select id, ?, 'accept', '', updated_at, updated_at from turns where project_id = ? and stage = 'review' and state = 'accepted'", [$rafe, $project->id]);
        DB::update("update items set state = (select state from turns where turns.item_id = items.id and stage = 'label') where project_id = ?", [$project->id]);
        DB::update("update marks set width = 40, height = 38, oddness = (abs(random()) % 100000) / 20000.0, updated_at = datetime('now') where project_id = ?", [$project->id]);
    });
    $long('oddness of a million marks reset', static fn () => LookAtObjects::forget($project->id));
    DB::update('update marks set oddness = (abs(random()) % 100000) / 20000.0 where project_id = ?', [$project->id]);

    $url = bench_serve($folder, 9174);
    $ask = static function (string $who, string $method, string $path, ?array $body = null) use ($url, $people, $folder): array {
        $curl = curl_init("{$url}/api/v1{$path}");
        curl_setopt_array($curl, [CURLOPT_RETURNTRANSFER => true, CURLOPT_CUSTOMREQUEST => $method, CURLOPT_HTTPHEADER => ["Authorization: Bearer {$people[$who]['token']}", 'Content-Type: application/json', 'Accept: application/json']] + ($body === null ? [] : [CURLOPT_POSTFIELDS => json_encode((object) $body)]));
        $answer = (string) curl_exec($curl);
        if (curl_getinfo($curl, CURLINFO_RESPONSE_CODE) >= 300) {
            throw new RuntimeException("{$path}: ".substr($answer, 0, 300).substr((string) @file_get_contents("{$folder}/logs/laravel.log"), 0, 1500));
        }

        return [json_decode($answer, true), curl_getinfo($curl, CURLINFO_TOTAL_TIME) * 1000];
    };
    $times = static function (string $what, string $aim, int $runs, callable $one) use ($print): void {
        $one();
        $all = [];
        for ($i = 0; $i < $runs; $i++) {
            $all[] = $one()[1];
        }
        sort($all);
        $print($what, sprintf('p50 %.0f, p95 %.0f ms', $all[intdiv($runs, 2)], $all[(int) floor(($runs - 1) * 0.95)]), $aim);
    };
    $base = "/projects/{$project->id}";
    $times('an answer of nothing (what any request costs)', '', 20, static fn () => $ask('Mei', 'GET', '/session'));
    foreach (['Mei' => 'label', 'Rafe' => 'review', 'Ines' => 'review'] as $who => $purpose) {
        $times("next item to {$purpose}, {$who}", 'p95 ≤ 40 ms', 40, static fn () => $ask($who, 'POST', "{$base}/next", ['purpose' => $purpose]));
        $turn = $ask($who, 'POST', "{$base}/next", ['purpose' => $purpose])[0]['packet']['turn']['id'];
        $times("ribbon, {$who}", '≤ 300 ms', 7, static fn () => $ask($who, 'GET', "{$base}/turns/{$turn}/queue"));
        $times("found in the queue by a part of the name, {$who}", '≤ 300 ms', 5, static fn () => $ask($who, 'GET', "{$base}/turns/{$turn}/queue/find?find=0777"));
    }
    $times('my work, a labeller', '≤ 300 ms', 5, static fn () => $ask('Mei', 'GET', '/work'));
    $times('my work, a manager', '≤ 300 ms', 5, static fn () => $ask('Ines', 'GET', '/work'));
    $times('progress', '≤ 300 ms', 5, static fn () => $ask('Ines', 'GET', "{$base}/progress"));
    $times('assignments', '≤ 300 ms', 5, static fn () => $ask('Ines', 'GET', "{$base}/assignments"));
    $times('what a release would take', '≤ 300 ms', 3, static fn () => $ask('Ines', 'POST', "{$base}/releases/preview", ['recipe' => ['states' => 'accepted']]));
    $times('the same with a split', '≤ 300 ms', 3, static fn () => $ask('Ines', 'POST', "{$base}/releases/preview", ['recipe' => ['states' => 'accepted', 'split' => ['train' => 80, 'val' => 10, 'test' => 10, 'seed' => 1]]]));
    foreach (['oddness', 'item', 'size', 'time'] as $sort) {
        $times("contact sheet by {$sort}, first page", '≤ 300 ms', 3, static fn () => $ask('Ines', 'GET', "{$base}/objects?class=apple&sort={$sort}&limit=60"));
        $total = $ask('Ines', 'GET', "{$base}/objects?class=apple&sort={$sort}&limit=1")[0]['total'];
        $times("contact sheet by {$sort}, last page", '≤ 300 ms', 3, static fn () => $ask('Ines', 'GET', "{$base}/objects?class=apple&sort={$sort}&limit=60&offset=".($total - 60)));
    }
    $times('sheet, first page, a reviewer', '≤ 300 ms', 3, static fn () => $ask('Rafe', 'GET', "{$base}/objects?class=apple&sort=oddness&limit=60"));
    $times('items, first page', '≤ 300 ms', 3, static fn () => $ask('Ines', 'GET', "{$base}/items"));
    $times('items, three filters', '≤ 300 ms', 3, static fn () => $ask('Ines', 'GET', "{$base}/items?".http_build_query(['f' => ['set:slope', '-state:new', 'class:apple']])));
};
