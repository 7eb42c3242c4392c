<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cutout;

use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Cutout\MinCut;

final class MinCutTest extends TestCase
{
    public function test_two_pixels_are_parted_where_it_is_cheaper_than_to_deny_what_one_prefers(): void
    {
        // 0 — 1: the first wants to be object by 5, the second ground by 3
        $neighbours = [1, ...array_fill(0, 8, -1), 0, ...array_fill(0, 6, -1)];
        $cost = static fn (int $between): array => [$between, ...array_fill(0, 8, 0), $between, ...array_fill(0, 6, 0)];
        self::assertSame("\1\0", (new MinCut($neighbours, $cost(2), [5, -3]))->solve());
        self::assertSame("\1\1", (new MinCut($neighbours, $cost(4), [5, -3]))->solve());
    }

    public function test_it_is_as_cheap_as_the_best_of_all_divisions_and_the_smallest_of_those(): void
    {
        $dice = new Randomizer(new Mt19937(7));
        for ($round = 0; $round < 120; $round++) {
            [$width, $height] = [$dice->getInt(1, 4), $dice->getInt(1, 3)];
            [$neighbours, $cost] = self::grid($width, $height, static fn (): int => $dice->getInt(0, 6));
            $preference = array_map(static fn (): int => $dice->getInt(-9, 9), range(1, $width * $height));
            $cut = new MinCut($neighbours, $cost, $preference);
            self::assertSame(self::best($neighbours, $cost, $preference), $cut->solve(), "round {$round}");
            // changed preferences on what flows already give what a new graph gives
            for ($change = 0; $change < 3; $change++) {
                $by = array_map(static fn (): int => $dice->getInt(0, 3) === 0 ? $dice->getInt(-12, 12) : 0, $preference);
                $preference = array_map(static fn (int $a, int $b): int => $a + $b, $preference, $by);
                $cut->prefer($by);
                self::assertSame(self::best($neighbours, $cost, $preference), $cut->solve(), "round {$round}, change {$change}");
            }
        }
    }

    /** @param  callable(): int  $between @return array{list<int>, list<int>} */
    private static function grid(int $width, int $height, callable $between): array
    {
        $n = $width * $height;
        $neighbours = array_fill(0, 8 * $n, -1);
        $cost = array_fill(0, 8 * $n, 0);
        for ($y = 0; $y < $height; $y++) {
            for ($x = 0; $x < $width; $x++) {
                foreach ([[1, 0], [0, 1], [1, 1], [-1, 1]] as $k => [$dx, $dy]) {
                    if ($x + $dx >= 0 && $x + $dx < $width && $y + $dy < $height) {
                        [$i, $j] = [$y * $width + $x, ($y + $dy) * $width + $x + $dx];
                        $neighbours[8 * $i + 2 * $k] = $j;
                        $neighbours[8 * $j + 2 * $k + 1] = $i;
                        $cost[8 * $i + 2 * $k] = $cost[8 * $j + 2 * $k + 1] = $between();
                    }
                }
            }
        }

        return [$neighbours, $cost];
    }

    /** All divisions tried. @param  list<int>  $neighbours @param  list<int>  $cost @param  list<int>  $preference */
    private static function best(array $neighbours, array $cost, array $preference): string
    {
        $n = count($preference);
        $best = '';
        $least = [PHP_INT_MAX, PHP_INT_MAX];
        for ($set = 0; $set < 1 << $n; $set++) {
            $price = $size = 0;
            for ($i = 0; $i < $n; $i++) {
                $object = ($set >> $i & 1) === 1;
                $size += $object ? 1 : 0;
                $price += $object ? max(0, -$preference[$i]) : max(0, $preference[$i]);
                for ($d = 0; $d < 8 && $object; $d++) {
                    $j = $neighbours[8 * $i + $d];
                    $price += $j >= 0 && ($set >> $j & 1) === 0 ? $cost[8 * $i + $d] : 0;
                }
            }
            if ([$price, $size] < $least) {
                $least = [$price, $size];
                $best = implode('', array_map(static fn (int $i): string => chr($set >> $i & 1), range(0, $n - 1)));
            }
        }

        return $best;
    }
}
