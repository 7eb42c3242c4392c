<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Ground;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Making;
use Skeno\Core\Cloud\Points;
use Skeno\Core\Cloud\Portrait;
use Skeno\Core\Cloud\RefusedCloud;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Cloud\TopView;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

final class MakingTest extends TestCase
{
    private Clouds $clouds;

    protected function setUp(): void
    {
        mt_srand(11);
        $this->clouds = new Clouds;
    }

    private static function drawn(float $from, float $to): float
    {
        return $from + ($to - $from) * mt_rand() / mt_getrandmax();
    }

    /** @return list<array{float, float, float}> */
    private static function all(Frame $frame): array
    {
        $places = [];
        foreach ($frame->points() as $some) {
            foreach ($some['x'] as $i => $x) {
                $places[] = [$x, $some['y'][$i], $some['z'][$i]];
            }
        }

        return $places;
    }

    public function test_every_point_is_there_once_and_every_beginning_is_from_everywhere(): void
    {
        // a scanner of 64 rings: one in so many of the file would be of one ring
        $points = [];
        for ($i = 0; $i < 64_000; $i++) {
            $points[] = [(float) ($i % 64), (float) intdiv($i, 64), 0.25];
        }
        (new Making)->make([$this->clouds->open(Clouds::kitti($points), 'a.bin')], $room = $this->clouds->room());
        $index = json_decode((string) file_get_contents("{$room}/index.json"), true);
        self::assertIsArray($index);
        $places = self::all(Frame::open($room, 0));
        $key = static fn (array $of): array => array_map(static fn (array $p): string => implode(' ', $p), $of);
        [$want, $have] = [$key($points), $key($places)];
        sort($want);
        sort($have);
        self::assertSame($want, $have);
        $levels = $index['frames'][0]['levels'];
        self::assertCount(8, $levels);
        self::assertSame(64_000, $levels[7]);
        self::assertEqualsWithDelta(32_000, $levels[6], 600);
        self::assertEqualsWithDelta(500, $levels[0], 150);
        $rings = array_count_values(array_map(static fn (array $p): string => (string) $p[0], array_slice($places, 0, $levels[2])));
        self::assertCount(64, $rings);
        self::assertLessThan(3 * min($rings), max($rings), 'no ring is favoured');
    }

    public function test_intensity_class_and_colour_come_along(): void
    {
        (new Making)->make([$this->clouds->open("x y z intensity class r g b\n0 0 0 10 3 255 128 0\n5 5 1 30 300 1 2 3\n", 'a.xyz')], $room = $this->clouds->room());
        $bytes = (string) file_get_contents("{$room}/0.bin");
        self::assertSame(40, strlen($bytes));
        $records = [];
        foreach (str_split($bytes, 20) as $record) {
            $records[] = [...array_values(unpack('g3', $record) ?: []), ...array_values(unpack('C8', $record, 12) ?: [])];
        }
        sort($records);
        self::assertSame([0.0, 0.0, 0.0, 0, 3, 1, 0, 255, 128, 0, 0], $records[0]);
        self::assertSame([5.0, 5.0, 1.0, 255, 255, 1, 2, 3, 0], [...array_slice($records[1], 0, 5), ...array_slice($records[1], 7)]);
    }

    public function test_a_cloud_far_from_zero_keeps_its_millimetres(): void
    {
        (new Making)->make([$this->clouds->open("512345.678 5412345.123 101.5\n512346.679 5412346.124 102.5\n", 'a.xyz')], $room = $this->clouds->room());
        $places = self::all(Frame::open($room, 0));
        sort($places);
        self::assertEqualsWithDelta([512345.678, 5412345.123, 101.5], $places[0], 0.0005);
        self::assertSame([[512345.678, 5412345.123, 101.5], [512346.679, 5412346.124, 102.5]], Frame::open($room, 0)->bounds);
    }

    public function test_places_that_are_no_numbers_are_left_out_and_a_cloud_of_nothing_else_is_refused(): void
    {
        $made = (new Making)->make([$this->clouds->open("x,y,z\nnan,1,2\n1,2,3\ninf,0,0\n", 'a.csv')], $room = $this->clouds->room());
        self::assertSame([1], $made->points);
        self::assertSame(1, Frame::open($room, 0)->points);
        $index = json_decode((string) file_get_contents("{$room}/index.json"), true);
        self::assertIsArray($index);
        self::assertSame(2, $index['frames'][0]['unseen']);
        $this->expectException(RefusedCloud::class);
        $this->expectExceptionMessageMatches('/none of its points/');
        (new Making)->make([$this->clouds->open("nan nan nan\nnan nan nan\n1e30 0 0\n", 'a.xyz')], $this->clouds->room());
    }

