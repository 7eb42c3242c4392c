<?php

declare(strict_types=1);

use App\Files\ClipStore;
use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\Membership;
use App\Models\User;
use App\Work\HandOut;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\People\Role;

require_once __DIR__.'/serve.php';

/** A clip of a minute brought in; then, over HTTP: a key moved on a track of 10 and on one of 1,000, and an object followed by its looks. */
return static function (callable $print, string $folder): void {
    $seconds = 60;
    // what moves is one square over a ground of its own, so that there is something to follow
    $clip = "{$folder}/row.mp4";
    exec('ffmpeg -nostdin -y -v error -f lavfi -i '.escapeshellarg('testsrc2=size=960x540:rate=25').' -f lavfi -i '.escapeshellarg('testsrc=size=120x90:rate=25').' -f lavfi -i sine=frequency=440 -filter_complex '.escapeshellarg('[0][1]overlay=x=100+4*mod(n\,200):y=200+60*sin(n/20)')." -t {$seconds} -c:v libx264 -preset ultrafast -pix_fmt yuv420p -c:a aac ".escapeshellarg($clip), $out, $code);
    if ($code !== 0) {
        throw new RuntimeException('no clip was made');
    }
    $user = User::query()->create(['name' => 'Mei', 'email' => 'clips@larkmoor.example', 'password' => 'x', 'settings' => []])->refresh();
    $token = $user->createToken('bench')->plainTextToken;
    $project = app(App\Projects\Projects::class)->create('clips', '', '', Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'bin', 'name' => 'Bin', 'shapes' => ['box']]]]), null);
    Membership::query()->create(['project_id' => $project->id, 'user_id' => $user->id, 'role' => Role::Labeller]);
    $start = microtime(true);
    $outcome = app(TakeFiles::class)->one($project, $clip, 'row.mp4', false);
    $took = microtime(true) - $start;
    $item = Item::query()->findOrFail($outcome->item ?? throw new RuntimeException($outcome->reason));
    $print("a clip of {$seconds} s, 960 x 540 at 25 frames/s, brought in", sprintf('%.0f s, %.1f x real time', $took, $seconds / $took), '>= 3 x');
    $size = 0;
    foreach (['full.mp4', 'small.mp4'] as $file) {
        $size += (int) @filesize(app(ClipStore::class)->file($item->asset, $file));
    }
    $print('its renditions, to the file itself', sprintf('%.1f MB, %.2f', $size / 1e6, $size / filesize($clip)), '');
    app(HandOut::class)->make($project, $user, Fields::of(['labellers' => [$user->id], 'reviewers' => [], 'pool' => 'new']));

    $url = bench_serve($folder, 9174, true);
    $ask = static function (string $path, array $body) use ($url, $token): array {
        $curl = curl_init("{$url}/api/v1{$path}");
        curl_setopt_array($curl, [CURLOPT_RETURNTRANSFER => true, CURLOPT_POST => true, CURLOPT_POSTFIELDS => json_encode((object) $body), CURLOPT_HTTPHEADER => ["Authorization: Bearer {$token}", 'Content-Type: application/json', 'Accept: application/json']]);
        $answer = (string) curl_exec($curl);
        if (curl_getinfo($curl, CURLINFO_RESPONSE_CODE) !== 200) {
            throw new RuntimeException("{$path}: ".substr($answer, 0, 300));
        }

        return [json_decode($answer, true), curl_getinfo($curl, CURLINFO_TOTAL_TIME) * 1000];
    };
    $turn = $ask("/projects/{$project->id}/next", ['purpose' => 'label'])[0]['packet']['turn']['id'];
    $ulid = static fn (): string => strtoupper((string) Str::ulid());
    $box = static fn (int $place, int $y = 100): array => ['x' => 100 + $place % 200 * 4, 'y' => $y, 'width' => 120, 'height' => 90];
    $send = static function (array $edits) use ($ask, $project, $turn): array {
        [$answer, $time] = $ask("/projects/{$project->id}/turns/{$turn}/edits", ['edits' => $edits]);
        foreach ($answer['results'] as $result) {
            if ($result['outcome'] !== 'applied') {
                throw new RuntimeException(json_encode($result));
            }
        }

        return [$answer['results'], $time];
    };
    $key = static fn (string $mark, int $place, int $base, int $y): array => ['id' => $ulid(), 'action' => 'key', 'mark' => $mark, 'base' => $base, 'seconds' => 1, 'data' => ['place' => $place, 'key' => ['geometry' => $box($place, $y)]]];
    $marks = [];
    foreach ([10, 1_000] as $count) {
        $marks[$count] = $ulid();
        $send([['id' => $ulid(), 'action' => 'create', 'mark' => $marks[$count], 'base' => 0, 'data' => ['class' => 'bin', 'kind' => 'box', 'geometry' => $box(0), 'place' => 0, 'stretches' => [[0, 1_400]]]]]);
        foreach (array_chunk(range(1, $count - 1), 100) as $places) {
            $send(array_map(static fn (int $place): array => $key($marks[$count], $place, 0, 100), $places));
        }
    }
    $times = $base = [10 => [], 1_000 => []];
    // turn about, so that both see the same machine
    for ($i = 0; $i < 80; $i++) {
        foreach ([10, 1_000] as $count) {
            [$results, $time] = $send([$key($marks[$count], 5, $base[$count][0] ?? 1, 101 + $i % 50)]);
            $base[$count] = [$results[0]['key']['revision']];
            $i < 10 || $times[$count][] = $time;
        }
    }
    $p = static function (array $times, float $share): float {
        sort($times);

        return $times[(int) floor((count($times) - 1) * $share)];
    };
    foreach ($times as $count => $all) {
        $print('a key moved on a track of '.number_format($count), sprintf('p50 %.0f, p95 %.0f ms', $p($all, 0.5), $p($all, 0.95)), '');
    }
    $print('the same as a ratio', sprintf('%.2f', $p($times[1_000], 0.5) / $p($times[10], 0.5)), '<= 1.5');

    $from = ['place' => 1, 'geometry' => ['x' => 104, 'y' => 203, 'width' => 120, 'height' => 90]];
    $last = $from;
    $found = [];
    $start = microtime(true);
    do {
        [$answer] = $ask("/projects/{$project->id}/turns/{$turn}/follow", ['kind' => 'box', 'from' => $from, 'last' => $last, 'frames' => 24]);
        array_push($found, ...$answer['found']);
        $last = $found === [] ? $last : array_diff_key(end($found), ['certainty' => 0]);
    } while ($answer['found'] !== [] && $answer['unsure'] === null && count($found) < 150);
    $took = microtime(true) - $start;
    $far = array_map(static fn (array $one): float => hypot($one['geometry']['x'] - (100 + 4 * $one['place']), $one['geometry']['y'] - (200 + 60 * sin($one['place'] / 20))), $found);
    $print('an object of 120 x 90 px followed, over the API', sprintf('%.0f frames/s, at most %.1f px off in %d', count($found) / $took, $far === [] ? NAN : max($far), count($found)), '');
};
