<?php

declare(strict_types=1);

use App\Models\Asset;
use App\Models\User;
use App\Projects\Projects;
use Skeno\Core\Codebook\Codebook;

require_once __DIR__.'/serve.php';

/** A folder of 500 pictures of 1280x960 chosen on the page in Chromium, until the last is an item; then until all have their copies for the screen. */
return static function (callable $print, string $folder): void {
    $count = 500;
    mkdir("{$folder}/walk");
    $plain = [];
    for ($i = 0; $i < 10; $i++) {
        $image = new Imagick;
        $image->newPseudoImage(1280, 960, 'plasma:fractal');
        $image->setImageFormat('jpeg');
        $image->setImageCompressionQuality(88);
        $plain[] = $image->getImageBlob();
    }
    for ($i = 0; $i < $count; $i++) {
        // other bytes after the end marker: another file, as fast to make as to copy
        file_put_contents(sprintf('%s/walk/p%03d.jpg', $folder, $i), $plain[$i % 10].pack('N', $i));
    }
    $user = User::query()->create(['name' => 'Ines Okafor', 'email' => 'bring-in@larkmoor.example', 'password' => 'x', 'is_owner' => true, 'is_demo' => true, 'settings' => []])->refresh();
    $project = app(Projects::class)->create('bring in', '', '', Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => []]), $user);
    $url = bench_serve($folder, 9173, true);
    $began = microtime(true);
    passthru('node '.escapeshellarg(__DIR__.'/bring-in.mjs')." {$url} {$project->id} ".escapeshellarg("{$folder}/walk")." {$count}");
    for ($wait = 0; $wait < 600 && Asset::query()->whereNull('derived_at')->exists(); $wait++) {
        usleep(200_000);
    }
    $print('until all of them have their copies for the screen', sprintf('%.0f s', microtime(true) - $began), '');
    passthru('node '.escapeshellarg(__DIR__.'/thumbs.mjs')." {$url} {$project->id}");
};
