<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Tracks;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Tracks\Apart;
use Skeno\Core\Tracks\InBetweens;
use Skeno\Core\Tracks\Thinning;

final class ThinningTest extends TestCase
{
    /** @return iterable<string, array{Geometry, Geometry, float}> */
    public static function shapes(): iterable
    {
        $square = static fn (float $x, float $side): Polygon => Polygon::of([[$x, 0, $x + $side, 0, $x + $side, $side, $x, $side]]);
        yield 'boxes by their sides' => [Box::of(0, 0, 10, 10), Box::of(2, 0, 10, 13), 3.0];
        yield 'both faces' => [Faces::of(Box::of(0, 0, 9, 9), Box::of(2, 2, 5, 5)), Faces::of(Box::of(0, 0, 9, 9), Box::of(6, 2, 5, 5)), 4.0];
        yield 'points one by one' => [PointSet::of([0, 0, 9, 9]), PointSet::of([0, 0, 6, 5]), 5.0];
        yield 'not as many points' => [PointSet::of([0, 0]), PointSet::of([0, 0, 6, 5]), INF];
        yield 'nodes by name' => [Pose::of(['a' => ['x' => 0, 'y' => 0, 'state' => 'visible']]), Pose::of(['a' => ['x' => 3, 'y' => 4, 'state' => 'hidden']]), 5.0];
        yield 'other nodes' => [Pose::of(['a' => ['x' => 0, 'y' => 0, 'state' => 'visible']]), Pose::of(['b' => ['x' => 0, 'y' => 0, 'state' => 'visible']]), INF];
        yield 'a line with a point more on it' => [Polyline::of([0, 0, 10, 0]), Polyline::of([0, 0, 4, 0, 10, 0]), 0.0];
        yield 'a line that is longer' => [Polyline::of([0, 0, 10, 0]), Polyline::of([0, 0, 17, 0]), 7.0];
        yield 'outlines by their farthest corner' => [$square(0, 10), $square(0, 14), hypot(4, 4)];
        yield 'a hole more' => [$square(0, 10), Polygon::of([...$square(0, 10)->rings(), [4, 4, 4, 6, 6, 6, 6, 4]]), 4.0];
        yield 'turned boxes' => [TurnedBox::of(0, 0, 10, 10, 0), TurnedBox::of(5, 0, 10, 10, 90), 5.0];
        yield 'ellipses' => [Ellipse::of(0, 0, 8, 8), Ellipse::of(0, 0, 11, 11), 3.0];
        yield 'masks by their outlines' => [ScanConversion::mask($square(0, 10)->rings(), 40, 40), ScanConversion::mask($square(6, 10)->rings(), 40, 40), 6.0];
        yield 'nothing and something' => [Mask::none(40, 40), ScanConversion::mask($square(6, 10)->rings(), 40, 40), INF];
        yield 'twice nothing' => [Mask::none(40, 40), Mask::none(40, 40), 0.0];
        yield 'two kinds' => [Box::of(0, 0, 10, 10), $square(0, 10), INF];
        yield 'spans' => [Span::of(0, 2), Span::of(0, 2), INF];
    }

    #[DataProvider('shapes')]
    public function test_how_far_two_shapes_are_from_each_other(Geometry $a, Geometry $b, float $px): void
    {
        self::assertEqualsWithDelta($px, Apart::px($a, $b), 0.3);
        self::assertEqualsWithDelta($px, Apart::px($b, $a), 0.3);
        self::assertEqualsWithDelta($a instanceof Span ? INF : 0.0, Apart::px($a, $a), 1e-9);
    }

    /** @param  array<int, float>  $xs @return array<int, Box> */
    private static function boxes(array $xs): array
    {
        return array_map(static fn (float $x): Box => Box::of($x, 0, 40, 20), $xs);
    }

    public function test_only_what_is_needed_is_left(): void
    {
        $even = self::boxes(array_map(static fn (int $i): float => 3.0 * $i, range(0, 999)));
        self::assertSame([0, 999], Thinning::places($even), 'also over more than what is looked at together');
        $turn = self::boxes(array_map(static fn (int $i): float => 100.0 - abs($i - 40), range(0, 99)));
        self::assertSame([0, 40, 99], Thinning::places($turn));
        $jump = self::boxes([...array_fill(0, 50, 0.0), ...array_fill(0, 50, 200.0)]);
        self::assertSame([0, 49, 50, 99], Thinning::places($jump));
        self::assertSame([7], Thinning::places([7 => Box::of(0, 0, 1, 1)]));
        self::assertSame([], Thinning::places([]));
        self::assertSame([3, 20], Thinning::places([3 => Box::of(0, 0, 9, 9), 20 => Box::of(90, 0, 9, 9)]));
        // a tremor below a pixel is none, nor is 2 % of something large
        self::assertSame([0, 99], Thinning::places(self::boxes(array_map(static fn (int $i): float => $i + 0.9 * ($i % 2), range(0, 99)))));
        self::assertSame([0, 99], Thinning::places(array_map(static fn (int $i): Box => Box::of($i + 9.0 * ($i % 2), 0, 500, 20), range(0, 99))));
    }

    public function test_what_is_worked_out_stays_close_to_what_was_seen(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(3));
        for ($round = 0; $round < 12; $round++) {
            $seen = [];
            [$x, $vx] = [0.0, 0.0];
            $place = $random->getInt(0, 50);
            for ($i = 0; $i < 700; $i++) {
                $vx += $random->getInt(-10, 10) / 20;
                $x += $vx;
                // some places were not seen
                $place += $random->getInt(0, 9) === 0 ? 3 : 1;
                $seen[$place] = Box::of($x, 10 + $i / 9, 60, 30);
            }
            $keys = Thinning::places($seen);
            self::assertSame([array_key_first($seen), array_key_last($seen)], [$keys[0], $keys[count($keys) - 1]]);
            self::assertLessThan(400, count($keys));
            foreach (array_slice($keys, 1) as $k => $to) {
                $way = InBetweens::of($seen[$keys[$k]], $seen[$to]);
                foreach ($seen as $at => $box) {
                    if ($at > $keys[$k] && $at < $to) {
                        self::assertLessThanOrEqual(1.2, Apart::px($box, $way->at(($at - $keys[$k]) / ($to - $keys[$k]))), "round {$round}, {$at}");
                    }
                }
            }
        }
    }
}
