<?php

declare(strict_types=1);

use App\Models\Project;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Format;
use Skeno\Core\Release\Recipe;

/** A release of 1,000,000 marks on 10,000 items: frozen, written as COCO, read back and compared; against 10,000 marks in the same run. */
return static function (callable $print, string $folder): void {
    $codebook = Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box'], 'attributes' => ['ripeness']], ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']]], 'attributes' => [['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'options' => [['key' => 'ripe', 'name' => 'Ripe']]]]]);
    $seconds = [];
    foreach ([100 => '10,000', 10_000 => '1,000,000'] as $items => $marks) {
        $project = app(App\Projects\Projects::class)->create("bench {$items}", '', '', $codebook, null);
        fill($project, $items, 100);
        $snapshots = app(App\Releases\Snapshots::class);
        $release = $snapshots->begin($project, null, Recipe::fromArray([], $codebook), '');
        memory_reset_peak_usage();
        $start = microtime(true);
        $snapshots->freeze($release);
        $frozen = microtime(true) - $start;
        $snapshots->write($release, Format::Coco, false, "{$folder}/out{$items}.zip");
        $seconds[$items] = microtime(true) - $start;
        $print("COCO release of {$marks} marks, frozen, written, read back", sprintf('%.1f s (freezing %.1f), %d MB', $seconds[$items], $frozen, memory_get_peak_usage() / 1e6), $items === 10_000 ? '≤ 60 s, ≤ 256 MB' : '');
    }
    $print('the same, 100 times the marks', sprintf('%.0f times the time', $seconds[10_000] / $seconds[100]), '');
};

function fill(Project $project, int $items, int $each): void
{
    $set = App\Models\Set::query()->create(['project_id' => $project->id, 'path' => 'slope']);
    $asset = App\Models\Asset::query()->firstOrCreate(['hash' => str_repeat('a', 64)], ['bytes' => 1, 'format' => 'jpeg', 'width' => 1280, 'height' => 960, 'orientation' => 1, 'depth' => 8, 'colour_space' => 'rgb']);
    DB::transaction(static function () use ($project, $items, $each, $set, $asset): void {
        $mark = DB::connection()->getPdo()->prepare("insert into marks (id, project_id, item_id, layer, source, class, kind, geometry, answers, revision) values (?, ?, ?, 'agreed', 'hand', ?, 'box', ?, ?, 1)");
        $n = 0;
        for ($i = 0; $i < $items; $i++) {
            $item = DB::table('items')->insertGetId(['project_id' => $project->id, 'set_id' => $set->id, 'asset_id' => $asset->id, 'path' => sprintf('slope/p%06d.jpg', $i), 'state' => 'accepted', 'mark_count' => $each]);
            for ($j = 0; $j < $each; $j++) {
                $n++;
                $mark->execute([sprintf('01%04d%020d', $project->id, $n), $project->id, $item, $j % 3 === 0 ? 'leaf' : 'apple', json_encode(['x' => ($n * 7 % 110000) / 100, 'y' => ($n * 13 % 80000) / 100, 'width' => 40.25 + $j, 'height' => 38.5]), $j % 3 === 0 ? '{}' : '{"ripeness":{"value":"ripe"}}']);
            }
        }
    });
}
