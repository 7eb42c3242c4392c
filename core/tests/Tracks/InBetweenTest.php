<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Tracks;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Tracks\BetweenMasks;
use Skeno\Core\Tracks\BetweenNumbers;
use Skeno\Core\Tracks\InBetweens;
use Skeno\Core\Tracks\OutlineMatch;

final class InBetweenTest extends TestCase
{
    private static function at(Geometry $a, Geometry $b, float $t): Geometry
    {
        return InBetweens::of($a, $b)->at($t);
    }

    /** @return iterable<string, array{Geometry, Geometry, float, Geometry}> */
    public static function numbers(): iterable
    {
        yield 'a box' => [Box::of(0, 10, 20, 40), Box::of(100, 0, 40, 0), 0.25, Box::of(25, 7.5, 25, 30)];
        yield 'a turned box, over north' => [TurnedBox::of(0, 0, 10, 4, 350), TurnedBox::of(10, 20, 20, 8, 30), 0.5, TurnedBox::of(5, 10, 15, 6, 10)];
        yield 'back over north' => [TurnedBox::of(0, 0, 10, 4, 20), TurnedBox::of(0, 0, 10, 4, 340), 0.75, TurnedBox::of(0, 0, 10, 4, 350)];
        yield 'half a turn goes clockwise' => [TurnedBox::of(0, 0, 10, 4, 0), TurnedBox::of(0, 0, 10, 4, 180), 0.5, TurnedBox::of(0, 0, 10, 4, 90)];
        yield 'an ellipse is the same after half a turn' => [Ellipse::of(0, 0, 10, 4, 170), Ellipse::of(4, 4, 10, 4, 10), 0.5, Ellipse::of(2, 2, 10, 4, 180)];
        yield 'a cuboid on a picture' => [Faces::of(Box::of(0, 0, 10, 10), Box::of(4, 4, 6, 6)), Faces::of(Box::of(10, 0, 20, 10), Box::of(14, 8, 6, 8)), 0.5, Faces::of(Box::of(5, 0, 15, 10), Box::of(9, 6, 6, 7))];
        yield 'a cuboid in space' => [Cuboid::of([0.0, 0.0, 1.0], [4.0, 2.0, 1.5], 170.0), Cuboid::of([10.0, 4.0, 1.0], [5.0, 2.0, 1.5], -150.0), 0.25, Cuboid::of([2.5, 1.0, 1.0], [4.25, 2.0, 1.5], 180.0)];
        yield 'points, one by one' => [PointSet::of([0, 0, 10, 10]), PointSet::of([10, 0, 10, 20]), 0.5, PointSet::of([5, 0, 10, 15])];
        yield 'a point the next key has not goes along' => [PointSet::of([0, 0, 10, 10]), PointSet::of([10, 4]), 0.5, PointSet::of([5, 2, 15, 12])];
        yield 'one only the next key has comes with it' => [PointSet::of([0, 0]), PointSet::of([10, 4, 20, 20]), 0.5, PointSet::of([5, 2])];
        yield 'nodes by name' => [
            Pose::of(['head' => ['x' => 0, 'y' => 0, 'state' => 'hidden'], 'tail' => ['x' => 10, 'y' => 0, 'state' => 'visible']]),
            Pose::of(['head' => ['x' => 8, 'y' => 4, 'state' => 'visible'], 'wing' => ['x' => 5, 'y' => 5, 'state' => 'visible']]),
            0.5,
            Pose::of(['head' => ['x' => 4, 'y' => 2, 'state' => 'hidden'], 'tail' => ['x' => 14, 'y' => 2, 'state' => 'visible']]),
        ];
        yield 'a span holds' => [Span::of(3, 9), Span::of(5, 12), 0.9, Span::of(3, 9)];
        yield 'another kind begins at its key' => [Box::of(0, 0, 4, 4), Ellipse::of(9, 9, 2, 2), 0.9, Box::of(0, 0, 4, 4)];
        yield 'a line, point by point' => [Polyline::of([0, 0, 10, 0, 10, 10]), Polyline::of([4, 0, 14, 2, 14, 10]), 0.5, Polyline::of([2, 0, 12, 1, 12, 10])];
    }

