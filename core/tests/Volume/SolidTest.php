<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Volume;

use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Volume\Solid;

/** Bodies against a search through all their voxels. */
final class SolidTest extends TestCase
{
    private const SIDE = 9;

    /** @return array<string, true> by "x y z", at random */
    private static function random(int $seed, int $share): array
    {
        mt_srand($seed);
        $voxels = [];
        for ($x = 0; $x < self::SIDE; $x++) {
            for ($y = 0; $y < self::SIDE; $y++) {
                for ($z = 0; $z < self::SIDE; $z++) {
                    if (mt_rand(0, 99) < $share) {
                        $voxels["{$x} {$y} {$z}"] = true;
                    }
                }
            }
        }

        return $voxels;
    }

    /**
     * @param  array<string, true>  $voxels
     * @return array<int, Mask>
     */
    private static function slices(array $voxels): array
    {
        $columns = [];
        foreach (array_keys($voxels) as $voxel) {
            [$x, $y, $z] = array_map(intval(...), explode(' ', $voxel));
            $columns[$z][$x][] = $y;
        }
        $slices = [];
        foreach ($columns as $z => $of) {
            ksort($of);
            $edges = [];
            foreach ($of as $x => $rows) {
                sort($rows);
                foreach ($rows as $y) {
                    $n = $x * self::SIDE + $y;
                    if (end($edges) === $n) {
                        array_pop($edges);
                    } else {
                        $edges[] = $n;
                    }
                    $edges[] = $n + 1;
                }
            }
            $slices[$z] = Mask::ofEdges(self::SIDE, self::SIDE, $edges);
        }

        return $slices;
    }

    /**
     * @param  array<int, Mask>  $slices
     * @return array<string, true>
     */
    private static function voxels(array $slices): array
    {
        $voxels = [];
        foreach ($slices as $z => $mask) {
            foreach ($mask->columns() as $x => $runs) {
                for ($i = 0; $i < count($runs); $i += 2) {
                    for ($y = $runs[$i]; $y < $runs[$i + 1]; $y++) {
                        $voxels["{$x} {$y} {$z}"] = true;
                    }
                }
            }
        }
        ksort($voxels);

        return $voxels;
    }

    /**
     * Parts that hang together by faces.
     *
     * @param  array<string, true>  $voxels
     * @return list<array<string, true>>
     */
    private static function parts(array $voxels): array
    {
        $parts = [];
        while ($voxels !== []) {
            $queue = [(string) array_key_first($voxels)];
            $part = [$queue[0] => true];
            unset($voxels[$queue[0]]);
            while ($queue !== []) {
                [$x, $y, $z] = array_map(intval(...), explode(' ', array_pop($queue)));
                foreach ([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]] as [$dx, $dy, $dz]) {
                    $next = ($x + $dx).' '.($y + $dy).' '.($z + $dz);
                    if (isset($voxels[$next])) {
                        unset($voxels[$next]);
                        $part[$next] = true;
                        $queue[] = $next;
                    }
                }
            }
            $parts[] = $part;
        }

        return $parts;
    }

    public function test_it_comes_back_as_it_went_in(): void
    {
        $voxels = self::random(1, 30);
        ksort($voxels);
        self::assertSame($voxels, self::voxels(Solid::of(self::slices($voxels))->slices()));
    }

    public function test_the_largest_part_is_the_one_a_search_finds(): void
    {
        foreach ([2 => 12, 3 => 24, 4 => 35] as $seed => $share) {
            $voxels = self::random($seed, $share);
            $parts = self::parts($voxels);
            [$largest, $count] = Solid::of(self::slices($voxels))->largest();
            self::assertSame(count($parts), $count);
            $found = self::voxels($largest->slices());
            $sizes = array_map(count(...), $parts);
            self::assertCount(max($sizes), $found);
            ksort($parts[(int) array_search(max($sizes), $sizes, true)]);
            self::assertContains($found, array_map(static function (array $part): array {
                ksort($part);

                return $part;
            }, $parts));
        }
    }

    public function test_what_it_encloses_is_filled_and_what_is_open_stays(): void
    {
        $voxels = self::random(5, 62);
        $all = self::random(0, 100);
        // what can be reached from outside through voxels that are not of it
        $open = [];
        foreach (self::parts(array_diff_key($all, $voxels)) as $part) {
            foreach (array_keys($part) as $voxel) {
                if (array_intersect(explode(' ', $voxel), ['0', (string) (self::SIDE - 1)]) !== []) {
                    $open += $part;
                    break;
                }
            }
        }
        $expected = array_diff_key($all, $open);
        ksort($expected);
        self::assertSame($expected, self::voxels(Solid::of(self::slices($voxels))->filled()->slices()));
        self::assertGreaterThan(count($voxels), count($expected));
    }

    public function test_smoothing_is_a_vote_of_twenty_seven(): void
    {
        $voxels = self::random(6, 55);
        $expected = [];
        for ($x = -1; $x <= self::SIDE; $x++) {
            for ($y = -1; $y <= self::SIDE; $y++) {
                for ($z = -1; $z <= self::SIDE; $z++) {
                    $votes = 0;
                    for ($n = 0; $n < 27; $n++) {
                        $votes += isset($voxels[($x + $n % 3 - 1).' '.($y + intdiv($n, 3) % 3 - 1).' '.($z + intdiv($n, 9) - 1)]) ? 1 : 0;
                    }
                    if ($votes >= 14) {
                        $expected["{$x} {$y} {$z}"] = true;
                    }
                }
            }
        }
        ksort($expected);
        self::assertSame($expected, self::voxels(Solid::of(self::slices($voxels))->smoothed()->slices()));
    }

    public function test_what_covers_nothing_and_what_does_not_fit_together_is_refused(): void
    {
        foreach ([[0 => Mask::none(9, 9)], [0 => Mask::ofColumns(9, 9, [1 => [1, 2]]), 1 => Mask::ofColumns(8, 9, [1 => [1, 2]])], [0 => Mask::ofColumns(600, 600, [0 => [0, 1], 599 => [599, 600]]), 100 => Mask::ofColumns(600, 600, [0 => [0, 1]])]] as $slices) {
            try {
                Solid::of($slices);
                self::fail('it was taken');
            } catch (InvalidValue $e) {
                self::assertStringStartsWith('slices', $e->field);
            }
        }
    }
}
