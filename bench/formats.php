<?php

declare(strict_types=1);

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Format;
use Skeno\Core\Release\Recipe;

require_once __DIR__.'/fill.php';

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
