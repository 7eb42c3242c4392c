<?php

declare(strict_types=1);

// Prints what the algorithms over pixels come to, for RegionsTest to compare with and without the compiler.

use Skeno\Core\Learn\Features;
use Skeno\Core\Learn\Forest;
use Skeno\Core\Learn\Poses;
use Skeno\Core\Learn\Spots;
use Skeno\Core\Tests\Learn\Painted;

require __DIR__.'/../../../vendor/autoload.php';

$example = Painted::discs(5);
$features = Features::of($example->picture(200, 150));
$labels = '';
for ($i = 0; $i < 30000; $i++) {
    $labels .= ord($features[1][$i]) > 140 ? "\1" : "\0";
}
$forest = Forest::grow($features, $labels, 2, [1.0, 1.0], 3);
$likely = $forest->likely($features)[0];
$arrows = array_map(static fn (int $seed) => Painted::arrows($seed), range(1, 6));
$poses = Poses::learn($arrows, 'arrow', Painted::NODES, Painted::FLIP);
// the last digits may differ where sums are kept in registers
$fitted = $poses->inBox($arrows[0]->part, 320, 240, $arrows[0]->things[0]['geometry']->bounds());
echo json_encode([
    array_map(sha1(...), $features), sha1($forest->pack()), array_map(static fn (float $p): float => round($p, 9), array_slice($likely, 12000, 400)), Spots::of($likely, $likely, 200, 0.5, 0.1),
    array_map(static fn (array $node): array => [round($node['x']), round($node['y'])], $fitted['pose']->nodes),
]);
