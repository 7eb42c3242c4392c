<?php

declare(strict_types=1);

use App\Models\Asset;
use App\Models\Project;
use App\Models\Set;
use Illuminate\Support\Facades\DB;

/** Items with boxes on the agreed layer, as a finished project has them; all of one picture, of which only the row is there. */
function fill(Project $project, int $items, int $each, string $set = 'slope', string $state = 'accepted'): void
{
    $set = Set::query()->firstOrCreate(['project_id' => $project->id, 'path' => $set]);
    $asset = Asset::query()->firstOrCreate(['sha256' => str_repeat('a', 64)], ['bytes' => 1, 'format' => 'jpeg', 'width' => 1280, 'height' => 960, 'orientation' => 1, 'depth' => 8, 'color_space' => 'rgb', 'derived_at' => now()]);
    $pdo = DB::connection()->getPdo();
    $item = $pdo->prepare('insert into items (project_id, set_id, asset_id, path, state, mark_count, created_at) values (?, ?, ?, ?, ?, ?, ?)');
    $layer = $pdo->prepare("insert into layers (project_id, item_id, kind, name, mark_count) values (?, ?, 'agreed', 'agreed', ?)");
    $mark = $pdo->prepare("insert into marks (id, project_id, item_id, layer_id, layer, source, class, kind, geometry, answers, revision) values (?, ?, ?, ?, 'agreed', 'hand', ?, 'box', ?, ?, 1)");
    $n = (int) DB::table('marks')->where('project_id', $project->id)->count();
    $now = now()->toDateTimeString();
    foreach (array_chunk(range(0, $items - 1), 2000) as $some) {
        DB::transaction(static function () use ($some, $project, $set, $asset, $state, $each, $pdo, $item, $layer, $mark, $now, &$n): void {
            foreach ($some as $i) {
                $item->execute([$project->id, $set->id, $asset->id, sprintf('%s/p%06d.jpg', $set->path, $i), $state, $each, $now]);
                $of = (int) $pdo->lastInsertId();
                $layer->execute([$project->id, $of, $each]);
                $on = (int) $pdo->lastInsertId();
                for ($j = 0; $j < $each; $j++) {
                    $n++;
                    $mark->execute([sprintf('01%04d%020d', $project->id, $n), $project->id, $of, $on, $j % 3 === 0 ? 'leaf' : 'apple', json_encode(['x' => ($n * 7 % 110000) / 100, 'y' => ($n * 13 % 80000) / 100, 'width' => 40.25 + $j, 'height' => 38.5]), $j % 3 === 0 ? '{}' : '{"ripeness":{"value":"ripe"}}']);
                }
            }
        });
    }
}
