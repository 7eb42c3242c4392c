<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Raster;

use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\SignedDistance;

final class SignedDistanceTest extends TestCase
{
    /** Held against the definition: of every sample the distance to the nearest of the other side, less half a pixel. */
    public function test_it_is_what_looking_at_every_pair_says(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(31));
        foreach ([1, 1, 1, 2, 3] as $round => $step) {
            [$width, $height] = [17, 13];
            $columns = [];
            for ($x = 0; $x < $width; $x++) {
                $from = $random->getInt(0, $height - 1);
                $columns[$x] = $random->getInt(0, 2) === 0 ? [] : [$from, $random->getInt($from + 1, $height)];
            }
            $mask = Mask::ofColumns($width, $height, array_filter($columns));
            [$left, $top, $across, $down] = [-2, -1, intdiv(22, $step), intdiv(16, $step)];
            $field = SignedDistance::field($mask, $left, $top, $across, $down, $step);
            for ($x = 0; $x < $across; $x++) {
                for ($y = 0; $y < $down; $y++) {
                    $is = $mask->has($left + $x * $step, $top + $y * $step);
                    $least = INF;
                    for ($u = 0; $u < $across; $u++) {
                        for ($v = 0; $v < $down; $v++) {
                            if ($mask->has($left + $u * $step, $top + $v * $step) !== $is) {
                                $least = min($least, hypot($u - $x, $v - $y));
                            }
                        }
                    }
                    self::assertEqualsWithDelta(($is ? 1 : -1) * ($least - 0.5) * $step, $field[$x][$y], 1e-6, "round {$round}, sample {$x}, {$y}");
                }
            }
        }
    }

    public function test_where_there_is_only_one_side_it_is_far(): void
    {
        $nothing = SignedDistance::field(Mask::none(10, 10), 0, 0, 3, 2);
        self::assertLessThan(-1e9, max(array_merge(...$nothing)));
        $all = SignedDistance::field(Mask::ofEdges(10, 10, [0, 100]), 2, 2, 3, 2);
        self::assertGreaterThan(1e9, min(array_merge(...$all)));
    }
}
