<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Geometry;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Crossing;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\ScanConversion;

final class ShapesTest extends TestCase
{
    /** Every kind, said as JSON, reads back as itself. */
    public function test_json_of_every_kind(): void
    {
        $shapes = [
            Box::of(1.5, 2, 3, 4), TurnedBox::of(10, 10, 4, 2, 30), Ellipse::of(5, 5, 3, 2, 12.5), Polygon::of([[0, 0, 4, 0, 4, 4], [1, 0.5, 2, 0.5, 2, 1]]), Polyline::of([1, 2, 3, 4]), PointSet::of([1, 2]),
            Pose::of(['a' => ['x' => 1, 'y' => 2, 'state' => 'hidden']]), ScanConversion::mask([[1, 1, 5, 1, 3, 6]], 9, 8), Faces::of(Box::of(1, 1, 5, 5), Box::of(2, 2, 4, 4)),
        ];
        foreach ($shapes as $shape) {
            $data = json_decode((string) json_encode($shape->toArray()), true);
            self::assertEquals($shape, Shape::of($shape)->geometry(Fields::of($data, 'geometry'), 'geometry'));
            self::assertFalse($shape->isEmpty());
        }
    }

    public function test_known_extents_and_areas(): void
    {
        // a 20 × 10 box turned by a quarter stands upright
        $quarter = TurnedBox::of(50, 25, 20, 10, 90)->bounds();
        self::assertEqualsWithDelta([45.0, 15.0, 10.0, 20.0], array_values($quarter->toArray()), 1e-9);
        self::assertSame(350.0, TurnedBox::of(0, 0, 1, 1, -10)->angle);
        self::assertSame(0.0, TurnedBox::of(0, 0, 1, 1, 720)->angle);
        // turned by 45°, both half-extents are √((a² + b²)/2)
        $bounds = Ellipse::of(0, 0, 4, 2, 45)->bounds();
        self::assertEqualsWithDelta(2 * sqrt(10), $bounds->width, 1e-9);
        self::assertEqualsWithDelta($bounds->width, $bounds->height, 1e-9);
        self::assertEqualsWithDelta(8 * M_PI, Ellipse::of(0, 0, 4, 2, 45)->area(), 1e-9);
        self::assertSame(12.0, Polygon::of([[0, 0, 4, 0, 4, 4, 0, 4], [1, 1, 1, 3, 3, 3, 3, 1]])->area(), 'a hole counts off, whichever way it runs');
        self::assertSame(20.0, Polygon::of([[0, 0, 4, 0, 4, 4, 0, 4], [6, 0, 8, 0, 8, 2, 6, 2]])->area());
        self::assertSame(13.0, Polygon::of([[0, 0, 4, 0, 4, 4, 0, 4], [1, 1, 3, 1, 3, 3, 1, 3], [1.5, 1.5, 2.5, 1.5, 2.5, 2.5, 1.5, 2.5]])->area(), 'an island in a hole');
        self::assertTrue(Polygon::of([[0, 0, 4, 0, 4, 4, 0, 4], [0, 0, 2, 1, 1, 2]])->hasHoles(), 'a hole that touches its rim');
        self::assertSame(5.0, Polyline::of([0, 0, 3, 4])->length());
        // a 10 × 10 face and the same moved by 5, 5: the hull cuts two corners of 5 × 5 off a 15 × 15 box
        self::assertSame(200.0, Faces::of(Box::of(0, 0, 10, 10), Box::of(5, 5, 10, 10))->area());
        self::assertEquals(Box::of(0, 0, 15, 15), Faces::of(Box::of(0, 0, 10, 10), Box::of(5, 5, 10, 10))->bounds());
    }

