<?php

declare(strict_types=1);

use App\Help\Examples;
use App\Models\Project;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Learn\Example;
use Skeno\Core\Learn\Features;
use Skeno\Core\Learn\Forest;
use Skeno\Core\Learn\Regions;
use Skeno\Core\Learn\Skeletons;
use Skeno\Core\Trial\Alike;
use Skeno\Core\Trial\Figures;
use Skeno\Core\Trial\Interval;
use Skeno\Core\Trial\Matched;
use Skeno\Demo\Fruit;

/**
 * What is learned from labelled pictures, on pictures it has never seen: two thirds of the demo's are learned from, by their truth (--demo=FOLDER: as
 * demo/make has written them; else they are drawn first). --project=NAME: regions of a project of the installation at SKENO_DATA instead, from its
 * accepted items, measured on those held out. --anchor: beside scikit-learn's forest on the same pixels and features.
 */
return static function (callable $print, string $temporary, array $options = []): void {
    $told = [];
    $say = static function (string $what, string $figure, string $aim, mixed $value) use ($print, $options, &$told): void {
        $told[$what] = $value;
        isset($options['json']) || $print($what, $figure, $aim);
    };
    $interval = static fn (?Interval $i): string => $i === null ? '–' : sprintf('%.3f (%.3f–%.3f)', $i->value, $i->low, $i->high);
    /** @param  list<Example>  $held */
    $measure = static function (Regions|Skeletons $model, array $held, string $class) use ($say, $interval): void {
        $items = [];
        $begin = hrtime(true);
        foreach ($held as $example) {
            $found = array_map(static fn ($one): array => ['class' => $one->class, 'confidence' => $one->confidence, 'geometry' => $one->shapes[0]], $model->find($example->part, $example->width, $example->height));
            $items[] = Matched::of($found, $example->things, $example->unknown, $example->width, $example->height);
        }
        $ms = (hrtime(true) - $begin) / 1e6 / max(1, count($held));
        $figures = Figures::ofClass($items, $class, 0.5);
        foreach (['f1' => 'F1 at 0.5', 'ap50' => 'AP at 0.5', 'ap' => 'AP 0.5–0.95', 'alike' => 'mean IoU or OKS of hits'] as $key => $word) {
            $say("{$class}: {$word}", $interval($figures[$key]), $key === 'f1' && $class === 'apple' ? '≥ 0.85' : '', $figures[$key]?->toArray());
        }
        $say("{$class}: finding, a picture", sprintf('%.0f ms', $ms), '≤ 500 ms', round($ms, 1));
    };
    if (isset($options['project'])) {
        $project = Project::query()->where('name', $options['project'])->first() ?? Project::query()->findOrFail((int) $options['project']);
        $codebook = $project->codebookVersion()->codebook();
        $parts = Examples::parted($project);
        $examples = app(Examples::class);
        $train = array_values($examples->of($codebook, $parts['learned']));
        $counts = array_count_values(array_merge(...array_map(static fn (Example $e): array => array_column($e->things, 'class'), $train)));
        $classes = array_values(array_filter(array_keys($counts), static fn (string $class): bool => $counts[$class] >= Regions::THINGS && $codebook->class($class)?->skeleton === null));
        $begin = hrtime(true);
        $model = Regions::learn($train, $classes);
        $say('training', sprintf('%.1f s on %d items', (hrtime(true) - $begin) / 1e9, count($train)), '', round((hrtime(true) - $begin) / 1e9, 2));
        $held = array_values($examples->of($codebook, $parts['held']));
        foreach ($classes as $class) {
            $measure($model, $held, $class);
        }
        isset($options['json']) && print json_encode($told, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE)."\n";

        return;
    }
    $demo = $options['demo'] ?? "{$temporary}/demo";
    if (! is_dir("{$demo}/truth")) {
        exec(escapeshellarg(PHP_BINARY).' -d memory_limit=1G '.escapeshellarg(__DIR__.'/../demo/make').' '.escapeshellarg($demo).' 15 0 1', $_, $status);
        $status === 0 || throw new RuntimeException('the demo pictures could not be made');
    }
    $split = static function (string $folder, callable $truth): array {
        $parts = [[], []];
        $files = glob("{$folder}/pictures/*/*.jpg") ?: [];
        sort($files);
        foreach ($files as $i => $file) {
            $said = json_decode((string) file_get_contents(str_replace(['/pictures/', '.jpg'], ['/truth/', '.json'], $file)), true, flags: JSON_THROW_ON_ERROR);
            [$things, $unknown] = $truth($said);
            $parts[$i % 3 === 2 ? 1 : 0][] = new Example(static fn (int $x, int $y, int $w, int $h, int $columns, int $rows) => Picture::colours($file, PictureFormat::Jpeg, $x, $y, $w, $h, $columns, $rows), 1280, 960, $things, $unknown);
        }

        return $parts;
    };
    [$train, $held] = $split($demo, static function (array $said): array {
        $things = $unknown = [];
        foreach ($said as $one) {
            $fruit = Fruit::fromArray($one);
            if ($fruit->class === 'apple') {
                $things[] = ['class' => 'apple', 'geometry' => $fruit->box];
            } elseif ($fruit->class === 'blurred') {
                $unknown[] = $fruit->shape;
            }
        }

        return [$things, $unknown];
    });
    $begin = hrtime(true);
    $model = Regions::learn($train, ['apple']);
    $say('regions: training on '.count($train).' pictures', sprintf('%.1f s', (hrtime(true) - $begin) / 1e9), '≤ 180 s', round((hrtime(true) - $begin) / 1e9, 2));
    $measure($model, $held, 'apple');
    if (isset($options['anchor'])) {
        // the same pixels and features for both: a third of the size, a twelfth of the pixels
        $pixels = static function (array $examples): array {
            $columns = array_fill(0, Features::COUNT, '');
            $labels = '';
            foreach ($examples as $example) {
                $features = Features::of($example->picture(426, 320));
                for ($i = 5; $i < 426 * 320; $i += 12) {
                    $x = ($i % 426 + 0.5) * 1280 / 426;
                    $y = (intdiv($i, 426) + 0.5) * 3;
                    $in = 0;
                    foreach ($example->things as $thing) {
                        $box = $thing['geometry']->bounds();
                        $in = hypot(2 * ($x - $box->x) / $box->width - 1, 2 * ($y - $box->y) / $box->height - 1) < 0.9 ? 1 : $in;
                    }
                    foreach ($features as $f => $column) {
                        $columns[$f] .= $column[$i];
                    }
                    $labels .= chr($in);
                }
            }

            return [$columns, $labels];
        };
        [$a, $la] = $pixels($train);
        [$b, $lb] = $pixels($held);
        $begin = hrtime(true);
        $forest = Forest::grow($a, $la, 2, [1.0, 1.0], 16, 6);
        $ours = (hrtime(true) - $begin) / 1e9;
        $right = $found = $there = 0;
        foreach ($forest->likely($b)[0] as $i => $p) {
            $is = $lb[$i] === "\1";
            $right += $p > 0.5 && $is ? 1 : 0;
            $found += $p > 0.5 ? 1 : 0;
            $there += $is ? 1 : 0;
        }
        foreach (['train' => [$a, $la], 'held' => [$b, $lb]] as $name => [$columns, $labels]) {
            file_put_contents("{$temporary}/{$name}.features", implode('', $columns));
            file_put_contents("{$temporary}/{$name}.labels", $labels);
        }
        $theirs = json_decode((string) shell_exec('/usr/bin/python3 '.escapeshellarg(__DIR__.'/anchors/learn.py').' '.escapeshellarg($temporary).' '.Features::COUNT), true);
        $f1 = 2 * $right / max(1, $found + $there);
        $say('forest: F1 of pixels, ours', sprintf('%.3f in %.1f s', $f1, $ours), '≥ theirs − 0.01', round($f1, 4));
        $say('forest: F1 of pixels, scikit-learn', is_array($theirs) ? sprintf('%.3f in %.1f s', $theirs['f1'], $theirs['seconds']) : 'not there', '', $theirs['f1'] ?? null);
    }
    [$train, $held] = $split("{$demo}/traps", static fn (array $said): array => [array_map(static fn (array $one): array => ['class' => 'moth', 'geometry' => Pose::of($one['nodes'])], $said), []]);
    $nodes = ['head', 'tail', 'fore_l', 'fore_r', 'hind_l', 'hind_r'];
    $begin = hrtime(true);
    $moths = Skeletons::learn($train, ['moth' => ['nodes' => $nodes, 'flip' => [0, 1, 3, 2, 5, 4]]]);
    $say('skeletons: training on '.count($train).' pictures', sprintf('%.1f s', (hrtime(true) - $begin) / 1e9), '', round((hrtime(true) - $begin) / 1e9, 2));
    $measure($moths, $held, 'moth');
    foreach (['box' => 'in a box', 'two' => 'by two presses'] as $how => $word) {
        $alike = $ms = [];
        $fixes = 0;
        foreach ($held as $example) {
            foreach ($example->things as $thing) {
                $pose = $thing['geometry'];
                if (count($pose->nodes) < count($nodes)) {
                    continue;
                }
                $box = $pose->bounds();
                $begin = hrtime(true);
                $fitted = $how === 'box'
                    ? $moths->poses['moth']->inBox($example->part, 1280, 960, Box::of(max(0, $box->x - 3), max(0, $box->y - 3), $box->width + 6, $box->height + 6))
                    : $moths->poses['moth']->onNodes($example->part, 1280, 960, ['head' => [$pose->nodes['head']['x'], $pose->nodes['head']['y']], 'tail' => [$pose->nodes['tail']['x'], $pose->nodes['tail']['y']]]);
                $ms[] = (hrtime(true) - $begin) / 1e6;
                $alike[] = Alike::of($fitted['pose'], $pose, 1280, 960);
                foreach ($pose->nodes as $key => $node) {
                    $fixes += hypot($fitted['pose']->nodes[$key]['x'] - $node['x'], $fitted['pose']->nodes[$key]['y'] - $node['y']) > Alike::NODE * sqrt($box->width * $box->height) ? 1 : 0;
                }
            }
        }
        sort($ms);
        $mean = array_sum($alike) / max(1, count($alike));
        $say("moth fitted {$word}: mean OKS of ".count($alike), sprintf('%.3f', $mean), '≥ 0.85', round($mean, 4));
        $say("moth fitted {$word}: nodes to move", sprintf('%.2f a moth', $fixes / max(1, count($alike))), '', round($fixes / max(1, count($alike)), 3));
        $say("moth fitted {$word}: median", sprintf('%.0f ms', $ms[intdiv(count($ms), 2)] ?? 0), '', round($ms[intdiv(count($ms), 2)] ?? 0, 1));
    }
    isset($options['json']) && print json_encode($told, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE)."\n";
};
