<?php

declare(strict_types=1);

use App\Intake\TakeFiles;
use Skeno\Core\Codebook\Codebook;

/** Pictures of 1280x960 taken into a project, with and without their copies for the screen. */
return static function (callable $print, string $folder): void {
    mkdir("{$folder}/pictures");
    $count = 120;
    for ($i = 0; $i < $count; $i++) {
        $image = new Imagick;
        $image->newPseudoImage(1280, 960, 'plasma:fractal');
        $image->setImageFormat('jpeg');
        $image->setImageCompressionQuality(88);
        $image->writeImage(sprintf('%s/pictures/p%03d.jpg', $folder, $i));
    }
    $project = app(App\Projects\Projects::class)->create('bench import', '', '', Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => []]), null);
    $items = [];
    $start = microtime(true);
    foreach (app(TakeFiles::class)->all($project, "{$folder}/pictures", false) as $outcome) {
        $items[] = (int) $outcome->item;
    }
    $taken = microtime(true) - $start;
    app(TakeFiles::class)->derive($items, true);
    $all = microtime(true) - $start;
    $print('pictures taken in (1280x960, decoded whole, stored)', sprintf('%.0f pictures/s', $count / $taken), '≥ 20 pictures/s');
    $print('with thumbnail and screen copy', sprintf('%.0f pictures/s', $count / $all), '');
};