    public function test_turned_boxes_by_their_corners_and_back(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(2));
        for ($i = 0; $i < 200; $i++) {
            $box = TurnedBox::of($random->getInt(0, 999) / 7, $random->getInt(0, 999) / 7, $random->getInt(1, 500) / 3, $random->getInt(1, 500) / 3, $random->getInt(0, 35999) / 100);
            $back = TurnedBox::fromCorners($box->rings()[0]);
            self::assertEqualsWithDelta(array_values($box->toArray()), array_values($back->toArray()), 1e-6);
        }
    }

    public function test_an_ellipse_as_an_outline_stays_within_a_quarter_of_a_pixel(): void
    {
        foreach ([[3, 2], [40, 15], [900, 300]] as [$rx, $ry]) {
            $ring = Ellipse::of(1000, 500, $rx, $ry, 33)->rings()[0];
            for ($i = 0; $i < count($ring); $i += 2) {
                $j = ($i + 2) % count($ring);
                [$mx, $my] = [($ring[$i] + $ring[$j]) / 2 - 1000, ($ring[$i + 1] + $ring[$j + 1]) / 2 - 500];
                [$u, $v] = [$mx * cos(deg2rad(33)) + $my * sin(deg2rad(33)), $my * cos(deg2rad(33)) - $mx * sin(deg2rad(33))];
                // along the ray from the centre the ellipse lies farther out by this
                self::assertLessThan(0.26, hypot($u, $v) * (1 / hypot($u / $rx, $v / $ry) - 1));
            }
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>, string}> */
    public static function hostile(): iterable
    {
        yield 'a bow tie' => ['polygon', ['rings' => [[0, 0, 10, 10, 10, 0, 0, 10]]], 'geometry.rings'];
        yield 'rings that cross each other' => ['polygon', ['rings' => [[0, 0, 10, 0, 10, 10, 0, 10], [5, 5, 15, 5, 15, 8, 5, 8]]], 'geometry.rings'];
        yield '100,000 points' => ['polygon', ['rings' => [array_fill(0, 200_000, 1)]], 'geometry.rings[0]'];
        yield 'too many in all' => ['polygon', ['rings' => array_fill(0, 4, self::circle(3000))], 'geometry.rings'];
        yield 'two points' => ['polygon', ['rings' => [[0, 0, 1, 1]]], 'geometry.rings[0]'];
        yield 'half a point' => ['polygon', ['rings' => [[0, 0, 1, 1, 2, 2, 3]]], 'geometry.rings[0]'];
        yield 'no ring' => ['polygon', ['rings' => []], 'geometry.rings'];
        yield 'NaN' => ['polyline', ['points' => [0, 0, NAN, 1]], 'geometry.points[2]'];
        yield 'infinity' => ['points', ['points' => [INF, 0]], 'geometry.points[0]'];
        yield 'text' => ['points', ['points' => ['1', 0]], 'geometry.points[0]'];
        yield 'beyond any picture' => ['polyline', ['points' => [0, 0, 1e7, 1]], 'geometry.points[2]'];
        yield 'one point of a line' => ['polyline', ['points' => [0, 0]], 'geometry.points'];
        yield 'an object for a list' => ['polyline', ['points' => ['a' => 1, 'b' => 2]], 'geometry.points'];
        yield 'no nodes' => ['skeleton', ['nodes' => []], 'geometry.nodes'];
        yield 'a node of no state' => ['skeleton', ['nodes' => ['a' => ['x' => 1, 'y' => 1]]], 'geometry.nodes.a.state'];
        yield 'a node absent by word' => ['skeleton', ['nodes' => ['a' => ['x' => 1, 'y' => 1, 'state' => 'absent']]], 'geometry.nodes.a.state'];
        yield 'a negative half-axis' => ['ellipse', ['cx' => 1, 'cy' => 1, 'rx' => -1, 'ry' => 1], 'geometry.rx'];
        yield 'a negative side' => ['turned_box', ['cx' => 1, 'cy' => 1, 'width' => 1, 'height' => -1, 'angle' => 0], 'geometry.height'];
        yield 'one face' => ['cuboid_2d', ['front' => ['x' => 0, 'y' => 0, 'width' => 1, 'height' => 1]], 'geometry.back'];
        yield 'a cloud' => ['cuboid', [], 'geometry.center'];
    }

    /** @param  array<string, mixed>  $data */
    #[DataProvider('hostile')]
    public function test_what_is_no_shape_is_refused_by_name(string $kind, array $data, string $field): void
    {
        try {
            Shape::from($kind)->geometry(Fields::of($data, 'geometry'), 'geometry');
            self::fail('taken');
        } catch (InvalidValue $e) {
            self::assertSame($field, $e->field);
        }
    }

    /** Against every pair of edges, and fast enough for the largest outline. */
    public function test_crossings_agree_with_brute_force(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(8));
        $crossing = 0;
        for ($round = 0; $round < 400; $round++) {
            $rings = [];
            for ($r = $random->getInt(1, 2); $r > 0; $r--) {
                $ring = [];
                for ($i = $random->getInt(3, 6); $i > 0; $i--) {
                    array_push($ring, (float) $random->getInt(0, 12), (float) $random->getInt(0, 12));
                }
                $rings[] = $ring;
            }
            $found = Crossing::first($rings);
            self::assertSame(self::anyPairCrosses($rings), $found !== null);
            $crossing += $found === null ? 0 : 1;
        }
        self::assertGreaterThan(100, $crossing);
        self::assertLessThan(300, $crossing);
        self::assertNull(Crossing::first([self::circle(5000)]));
    }

    /** Rings and stars on which a sweep that keeps all long edges is quadratic; looked through by neighbours they are not. Crossed once, it is found. */
    public function test_crossings_are_found_among_many_long_edges(): void
    {
        $star = $comb = [];
        for ($i = 0; $i < 2000; $i++) {
            $radius = $i % 2 === 0 ? 1 : 500;
            array_push($star, 500 + $radius * cos(2 * M_PI * $i / 2000), 500 + $radius * sin(2 * M_PI * $i / 2000));
            array_push($comb, $i % 4 < 2 ? 0.0 : 1000.0, (float) $i);
        }
        self::assertNull(Crossing::first([$star]));
        self::assertNull(Crossing::first([[...$comb, 1100.0, 2000.0, 1100.0, -10.0, 0.0, -10.0]]));
        foreach ([$star, [...$comb, 1100.0, 2000.0, 1100.0, -10.0, 0.0, -10.0]] as $ring) {
            $at = Crossing::first([$ring, [490.0, 300.0, 700.0, 301.3, 600.0, 310.7]]);
            self::assertNotNull($at);
            self::assertEqualsWithDelta(305, $at[1], 6);
        }
        $touching = array_map(static fn (int $i): array => [10.0 * $i, 0.0, 10.0 * $i + 10, 0.0, 10.0 * $i + 10, 50.0, 10.0 * $i, 50.0], range(0, 500));
        self::assertNull(Crossing::first($touching), 'neighbours that share a whole edge');
        self::assertNull(Crossing::first([[0, 0, 10, 0, 10, 10, 5, 10, 5, 5, 5, 10, 0, 10]]), 'a seam walked twice');
    }

    /** Ring in ring in ring: depth by the middle of an edge, worked out by hand. */
    public function test_many_rings_are_told_by_how_deep_they_lie(): void
    {
        $rings = array_map(static fn (int $i): array => [$i, $i, 1000 - $i, $i, 1000 - $i, 1000 - $i, $i, 1000 - $i], range(0, 400));
        $side = static fn (int $i): int => (1000 - 2 * $i) ** 2;
        self::assertEqualsWithDelta(array_sum(array_map(static fn (int $i): int => ($i % 2 === 0 ? 1 : -1) * $side($i), range(0, 400))), Polygon::of($rings)->area(), 1e-3);
        $apart = array_map(static fn (int $i): array => [20.0 * $i, 0, 20.0 * $i + 10, 0, 20.0 * $i + 10, 10], range(0, 2000));
        self::assertEqualsWithDelta(2001 * 50, Polygon::of($apart)->area(), 1e-6);
        self::assertFalse(Polygon::of($apart)->hasHoles());
    }

    /** @return list<float> */
    private static function circle(int $points): array
    {
        $ring = [];
        for ($i = 0; $i < $points; $i++) {
            array_push($ring, 500 + 400 * cos(2 * M_PI * $i / $points), 500 + 400 * sin(2 * M_PI * $i / $points));
        }

        return $ring;
    }

    /** @param  list<list<float>>  $rings */
    private static function anyPairCrosses(array $rings): bool
    {
        $edges = [];
        foreach ($rings as $ring) {
            $points = array_chunk($ring, 2);
            foreach ($points as $i => $point) {
                $edges[] = [...$point, ...$points[($i + 1) % count($points)]];
            }
        }
        $side = static fn (array $e, float $x, float $y): int => ($e[2] - $e[0]) * ($y - $e[1]) <=> ($e[3] - $e[1]) * ($x - $e[0]);
        foreach ($edges as $i => $a) {
            foreach (array_slice($edges, $i + 1) as $b) {
                if ($side($a, $b[0], $b[1]) * $side($a, $b[2], $b[3]) < 0 && $side($b, $a[0], $a[1]) * $side($b, $a[2], $a[3]) < 0) {
                    return true;
                }
            }
        }

        return false;
    }
}
