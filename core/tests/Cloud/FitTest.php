<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\Fit;
use Skeno\Core\Cloud\Near;
use Skeno\Core\Geometry\Cuboid;

final class FitTest extends TestCase
{
    protected function setUp(): void
    {
        mt_srand(5);
    }

    private static function drawn(float $from, float $to): float
    {
        return $from + ($to - $from) * mt_rand() / mt_getrandmax();
    }

    /**
     * What a scanner at zero sees of a cuboid that stands on the ground: the sides that face it, and its top; the ground around it.
     *
     * @param  list<array{float, float, float}>  $more
     */
    private static function seen(Cuboid $cuboid, int $count = 1_500, array $more = [], float $floor = 0.0): Near
    {
        [$c, $s] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
        [$l, $w, $h] = $cuboid->size;
        [$cx, $cy, $cz] = $cuboid->center;
        // where the scanner is, from the cuboid
        [$u, $v] = [-$cx * $c - $cy * $s, $cx * $s - $cy * $c];
        $points = $more;
        for ($i = 0; $i < $count; $i++) {
            $side = $i % 5;
            $place = match (true) {
                $side < 2 => [$u > 0 ? $l / 2 : -$l / 2, self::drawn(-$w / 2, $w / 2), self::drawn(-$h / 2, $h / 2)],
                $side < 4 => [self::drawn(-$l / 2, $l / 2), $v > 0 ? $w / 2 : -$w / 2, self::drawn(-$h / 2, $h / 2)],
                default => [self::drawn(-$l / 2, $l / 2), self::drawn(-$w / 2, $w / 2), $h / 2],
            };
            [$a, $b, $z] = [$place[0] + self::drawn(-0.01, 0.01), $place[1] + self::drawn(-0.01, 0.01), $place[2]];
            $points[] = [$cx + $a * $c - $b * $s, $cy + $a * $s + $b * $c, $cz + $z];
        }

        return new Near(array_column($points, 0), array_column($points, 1), array_column($points, 2), array_fill(0, 40, $floor));
    }

    /** Volume that both have of what either has, by counting places. */
    private static function iou(Cuboid $a, Cuboid $b): float
    {
        $both = $any = 0;
        $ends = [];
        foreach ([0, 1, 2] as $axis) {
            $reach = static fn (Cuboid $of): float => $axis === 2 ? $of->size[2] / 2 : hypot($of->size[0], $of->size[1]) / 2;
            $ends[] = [min($a->center[$axis] - $reach($a), $b->center[$axis] - $reach($b)), max($a->center[$axis] + $reach($a), $b->center[$axis] + $reach($b))];
        }
        for ($i = 0; $i < 3_000; $i++) {
            $place = array_map(static fn (array $end): float => self::drawn($end[0], $end[1]), $ends);
            [$in, $of] = [$a->contains(...$place), $b->contains(...$place)];
            $both += $in && $of ? 1 : 0;
            $any += $in || $of ? 1 : 0;
        }

        return $both / $any;
    }

    /** @return iterable<string, array{Cuboid}> */
    public static function cuboids(): iterable
    {
        foreach ([[6.0, 2.0, 10.0], [-5.0, 4.0, 80.0], [3.0, -7.0, -35.0], [8.0, 0.5, 170.0]] as [$x, $y, $heading]) {
            yield "at {$x}, {$y}, turned by {$heading}" => [Cuboid::of([$x, $y, 0.4], [1.4, 1.0, 0.8], $heading)];
        }
    }

    #[DataProvider('cuboids')]
    public function test_from_one_rough_drag(Cuboid $true): void
    {
        [$c, $s] = [cos(deg2rad($true->heading)), sin(deg2rad($true->heading))];
        // from behind to before it, a good deal too wide
        [$sx, $sy] = [$c >= 0 ? 1 : -1, $s >= 0 ? 1 : -1];
        $from = [$true->center[0] - 1.1 * $sx, $true->center[1] - 1.0 * $sy];
        $to = [$true->center[0] + 1.0 * $sx, $true->center[1] + 1.1 * $sy];
        $found = Fit::drag(self::seen($true), $from, $to);
        self::assertGreaterThan(0.9, self::iou($true, $found));
        self::assertEqualsWithDelta(0.0, fmod($found->heading - $true->heading + 540, 360) - 180, 3.0, 'and its front is where the drag went');
        $back = Fit::drag(self::seen($true), $to, $from);
        self::assertEqualsWithDelta(180.0, abs(fmod($back->heading - $true->heading + 540, 360) - 180), 3.0);
    }

    public function test_what_lies_beside_and_hangs_above_is_not_of_it(): void
    {
        $true = Cuboid::of([6.0, 2.0, 0.4], [1.4, 1.0, 0.8], 0);
        $more = [];
        for ($i = 0; $i < 400; $i++) {
            // a post that the drag only touches, and leaves over it
            $more[] = [self::drawn(7.2, 7.3), self::drawn(2.9, 3.0), self::drawn(0.2, 2)];
            $more[] = [self::drawn(5, 7), self::drawn(1, 3), self::drawn(1.9, 3)];
        }
        self::assertGreaterThan(0.9, self::iou($true, Fit::drag(self::seen($true, 1_500, $more), [5.0, 1.2], [7.1, 2.8])));
    }