    #[DataProvider('numbers')]
    public function test_known_answers(Geometry $a, Geometry $b, float $t, Geometry $between): void
    {
        self::assertInstanceOf($between::class, $found = self::at($a, $b, $t));
        self::assertEqualsWithDelta($between->toArray(), $found->toArray(), 1e-9);
    }

    public function test_the_way_round_is_never_longer_than_half_a_turn(): void
    {
        foreach (range(-720, 720, 15) as $from) {
            foreach (range(-720, 720, 20) as $to) {
                $way = BetweenNumbers::turn($from, $to, 360.0);
                self::assertTrue($way > -180 && $way <= 180);
                self::assertEqualsWithDelta(0.0, fmod($from + $way - $to, 360.0), 1e-9);
            }
        }
    }

    /** How far a point is from an outline. @param  list<float>  $path */
    private static function away(float $x, float $y, array $path, bool $closed): float
    {
        $least = INF;
        $n = count($path);
        for ($i = 0; $i < ($closed ? $n : $n - 2); $i += 2) {
            $j = $i + 2 < $n ? $i + 2 : 0;
            [$ax, $ay, $dx, $dy] = [$path[$i], $path[$i + 1], $path[$j] - $path[$i], $path[$j + 1] - $path[$i + 1]];
            $part = $dx * $dx + $dy * $dy > 0 ? min(1, max(0, (($x - $ax) * $dx + ($y - $ay) * $dy) / ($dx * $dx + $dy * $dy))) : 0;
            $least = min($least, hypot($ax + $part * $dx - $x, $ay + $part * $dy - $y));
        }

        return $least;
    }

    /** The farthest a point of either is from the other. @param  list<float>  $one @param  list<float>  $two */
    private static function apart(array $one, array $two, bool $closed = true): float
    {
        $most = 0.0;
        foreach ([[$one, $two], [$two, $one]] as [$of, $to]) {
            for ($i = 0; $i < count($of); $i += 2) {
                $most = max($most, self::away($of[$i], $of[$i + 1], $to, $closed));
            }
        }

        return $most;
    }

    /** 0 to 1 */
    private static function part(Randomizer $random): float
    {
        return $random->getInt(0, 1_000_000) / 1_000_000;
    }

    /** A star-shaped outline round a centre. @return list<float> */
    private static function star(Randomizer $random, float $x, float $y, int $points, float $radius): array
    {
        $angles = [];
        for ($i = 0; $i < $points; $i++) {
            $angles[] = 2 * M_PI * ($i + 0.8 * self::part($random)) / $points;
        }
        $ring = [];
        foreach ($angles as $angle) {
            $r = $radius * (0.3 + 0.7 * self::part($random));
            array_push($ring, $x + $r * cos($angle), $y + $r * sin($angle));
        }

        return $ring;
    }

