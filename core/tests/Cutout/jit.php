<?php

declare(strict_types=1);

// Prints what pixel algorithms make of some pictures, often enough for the JIT to have compiled them.

use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\Stroke;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Patches\Patches;
use Skeno\Core\Tests\Cutout\Scene;

require __DIR__.'/../../vendor/autoload.php';
require_once __DIR__.'/Scene.php';

for ($i = 0; $i < 6; $i++) {
    $picture = Scene::of(260, 220, Scene::disc(120 + 3 * $i, 110, 70 + $i), grain: 30, seed: $i);
    $cutout = new Cutout($picture, Box::of(40, 30, 175, 165));
    $cutout->stroke(Stroke::of(true, [100.0, 100.0, 140.0, 130.0]));
    echo 'cut-out ', md5(serialize($cutout->mask())), ' ', md5(serialize($cutout->dialled(1.5))), "\n";
    echo 'patches ', md5(Patches::of($picture, 16)->bytes()), "\n";
}