    public function test_a_sequence_is_its_frames_in_order_and_names_the_one_that_is_broken(): void
    {
        $files = [];
        foreach ([1.0, 2.0, 3.0] as $n => $x) {
            $files[] = [$this->clouds->file(Clouds::kitti([[$x, 0.0, 0.0]]), 'a.bin'), "{$n}.bin"];
        }
        Sequence::make($files, $zip = "{$this->clouds->folder}/a.frames");
        $again = "{$this->clouds->folder}/b.frames";
        Sequence::make($files, $again);
        self::assertSame(hash_file('sha256', $zip), hash_file('sha256', $again));
        (new Making)->make(Sequence::open($zip, $this->clouds->room(), new CloudLimits), $room = $this->clouds->room());
        foreach ([1.0, 2.0, 3.0] as $n => $x) {
            self::assertSame([[$x, 0.0, 0.0]], self::all(Frame::open($room, $n)));
        }
        try {
            Frame::open($room, 3);
            self::fail('there is no fourth');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('0 to 2', $e->getMessage());
        }
        $files[1][0] = $this->clouds->file('short', 'a.bin');
        Sequence::make($files, $broken = "{$this->clouds->folder}/c.frames");
        $this->expectException(RefusedCloud::class);
        $this->expectExceptionMessageMatches('/frame 2: /');
        Sequence::open($broken, $this->clouds->room(), new CloudLimits);
    }

    public function test_the_ground_lies_under_what_stands_on_it_also_on_a_slope(): void
    {
        $points = [];
        $slope = static fn (float $x, float $y): float => 0.1 * $x + 0.03 * $y;
        for ($i = 0; $i < 30_000; $i++) {
            [$x, $y] = [self::drawn(-20, 20), self::drawn(-20, 20)];
            $points[] = [$x, $y, $slope($x, $y) + self::drawn(0, 0.04)];
        }
        // a box of two metres, whose inside no scanner sees, and a post
        $things = [];
        for ($i = 0; $i < 6_000; $i++) {
            $things[] = [self::drawn(3, 5), self::drawn(3, 5), $slope(4, 4) + self::drawn(0.4, 1.4)];
            $things[] = [self::drawn(-8, -7.9), self::drawn(-8, -7.9), $slope(-8, -8) + self::drawn(0.4, 2.5)];
        }
        $points = array_values(array_filter($points, static fn (array $p): bool => $p[0] < 3 || $p[0] > 5 || $p[1] < 3 || $p[1] > 5));
        $columns = static fn (array $of): array => [array_column($of, 0), array_column($of, 1), array_column($of, 2)];
        $ground = Ground::under([-20, -20], [20, 20], [$columns($points), $columns($things)]);
        $share = static fn (array $of): float => count(array_filter($of, static fn (array $p): bool => $ground->has(...$p))) / count($of);
        self::assertGreaterThan(0.98, $share($points));
        self::assertLessThan(0.01, $share($things));
        self::assertEqualsWithDelta($slope(10, -5), $ground->at(10, -5), 0.1);
    }

    public function test_the_ground_of_odd_clouds(): void
    {
        foreach ([[[1.0], [1.0], [1.0]], [[0.0, 1e6], [0.0, 1e6], [0.0, 5.0]], [[0.0, 0.0], [0.0, 1e7], [2.0, 2.0]]] as $points) {
            $ground = Ground::under([min($points[0]), min($points[1])], [max($points[0]), max($points[1])], [$points]);
            self::assertTrue($ground->has($points[0][0], $points[1][0], $points[2][0]));
        }
    }

    public function test_points_in_cuboids_are_those_a_brute_force_finds(): void
    {
        $points = [];
        for ($i = 0; $i < 5_000; $i++) {
            $points[] = [self::drawn(-30, 30), self::drawn(-30, 30), self::drawn(0, 4)];
        }
        $cuboids = [Cuboid::of([0, 0, 2], [200, 200, 10], 12)];
        for ($i = 0; $i < 60; $i++) {
            $cuboids[] = Cuboid::of([self::drawn(-30, 30), self::drawn(-30, 30), self::drawn(0, 4)], [self::drawn(0, 9), self::drawn(0, 4), self::drawn(0, 3)], self::drawn(-180, 180));
        }
        $frame = $this->clouds->frame($points);
        $places = self::all($frame);
        $want = array_map(static fn (Cuboid $cuboid): int => count(array_filter($places, static fn (array $p): bool => $cuboid->contains(...$p))), $cuboids);
        self::assertSame($want, (new Inside($cuboids))->count($frame));
        self::assertSame(5_000, $want[0]);
        self::assertGreaterThan(20, count(array_filter($want)));
        self::assertSame([], (new Inside([]))->count($frame));
    }

