<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Learn;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Forest;

final class ForestTest extends TestCase
{
    /** @return array{list<string>, string} two features of which neither alone tells the classes apart, and one of noise */
    private static function rings(int $n, int $seed): array
    {
        $random = new Randomizer(new Mt19937($seed));
        $columns = ['', '', ''];
        $labels = '';
        for ($i = 0; $i < $n; $i++) {
            [$x, $y] = [$random->getInt(0, 255), $random->getInt(0, 255)];
            $columns[0] .= chr($x);
            $columns[1] .= chr($y);
            $columns[2] .= chr($random->getInt(0, 255));
            $labels .= hypot($x - 128, $y - 128) < 70 ? "\1" : "\0";
        }

        return [$columns, $labels];
    }

    public function test_it_tells_inside_from_outside(): void
    {
        [$columns, $labels] = self::rings(4000, 1);
        $forest = Forest::grow($columns, $labels, 2, [1.0, 1.0], 12, 4);
        [$new, $truth] = self::rings(1500, 2);
        $right = 0;
        foreach ($forest->likely($new)[0] as $i => $p) {
            self::assertGreaterThanOrEqual(0.0, $p);
            self::assertLessThanOrEqual(1.0, $p);
            $right += ($p > 0.5) === ($truth[$i] === "\1") ? 1 : 0;
        }
        self::assertGreaterThan(0.95 * 1500, $right);
    }

    public function test_only_some_pixels_or_some_trees_are_asked(): void
    {
        [$columns, $labels] = self::rings(3000, 1);
        $forest = Forest::grow($columns, $labels, 2, [1.0, 1.0], 12, 4);
        [$new] = self::rings(400, 2);
        $all = $forest->likely($new)[0];
        $only = range(0, 399, 3);
        foreach ($forest->likely($new, $only)[0] as $i => $p) {
            self::assertSame($i % 3 === 0 ? $all[$i] : 0.0, $p);
        }
        self::assertSame(array_fill(0, 400, 0.0), $forest->likely($new, [])[0]);
        // the trees of both halves are all of them
        $half = $forest->every(2);
        self::assertSame($forest->pack(), $forest->every(1)->pack());
        $near = array_map(static fn (float $a, float $b): float => abs($a - $b), $all, $half->likely($new)[0]);
        self::assertLessThan(0.05, array_sum($near) / count($near));
        self::assertGreaterThan(0.0, max($near), 'it is not the whole forest');
    }

    public function test_shares_of_a_leaf_are_those_of_its_samples_in_their_weights(): void
    {
        // one feature that says nothing: every tree is a single leaf, whose samples are a draw of 600 ones among 1,000
        $columns = [str_repeat("\7", 1000)];
        $labels = str_repeat("\1", 600).str_repeat("\0", 400);
        self::assertEqualsWithDelta(0.6, Forest::grow($columns, $labels, 2, [1.0, 1.0], 60)->likely(["\7"])[0][0], 0.01);
        // a ground sample stands for three
        self::assertEqualsWithDelta(600 / (600 + 3 * 400), Forest::grow($columns, $labels, 2, [3.0, 1.0], 60)->likely(["\7"])[0][0], 0.01);
    }

    public function test_several_classes_make_one(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $column = $labels = '';
        for ($i = 0; $i < 1200; $i++) {
            $class = $i % 3;
            $column .= chr(40 + 70 * $class + $random->getInt(-30, 30));
            $labels .= chr($class);
        }
        $likely = Forest::grow([$column], $labels, 3, [1.0, 1.0, 1.0])->likely(["\x28\x6e\xb4"]);
        self::assertSame([2, 3], [count($likely), count($likely[0])]);
        self::assertLessThan(0.2, $likely[0][0] + $likely[1][0]);
        self::assertGreaterThan(0.8, $likely[0][1]);
        self::assertGreaterThan(0.8, $likely[1][2]);
    }

    public function test_it_is_the_same_for_the_same_seed_and_packed(): void
    {
        [$columns, $labels] = self::rings(600, 4);
        $forest = Forest::grow($columns, $labels, 2, [1.0, 1.0], 5);
        $packed = $forest->pack();
        self::assertSame($packed, Forest::grow($columns, $labels, 2, [1.0, 1.0], 5)->pack());
        self::assertNotSame($packed, Forest::grow($columns, $labels, 2, [1.0, 1.0], 5, seed: 2)->pack());
        $again = Forest::unpack($packed);
        self::assertSame($packed, $again->pack());
        self::assertSame($forest->likely($columns), $again->likely($columns));
        // twice the same trees say the same
        self::assertEqualsWithDelta($forest->likely(["\x80", "\x80", "\0"]), $forest->with($again)->likely(["\x80", "\x80", "\0"]), 1e-9);
    }

    #[DataProvider('broken')]
    public function test_what_is_no_forest_is_refused(callable $breaks): void
    {
        [$columns, $labels] = self::rings(100, 5);
        $this->expectException(InvalidValue::class);
        $breaks(Forest::grow($columns, $labels, 2, [1.0, 1.0], 2));
    }

    /** @return array<string, array{callable(Forest): mixed}> */
    public static function broken(): array
    {
        return [
            'cut off' => [static fn (Forest $f) => Forest::unpack(substr($f->pack(), 0, -3))],
            'goes on' => [static fn (Forest $f) => Forest::unpack($f->pack().'x')],
            'a branch that leads back' => [static function (Forest $f): void {
                $packed = $f->pack();
                $nodes = unpack('V', substr($packed, 6, 4))[1];
                // the first child of the root is the root
                $at = 14 + $nodes + 4 * $nodes;
                Forest::unpack(substr($packed, 0, $at).pack('V', 0).substr($packed, $at + 4));
            }],
            'a feature that is not there' => [static function (Forest $f): void {
                $packed = $f->pack();
                $packed[14] = "\x30";
                Forest::unpack($packed);
            }],
            'other features' => [static fn (Forest $f) => $f->likely(['a'])],
            'no samples' => [static fn () => Forest::grow([''], '', 2, [1.0, 1.0])],
            'columns of several lengths' => [static fn () => Forest::grow(['abc', 'ab'], "\0\1\0", 2, [1.0, 1.0])],
            'a weight too few' => [static fn () => Forest::grow(['abc'], "\0\1\0", 2, [1.0])],
        ];
    }
}
