<?php

declare(strict_types=1);

use App\Models\CodebookChange;
use App\Projects\Projects;
use App\Rewording\ChangeCodebook;
use App\Rewording\RewriteMarks;
use Illuminate\Support\Facades\Queue;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;

require_once __DIR__.'/fill.php';

/** A codebook changed after 100,000 boxes were labelled: what it would do, and two thirds of them put into its words. */
return static function (callable $print): void {
    Queue::fake();
    $document = ['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box'], 'attributes' => ['ripeness']], ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']]], 'attributes' => [['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'options' => [['key' => 'ripe', 'name' => 'Ripe']]]]];
    $project = app(Projects::class)->create('codebook', '', '', Codebook::fromArray($document), null);
    fill($project, 1_000, 100);
    $document['classes'][0]['key'] = 'fruit';
    $new = Codebook::fromArray($document);
    $mapping = Mapping::fromArray(['class:apple' => 'fruit']);
    $codebooks = app(ChangeCodebook::class);
    $at = hrtime(true);
    $codebooks->effect($project, $new, $mapping);
    $print('what a codebook would do, 100,000 marks', sprintf('%.0f ms', (hrtime(true) - $at) / 1e6), '');
    $codebooks->change($project, $new, $mapping, 1, '', null);
    $at = hrtime(true);
    app(RewriteMarks::class)(CodebookChange::query()->where('project_id', $project->id)->sole());
    $seconds = (hrtime(true) - $at) / 1e9;
    $changed = CodebookChange::query()->where('project_id', $project->id)->sole();
    $print('marks put into new words', sprintf('%.1f s, %s of %s rewritten', $seconds, number_format($changed->rewritten), number_format($changed->done)), '');
};
