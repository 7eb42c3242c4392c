<?php

declare(strict_types=1);

use Skeno\Core\Raster\Components;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mend;
use Skeno\Core\Raster\ScanConversion;

/** Masks of a 12-megapixel picture: two wavy discs of 1,000 points each that lie over each other. */
return static function (callable $print): void {
    $ring = static function (float $cx, float $cy): array {
        $points = [];
        for ($i = 0; $i < 1000; $i++) {
            $a = 2 * M_PI * $i / 1000;
            $r = 1300 + 100 * sin(37 * $a);
            array_push($points, $cx + $r * cos($a), $cy + $r * sin($a));
        }

        return $points;
    };
    $time = static function (callable $work): float {
        $best = INF;
        for ($i = 0; $i < 7; $i++) {
            $start = hrtime(true);
            $work();
            $best = min($best, (hrtime(true) - $start) / 1e6);
        }

        return $best;
    };
    [$first, $second] = [$ring(2000, 1500), $ring(2300, 1400)];
    $a = ScanConversion::mask([$first], 4000, 3000);
    $b = ScanConversion::mask([$second], 4000, 3000);
    $both = $a->union($b);
    $ms = static fn (float $n): string => sprintf('%.1f ms', $n);
    $print('polygon of 1,000 points to runs, 12 megapixels', $ms($time(static fn () => ScanConversion::mask([$first], 4000, 3000))), '<= 20 ms');
    $print('union, difference, intersection of two such masks', $ms($time(static fn () => [$a->union($b), $a->without($b), $a->intersection($b)])), '<= 100 ms');
    $print('exact contours of both', $ms($time(static fn () => Contours::rings($both))), '<= 100 ms');
    $print('components', $ms($time(static fn () => Components::of($a->without($b)))), '');
    $print('mend up to 3 px', $ms($time(static fn () => Mend::mask($both, 3))), '');
    $print('to the compressed string and back', $ms($time(static fn () => Skeno\Core\Raster\CompressedRuns::decode(Skeno\Core\Raster\CompressedRuns::encode($both->counts())))), '');
};
