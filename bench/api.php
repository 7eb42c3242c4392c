<?php

declare(strict_types=1);

use App\Models\Membership;
use App\Models\User;
use App\Work\HandOut;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\People\Role;

require_once __DIR__.'/fill.php';
require_once __DIR__.'/serve.php';

/**
 * The server's part of "next item" and of an edit, over HTTP on PHP's own web server with the worker beside it, as bin/serve runs
 * them: one person, then 30 at once each with an edit every second. And the next item at 1,000 and at 1,000,000 marks, as a ratio.
 */
return static function (callable $print, string $folder): void {
    $codebook = Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']], ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']]]]);
    $people = [];
    for ($i = 0; $i < 30; $i++) {
        $user = User::query()->create(['name' => "P{$i}", 'email' => "p{$i}@larkmoor.example", 'password' => 'x', 'settings' => []])->refresh();
        $people[] = ['user' => $user, 'token' => $user->createToken('bench')->plainTextToken];
    }
    $projects = [];
    foreach ([10 => 1_000, 10_000 => 1_000_000] as $items => $marks) {
        $project = app(App\Projects\Projects::class)->create("api {$marks}", '', '', $codebook, null);
        fill($project, $items, 100);
        $project->items()->update(['state' => 'new']);
        foreach ($people as $person) {
            Membership::query()->create(['project_id' => $project->id, 'user_id' => $person['user']->id, 'role' => Role::Labeller]);
        }
        // 60 more items wait, so that everybody can hold two
        fill($project, 400, 0, 'waiting', 'new');
        app(HandOut::class)->make($project, $people[0]['user'], Fields::of(['labellers' => array_map(static fn (array $p): int => $p['user']->id, $people), 'reviewers' => [], 'pool' => 'new']));
        $projects[$marks] = $project->id;
    }
    $url = bench_serve($folder, 9171, true);
    $handle = static function (string $token, string $path, array $body) use ($url): CurlHandle {
        $curl = curl_init("{$url}/api/v1{$path}");
        curl_setopt_array($curl, [CURLOPT_RETURNTRANSFER => true, CURLOPT_POST => true, CURLOPT_POSTFIELDS => json_encode((object) $body), CURLOPT_HTTPHEADER => ["Authorization: Bearer {$token}", 'Content-Type: application/json', 'Accept: application/json']]);

        return $curl;
    };
    $ask = static function (string $token, string $path, array $body) use ($handle): array {
        $curl = $handle($token, $path, $body);
        $answer = curl_exec($curl);
        if (curl_getinfo($curl, CURLINFO_RESPONSE_CODE) !== 200) {
            throw new RuntimeException("{$path}: ".substr((string) $answer, 0, 300).implode('', array_map(static fn (string $log): string => substr((string) file_get_contents($log), 0, 600), glob(storage_path('logs/*.log')) ?: [])));
        }

        return [json_decode((string) $answer, true), curl_getinfo($curl, CURLINFO_TOTAL_TIME) * 1000];
    };
    $p = static function (array $times, float $share): float {
        sort($times);

        return $times[(int) floor((count($times) - 1) * $share)];
    };
    $next = [];
    foreach ($projects as $marks => $project) {
        for ($i = 0; $i < 60; $i++) {
            [, $time] = $ask($people[$i % 30]['token'], "/projects/{$project}/next", []);
            if ($i >= 10) {
                $next[$marks][] = $time;
            }
        }
        $print('next item, server part, at '.number_format($marks).' marks', sprintf('p50 %.0f, p95 %.0f ms', $p($next[$marks], 0.5), $p($next[$marks], 0.95)), 'p95 ≤ 40 ms');
    }
    $print('the same as a ratio', sprintf('%.2f', $p($next[1_000_000], 0.5) / $p($next[1_000], 0.5)), '≤ 1.5');

    $turns = [];
    foreach ($people as $i => $person) {
        $turns[$i] = $ask($person['token'], "/projects/{$projects[1_000]}/next", [])[0]['packet']['turn']['id'];
    }
    $edit = static fn (): array => ['edits' => [['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => strtoupper((string) Str::ulid()), 'base' => 0, 'seconds' => 1, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => random_int(0, 900), 'y' => random_int(0, 800), 'width' => 20, 'height' => 20]]]]];
    $alone = [];
    for ($i = 0; $i < 60; $i++) {
        $alone[] = $ask($people[0]['token'], "/projects/{$projects[1_000]}/turns/{$turns[0]}/edits", $edit())[1];
    }
    $print('an edit acknowledged, one person', sprintf('p50 %.0f, p95 %.0f ms', $p($alone, 0.5), $p($alone, 0.95)), '');
    // 30 people, each an edit a second, spread over the second; 12 seconds
    $multi = curl_multi_init();
    $times = [];
    $failed = 0;
    $begin = microtime(true);
    $sent = 0;
    $running = 0;
    do {
        while ($sent < 360 && microtime(true) - $begin >= $sent / 30) {
            $i = $sent % 30;
            curl_multi_add_handle($multi, $handle($people[$i]['token'], "/projects/{$projects[1_000]}/turns/{$turns[$i]}/edits", $edit()));
            $sent++;
        }
        curl_multi_exec($multi, $running);
        while (($done = curl_multi_info_read($multi)) !== false) {
            $times[] = curl_getinfo($done['handle'], CURLINFO_TOTAL_TIME) * 1000;
            $failed += curl_getinfo($done['handle'], CURLINFO_RESPONSE_CODE) === 200 ? 0 : 1;
            curl_multi_remove_handle($multi, $done['handle']);
        }
        usleep(500);
    } while ($sent < 360 || $running > 0);
    $print('an edit acknowledged, 30 people at once', sprintf('p50 %.0f, p95 %.0f ms, %d failed', $p($times, 0.5), $p($times, 0.95), $failed), 'p95 ≤ 40 ms');
};
