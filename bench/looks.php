<?php

declare(strict_types=1);

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Imaging\OpenPicture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Quality\ClassLooks;
use Skeno\Core\Quality\FarthestFirst;
use Skeno\Core\Quality\KnownLooks;
use Skeno\Core\Quality\Looks;
use Skeno\Demo\Fruit;

/**
 * Looks of about 3,000 true objects of the demo's orchard, with 30 of them planted under a wrong class: how fast they are computed, how
 * many of the planted stand on the first page of the contact sheet, and what the slip guard finds of slips it has not learned from.
 * The pictures are drawn first (some minutes), or taken from SKENO_ORCHARD where `php demo/make FOLDER 52` has put them.
 */
return static function (callable $print, string $folder): void {
    $orchard = getenv('SKENO_ORCHARD');
    if ($orchard === false || ! is_dir($orchard)) {
        $orchard = "{$folder}/orchard";
        $made = array_map(static fn (int $part) => proc_open(['php', '-d', 'memory_limit=1G', dirname(__DIR__).'/demo/make', $orchard, '52', (string) $part, '2'], [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], STDERR], $pipes), [0, 1]);
        foreach ($made as $process) {
            while (proc_get_status($process)['running']) {
                usleep(200_000);
            }
        }
    }
    /** @var list<array{string, Looks}> $objects */
    $objects = [];
    $began = hrtime(true);
    foreach (glob("{$orchard}/truth/*/*.json") ?: [] as $file) {
        $picture = str_replace(['/truth/', '.json'], ['/pictures/', '.jpg'], $file);
        if (! is_file($picture)) {
            continue;
        }
        $open = OpenPicture::of($picture, PictureFormat::Jpeg, 1280);
        foreach ((array) json_decode((string) file_get_contents($file), true) as $row) {
            $fruit = Fruit::fromArray((array) $row);
            $swatch = $open->swatch($fruit->box);
            if ($swatch !== null) {
                $objects[] = [$fruit->class, Looks::ofObject($swatch, $fruit->box, 1280, 960)];
            }
        }
    }
    $seconds = (hrtime(true) - $began) / 1e9;
    $print('looks of objects, pictures decoded', sprintf('%.0f a second (%s)', count($objects) / $seconds, number_format(count($objects))), '≥ 200');

    $random = new Randomizer(new Xoshiro256StarStar(hash('sha256', 'slips', true)));
    $classes = array_values(array_unique(array_column($objects, 0)));
    $wrong = static function (string $class) use ($classes, $random): string {
        do {
            $other = $classes[$random->getInt(0, count($classes) - 1)];
        } while ($other === $class);

        return $other;
    };
    $learn = static function (array $some): KnownLooks {
        $by = [];
        foreach ($some as [$class, $looks]) {
            $by[$class][] = $looks;
        }

        return new KnownLooks(array_map(ClassLooks::learn(...), $by));
    };
    [$runs, $one, $sheets] = [6, 0, 0];
    for ($run = 0; $run < $runs; $run++) {
        $planted = $objects;
        $slips = array_flip($random->pickArrayKeys($objects, 30));
        foreach (array_keys($slips) as $i) {
            $planted[$i][0] = $wrong($objects[$i][0]);
        }
        $known = $learn($planted);
        $odd = [];
        foreach ($planted as $i => [$class, $looks]) {
            $odd[$i] = (float) $known->oddness($class, $looks);
        }
        arsort($odd);
        $one += count(array_intersect_key($slips, array_slice($odd, 0, 60, true)));
        foreach ($classes as $class) {
            $sheet = array_filter($odd, static fn (int $i): bool => $planted[$i][0] === $class, ARRAY_FILTER_USE_KEY);
            $sheets += count(array_intersect_key($slips, array_slice($sheet, 0, 60, true)));
        }
    }
    $print('planted slips among the first 60 of their class\'s sheet', sprintf('%.1f of 30', $sheets / $runs), '≥ 25');
    $print('the same among the first 60 of all classes together', sprintf('%.1f of 30', $one / $runs), '');

    // learned from one half, asked about the other, in which one in a hundred is a slip
    [$found, $missed, $false, $quiet] = [0, 0, 0, 0];
    for ($run = 0; $run < $runs; $run++) {
        $half = array_flip($random->pickArrayKeys($objects, intdiv(count($objects), 2)));
        $known = $learn(array_values(array_intersect_key($objects, $half)));
        foreach (array_diff_key($objects, $half) as [$class, $looks]) {
            $slip = $random->getInt(1, 100) === 1;
            $doubt = $known->doubt($slip ? $wrong($class) : $class, $looks) !== null;
            $slip ? ($doubt ? $found++ : $missed++) : ($doubt ? $false++ : $quiet++);
        }
    }
    $print('slip guard on objects it has not seen, 1 % slips', sprintf('recall %.2f, precision %.2f', $found / max(1, $found + $missed), $found / max(1, $found + $false)), '');
    $print('false alarms among right ones', sprintf('%.1f in 1,000', 1000 * $false / max(1, $false + $quiet)), '');

    $pool = array_column(array_slice($objects, 0, 2000), 1);
    $began = hrtime(true);
    FarthestFirst::over($pool, array_column(array_slice($objects, 2000, 300), 1))->draw(200);
    $print('200 of 2,000 pictures drawn by difference', sprintf('%.2f s', (hrtime(true) - $began) / 1e9), '≤ 2 s');
};