    public function test_a_point_is_of_the_smallest_cuboid_it_lies_in(): void
    {
        $cuboids = [];
        for ($n = 0; $n < 40; $n++) {
            $cuboids[] = Cuboid::of([self::drawn(-4, 4), self::drawn(-4, 4), self::drawn(0, 1)], [self::drawn(0.5, 3), self::drawn(0.5, 3), self::drawn(0.5, 2)], self::drawn(-180, 180));
        }
        // one so wide that no grid holds it
        $cuboids[] = Cuboid::of([0, 0, 0], [400, 400, 0.4], 12);
        $x = $y = $z = [];
        for ($n = 0; $n < 2_000; $n++) {
            [$x[], $y[], $z[]] = [self::drawn(-6, 6), self::drawn(-6, 6), $n % 50 === 0 ? NAN : self::drawn(-1, 2)];
        }
        $which = (new Inside($cuboids))->which(new Points($x, $y, $z));
        $in = 0;
        foreach ($which as $i => $one) {
            $best = null;
            foreach ($cuboids as $n => $cuboid) {
                if ($cuboid->contains($x[$i], $y[$i], $z[$i]) && ($best === null || $cuboid->volume() < $cuboids[$best]->volume())) {
                    $best = $n;
                }
            }
            self::assertSame($best, $one);
            $in += $one === null ? 0 : 1;
        }
        self::assertGreaterThan(500, $in);
    }

    public function test_what_lies_over_a_part_of_the_ground(): void
    {
        $points = [[5.0, 5.0, 1.0], [5.0, 5.0, 0.0], [9.0, 5.0, 1.0]];
        for ($x = 0; $x < 12; $x++) {
            for ($y = 0; $y < 12; $y++) {
                $points[] = [(float) $x, (float) $y, 0.0];
            }
        }
        $near = $this->clouds->frame($points)->over([4.0, 4.0, 6.0, 6.0]);
        self::assertSame([[5.0], [5.0], [1.0]], [$near->x, $near->y, $near->z]);
        self::assertCount(9, $near->ground);
        self::assertEqualsWithDelta(0.0, $near->floor(), 1e-6);
    }

    public function test_a_picture_from_above(): void
    {
        $bitmap = TopView::bitmap($this->clouds->frame([[0.0, 0.0, 0.0], [10.0, 0.0, 0.0], [10.0, 5.0, 3.0]]), 40, 30);
        self::assertSame([1078 + 40 * 30, 40, 30], [strlen($bitmap), ...array_values(unpack('V2', $bitmap, 18) ?: [])]);
        $pixels = substr($bitmap, 1078);
        $bright = array_keys(array_filter(str_split($pixels), static fn (string $p): bool => ord($p) > 200));
        self::assertCount(1, $bright);
        self::assertGreaterThan(20, $bright[0] % 40, 'the highest lies to the right');
        self::assertGreaterThan(15, intdiv($bright[0], 40), 'and up');
    }

    public function test_a_portrait_from_above_and_from_its_side(): void
    {
        $points = [];
        for ($i = 0; $i <= 40; $i++) {
            // along its left side, low; and what hangs over it
            $points[] = [2.0 + $i / 20 - 1, 3.4, 0.2];
            $points[] = [2.0, 3.0, 5.0];
        }
        $side = 100;
        $bitmap = Portrait::bitmap($this->clouds->frame($points), Cuboid::of([2, 3, 0.5], [2, 1, 1], 0), $side);
        self::assertSame(1078 + $side * $side, strlen($bitmap));
        $rows = array_reverse(str_split(substr($bitmap, 1078), $side));
        $bright = static fn (int $from, int $to): array => array_values(array_filter(range($from, $to - 1), static fn (int $row): bool => substr_count($rows[$row], chr(235)) > 20));
        // from above its left is up, from its side low is down; nothing of what hangs there
        [$above, $beside] = [$bright(0, 50), $bright(50, 100)];
        self::assertNotSame([], $above);
        self::assertLessThan(25, $above[0]);
        self::assertGreaterThan(75, $beside[0]);
        self::assertNotSame($bitmap, Portrait::bitmap($this->clouds->frame($points), Cuboid::of([2, 3, 0.5], [2, 1, 1], 180), $side));
    }
}