    public function test_what_is_hidden_is_as_long_as_the_drag_or_as_its_class_is(): void
    {
        $true = Cuboid::of([6.0, 0.0, 0.4], [1.4, 1.0, 0.8], 0);
        // the face that looks at the scanner alone
        $points = [];
        for ($i = 0; $i < 300; $i++) {
            $points[] = [5.3 + self::drawn(-0.01, 0.01), self::drawn(-0.5, 0.5), self::drawn(0, 0.8)];
        }
        $near = new Near(array_column($points, 0), array_column($points, 1), array_column($points, 2), [0.0]);
        self::assertGreaterThan(0.8, self::iou($true, Fit::drag($near, [5.0, -0.8], [7.0, 0.8])));
        self::assertGreaterThan(0.9, self::iou($true, Fit::drag($near, [5.0, -0.8], [7.0, 0.8], [1.4, 1.0, 0.8])));
    }

    public function test_over_nothing_it_is_as_it_was_dragged(): void
    {
        $found = Fit::drag(new Near([], [], [], [0.5, 0.5]), [4.0, 1.0], [2.0, 2.0], [3.0, 1.0, 0.7]);
        self::assertSame([[3.0, 1.5, 0.85], [2.0, 1.0, 0.7], 180.0], [$found->center, $found->size, $found->heading]);
        $nothing = Fit::drag(new Near([], [], [], []), [0.0, 0.0], [0.0, 0.0]);
        self::assertFalse($nothing->isEmpty(), 'a press that was no drag has a size too');
    }

    /**
     * What a scanner at the origin sees of an upright cylinder.
     *
     * @return list<array{float, float, float}>
     */
    private static function stemmed(float $x, float $y, float $radius, float $height, int $count): array
    {
        $towards = atan2(-$y, -$x);
        $points = [];
        for ($n = 0; $n < $count; $n++) {
            $angle = $towards + asin(self::drawn(-1, 1));
            $points[] = [$x + $radius * cos($angle), $y + $radius * sin($angle), self::drawn(0.1, $height)];
        }

        return $points;
    }

    public function test_a_trunk_is_told_from_its_crown(): void
    {
        foreach ([[6.0, 1.5], [-3.0, -2.5], [0.5, 4.0]] as [$x, $y]) {
            $true = Cuboid::of([$x, $y, 0.6], [0.22, 0.22, 1.2], 0);
            $crown = [];
            while (count($crown) < 2_500) {
                [$u, $v, $w] = [self::drawn(-0.9, 0.9), self::drawn(-0.9, 0.9), self::drawn(-0.9, 0.9)];
                if ($u ** 2 + $v ** 2 + $w ** 2 < 0.81) {
                    $crown[] = [$x + $u, $y + $v, 2.05 + $w];
                }
            }
            $near = self::seen(Cuboid::of([$x, $y, -5.0], [0.1, 0.1, 0.1], 0), 0, [...self::stemmed($x, $y, 0.11, 1.2, 300), ...$crown]);
            $first = Fit::drag($near, [$x - 0.35, $y - 0.3], [$x + 0.32, $y + 0.38]);
            self::assertGreaterThan(0.6, self::iou($first, $true), "{$x}, {$y}");
            $known = Fit::drag($near, [$x - 0.35, $y - 0.3], [$x + 0.32, $y + 0.38], [0.22, 0.22, 1.2]);
            self::assertGreaterThan(0.75, self::iou($known, $true), "{$x}, {$y}");
            // dragged over as a whole it is a tree
            $tree = Fit::drag($near, [$x - 1.1, $y - 1.0], [$x + 1.1, $y + 1.1]);
            self::assertGreaterThan(1.3, min($tree->size[0], $tree->size[1]));
            self::assertGreaterThan(2.5, $tree->size[2]);
        }
    }

    public function test_a_sign_on_a_pole_is_one_thing(): void
    {
        $sign = [];
        for ($n = 0; $n < 400; $n++) {
            $sign[] = [5.0, self::drawn(-0.3, 0.3), self::drawn(1.6, 2.2)];
        }
        $near = self::seen(Cuboid::of([5, 0, -5.0], [0.1, 0.1, 0.1], 0), 0, [...self::stemmed(5.0, 0.0, 0.04, 1.7, 200), ...$sign]);
        $found = Fit::drag($near, [4.7, -0.5], [5.3, 0.5]);
        self::assertEqualsWithDelta([2.2, 0.6], [$found->size[2], max($found->size[0], $found->size[1])], 0.15);
    }

    public function test_what_hangs_in_the_air_stays_there(): void
    {
        $true = Cuboid::of([6.0, 2.0, 2.4], [1.4, 1.0, 0.8], 30);
        self::assertGreaterThan(0.9, self::iou($true, Fit::drag(self::seen($true), [5.0, 1.0], [7.0, 3.2])));
    }

    public function test_tighter_round_what_it_holds(): void
    {
        $true = Cuboid::of([6.0, 2.0, 0.4], [1.4, 1.0, 0.8], 25);
        $near = self::seen($true);
        $found = Fit::tighter(Cuboid::of([6.1, 1.95, 0.5], [1.7, 1.1, 1.0], 25), $near);
        self::assertNotNull($found);
        self::assertGreaterThan(0.93, self::iou($true, $found));
        self::assertSame(25.0, $found->heading);
        self::assertNull(Fit::tighter(Cuboid::of([60, 20, 1], [1, 1, 1], 0), $near), 'round nothing');
    }
}