    public function test_an_outline_that_stays_stays_whatever_points_are_set_on_it(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(7));
        for ($round = 0; $round < 60; $round++) {
            $ring = self::star($random, 300, 200, $random->getInt(4, 20), 120);
            $more = [];
            $n = count($ring);
            for ($i = 0; $i < $n; $i += 2) {
                array_push($more, $ring[$i], $ring[$i + 1]);
                if ($random->getInt(0, 2) === 0) {
                    $j = ($i + 2) % $n;
                    $part = 0.2 + 0.6 * self::part($random);
                    array_push($more, $ring[$i] + $part * ($ring[$j] - $ring[$i]), $ring[$i + 1] + $part * ($ring[$j + 1] - $ring[$i + 1]));
                }
            }
            // beginning elsewhere, and every third time drawn the other way round
            $turn = 2 * $random->getInt(0, intdiv(count($more), 2) - 1);
            $more = [...array_slice($more, $turn), ...array_slice($more, 0, $turn)];
            if ($round % 3 === 0) {
                $more = array_merge(...array_reverse(array_chunk($more, 2)));
            }
            [$dx, $dy] = [$random->getInt(-400, 400), $random->getInt(-400, 400)];
            $moved = array_map(static fn (float $v, int $i): float => $v + ($i % 2 === 0 ? $dx : $dy), $more, array_keys($more));
            $way = InBetweens::of(Polygon::of([$ring]), Polygon::of([$moved]));
            foreach ([0.2, 0.5, 0.9] as $t) {
                $found = $way->at($t);
                self::assertInstanceOf(Polygon::class, $found);
                $wanted = array_map(static fn (float $v, int $i): float => $v + $t * ($i % 2 === 0 ? $dx : $dy), $ring, array_keys($ring));
                self::assertLessThan(1e-6, self::apart($found->rings()[0], $wanted), "round {$round}, {$t}");
            }
        }
    }

    public function test_a_point_set_on_an_edge_and_pulled_out_moves_nothing_else(): void
    {
        $found = self::at(Polygon::of([[0, 0, 100, 0, 100, 100, 0, 100]]), Polygon::of([[0, 0, 50, -40, 100, 0, 100, 100, 0, 100]]), 0.5);
        self::assertInstanceOf(Polygon::class, $found);
        self::assertEqualsWithDelta([0, 0, 50, -20, 100, 0, 100, 100, 0, 100], $found->rings()[0], 1e-9);
        // a line likewise, also when it was drawn from its other end
        foreach ([[0, 0, 50, 30, 100, 0, 200, 0], [200, 0, 100, 0, 50, 30, 0, 0]] as $points) {
            $line = self::at(Polyline::of([0, 0, 100, 0, 200, 0]), Polyline::of($points), 0.5);
            self::assertInstanceOf(Polyline::class, $line);
            self::assertEqualsWithDelta([0, 0, 50, 15, 100, 0, 200, 0], $line->points, 1e-9);
        }
    }

    /** Every pair of edges looked at. @param  list<list<float>>  $rings */
    private static function crosses(array $rings): bool
    {
        $edges = [];
        foreach ($rings as $ring) {
            for ($i = 0; $i < count($ring); $i += 2) {
                $j = $i + 2 < count($ring) ? $i + 2 : 0;
                $edges[] = [$ring[$i], $ring[$i + 1], $ring[$j], $ring[$j + 1]];
            }
        }
        $side = static fn (array $e, float $x, float $y): float => ($e[2] - $e[0]) * ($y - $e[1]) - ($e[3] - $e[1]) * ($x - $e[0]);
        foreach ($edges as $i => $e) {
            for ($j = $i + 1; $j < count($edges); $j++) {
                $f = $edges[$j];
                if ($side($e, $f[0], $f[1]) * $side($e, $f[2], $f[3]) < -1e-6 && $side($f, $e[0], $e[1]) * $side($f, $e[2], $e[3]) < -1e-6) {
                    return true;
                }
            }
        }

        return false;
    }

    public function test_outlines_never_cross_on_the_way_and_keep_about_their_area(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(11));
        for ($round = 0; $round < 80; $round++) {
            $a = Polygon::of([self::star($random, 200, 200, $random->getInt(3, 24), 150)]);
            $b = Polygon::of([self::star($random, $random->getInt(0, 900), $random->getInt(0, 600), $random->getInt(3, 24), 150)]);
            $way = InBetweens::of($a, $b);
            foreach ([0.01, 0.3, 0.5, 0.7, 0.99] as $t) {
                $found = $way->at($t);
                self::assertInstanceOf(Polygon::class, $found);
                self::assertFalse(self::crosses($found->rings()), "round {$round}, {$t}");
                self::assertGreaterThan(0.3 * min($a->area(), $b->area()), $found->area(), "round {$round}, {$t}");
                self::assertLessThan(1.5 * max($a->area(), $b->area()), $found->area());
            }
            // close to a key it is about the key's
            self::assertEqualsWithDelta($a->area(), $way->at(0.01)->area(), 0.06 * max($a->area(), $b->area()));
        }
    }

    /** Any outline that does not cross itself: points at random, and two edges that cross changed for two that do not until none do. */
    private static function tangle(Randomizer $random, int $points): Polygon
    {
        $at = [];
        for ($i = 0; $i < $points; $i++) {
            $at[] = [$random->getInt(0, 400) + self::part($random), $random->getInt(0, 300) + self::part($random)];
        }
        for ($changed = true; $changed;) {
            $changed = false;
            for ($i = 0; $i < $points - 1; $i++) {
                for ($j = $i + 1; $j < $points; $j++) {
                    $length = static fn (array $p, array $q): float => hypot($p[0] - $q[0], $p[1] - $q[1]);
                    if ($length($at[$i], $at[$j]) + $length($at[$i + 1], $at[($j + 1) % $points]) < $length($at[$i], $at[$i + 1]) + $length($at[$j], $at[($j + 1) % $points]) - 1e-9) {
                        array_splice($at, $i + 1, $j - $i, array_reverse(array_slice($at, $i + 1, $j - $i)));
                        $changed = true;
                    }
                }
            }
        }

        return Polygon::of([array_merge(...$at)]);
    }

    public function test_outlines_that_would_cross_are_worked_out_as_regions(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(23));
        $regions = 0;
        for ($round = 0; $round < 20; $round++) {
            [$a, $b] = [self::tangle($random, $random->getInt(20, 40)), self::tangle($random, $random->getInt(20, 40))];
            $way = InBetweens::of($a, $b);
            foreach ([0.2, 0.5, 0.8] as $t) {
                $found = $way->at($t);
                self::assertInstanceOf(Polygon::class, $found);
                self::assertFalse(self::crosses($found->rings()), "round {$round}, {$t}");
                self::assertGreaterThan(0.0, $found->area());
                [$from, $to] = OutlineMatch::closed($a->rings()[0], $b->rings()[0]);
                $regions += self::crosses([array_map(static fn (float $p, float $q): float => $p + $t * ($q - $p), $from, $to)]) ? 1 : 0;
            }
        }
        self::assertGreaterThan(10, $regions, 'some would cross, point by point');
    }

    public function test_parts_join_and_holes_close_as_regions(): void
    {
        $two = Polygon::of([[0, 0, 40, 0, 40, 40, 0, 40], [60, 0, 100, 0, 100, 40, 60, 40]]);
        $one = Polygon::of([[300, 0, 400, 0, 400, 40, 300, 40]]);
        $areas = array_map(static fn (float $t): float => self::at($two, $one, $t)->area(), [0.1, 0.5, 0.9]);
        self::assertTrue($two->area() - 60 < $areas[0] && $areas[0] < $areas[1] && $areas[1] < $areas[2] && $areas[2] < $one->area() + 60, implode(' ', $areas));
        self::assertEqualsWithDelta(200, self::at($two, $one, 0.5)->bounds()->x + self::at($two, $one, 0.5)->bounds()->width / 2, 1.0);
        $ring = Polygon::of([[0, 0, 100, 0, 100, 100, 0, 100], [40, 40, 40, 60, 60, 60, 60, 40]]);
        $full = Polygon::of([[0, 0, 100, 0, 100, 100, 0, 100]]);
        self::assertTrue(self::at($ring, $full, 0.1)->hasHoles() && ! self::at($ring, $full, 0.7)->hasHoles());
        // as many rings: the hole goes with the hole, whichever was drawn first
        $found = self::at($ring, Polygon::of([[240, 40, 240, 60, 260, 60, 260, 40], [200, 0, 300, 0, 300, 100, 200, 100]]), 0.5);
        self::assertEqualsWithDelta($ring->area(), $found->area(), 1e-6);
        self::assertSame(100.0, $found->bounds()->x);
    }

    public function test_an_outline_too_large_for_both_keeps_the_points_of_the_first(): void
    {
        $circle = static function (int $points, float $x): Polygon {
            $ring = [];
            for ($i = 0; $i < $points; $i++) {
                array_push($ring, $x + 400 * cos(2 * M_PI * $i / $points), 500 + 400 * sin(2 * M_PI * $i / $points));
            }

            return Polygon::of([$ring]);
        };
        $found = self::at($circle(6000, 500), $circle(5999, 1500), 0.5);
        self::assertInstanceOf(Polygon::class, $found);
        self::assertLessThanOrEqual(Coordinates::MOST, $found->points());
        self::assertEqualsWithDelta(M_PI * 400 ** 2, $found->area(), 100);
        self::assertEqualsWithDelta(600, $found->bounds()->x, 0.5);
    }

    private static function disc(float $x, float $y, float $r): Mask
    {
        return ScanConversion::mask(Ellipse::of($x, $y, $r, $r)->rings(), 640, 480);
    }

    public function test_a_mask_grows_while_it_moves_over_more_than_its_size(): void
    {
        $way = BetweenMasks::of(self::disc(100, 100, 40), self::disc(400, 300, 60));
        foreach ([0.1, 0.25, 0.5, 0.8] as $t) {
            self::assertGreaterThan(0.97, $way->at($t)->iou(self::disc(round(100 + 300 * $t), round(100 + 200 * $t), 40 + 20 * $t)), "at {$t}");
        }
        self::assertSame(1.0, $way->at(1e-9)->iou(self::disc(100, 100, 40)), 'at a key it is the key\'s, to the pixel');
    }

    public function test_a_large_mask_is_sampled_and_its_rim_found_between_the_samples(): void
    {
        $large = static fn (float $x, float $r): Mask => ScanConversion::mask(Ellipse::of($x, 1500, $r, $r)->rings(), 4000, 3000);
        $way = BetweenMasks::of($large(1400, 1200), $large(2000, 1400));
        self::assertGreaterThan(0.995, $way->at(0.5)->iou($large(1700, 1300)));
    }

    public function test_a_hole_closes_and_a_thin_line_does_not_vanish(): void
    {
        $disc = self::disc(200, 200, 60);
        $ring = $disc->without(self::disc(200, 200, 20));
        $areas = array_map(static fn (float $t): float => BetweenMasks::of($ring, $disc)->at($t)->area(), [0.1, 0.3, 0.6, 0.9]);
        $sorted = $areas;
        sort($sorted);
        self::assertSame($sorted, $areas);
        $upright = ScanConversion::mask([[100, 100, 101, 100, 101, 200, 100, 200]], 640, 480);
        $lying = ScanConversion::mask([[300, 150, 400, 150, 400, 151, 300, 151]], 640, 480);
        foreach ([0.2, 0.5, 0.8] as $t) {
            self::assertFalse(BetweenMasks::of($upright, $lying)->at($t)->isEmpty());
        }
        // partly out of the picture on the way is cut off, not wrapped round
        $out = BetweenMasks::of(self::disc(20, 20, 30), self::disc(620, 20, 30))->at(0.5);
        self::assertSame(0.0, $out->bounds()->y);
        self::assertLessThan(70, $out->bounds()->width);
    }

    public function test_masks_of_two_sizes_of_picture_have_nothing_between(): void
    {
        self::assertSame(self::at(Mask::none(4, 4), self::disc(9, 9, 4), 0.5)->toArray(), Mask::none(4, 4)->toArray());
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage('the size of the other mask');
        BetweenMasks::of(Mask::ofEdges(4, 4, [1, 3]), self::disc(9, 9, 4));
    }
}
