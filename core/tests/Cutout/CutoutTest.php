<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cutout;

use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\Stroke;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;

final class CutoutTest extends TestCase
{
    public function test_what_stands_out_is_found_to_the_pixel(): void
    {
        $cutout = new Cutout(Scene::of(160, 120, Scene::disc(80, 60, 35)), Box::of(40, 20, 82, 84));
        self::assertGreaterThan(0.98, $cutout->mask()->iou(Scene::truth(160, 120, 80, 60, 35)));
        self::assertSame([], $cutout->touches());
        self::assertLessThan(0.05, $cutout->alike());
    }

    public function test_it_is_found_small_and_then_along_its_border_at_full_size(): void
    {
        $cutout = new Cutout(Scene::of(500, 460, Scene::disc(250, 230, 150)), Box::of(90, 72, 322, 315));
        self::assertGreaterThan(0.985, $cutout->mask()->iou(Scene::truth(500, 460, 250, 230, 150)));
    }

    public function test_what_the_picture_cuts_off_may_touch_its_edge(): void
    {
        $cutout = new Cutout(Scene::of(120, 120, Scene::disc(0, 60, 40)), Box::of(0, 14, 48, 92));
        self::assertGreaterThan(0.97, $cutout->mask()->iou(Scene::truth(120, 120, 0, 60, 40)));
        self::assertNotContains('left', $cutout->touches());
    }

    public function test_an_outline_along_the_box_is_told(): void
    {
        // the box lies inside of what it should hold, on the right
        $cutout = new Cutout(Scene::of(160, 120, Scene::disc(110, 60, 50)), Box::of(40, 5, 60, 110));
        self::assertSame(['right'], $cutout->touches());
    }

    public function test_object_and_ground_of_one_colour_are_told(): void
    {
        $cutout = new Cutout(Scene::of(160, 120, static fn (): ?array => null), Box::of(40, 20, 80, 80));
        $cutout->stroke(Stroke::of(true, [80.0, 60.0]));
        self::assertGreaterThan(0.7, $cutout->alike());
    }

    public function test_a_click_adds_what_is_of_another_colour_and_another_takes_it_away(): void
    {
        // an object of two colours: the box alone may miss the one that the ground has too
        $two = static fn (float $x, float $y): ?array => match (true) {
            ($x - 80) ** 2 + ($y - 60) ** 2 > 35 ** 2 => $x > 130 ? [70, 70, 190] : null,
            $x > 80 => [70, 70, 190],
            default => [190, 40, 40],
        };
        $cutout = new Cutout(Scene::of(160, 120, $two), Box::of(42, 22, 77, 77));
        $cutout->stroke(Stroke::of(true, [95.0, 60.0]));
        $whole = Scene::truth(160, 120, 80, 60, 35);
        self::assertGreaterThan(0.96, $cutout->mask()->iou($whole));
        $cutout->stroke(Stroke::of(false, [92.0, 48.0, 104.0, 60.0, 92.0, 74.0]));
        self::assertFalse($cutout->mask()->has(100, 60));
        self::assertGreaterThan(0.4, $cutout->mask()->iou($whole));
    }

    public function test_what_a_hand_says_is_binding_where_it_says_it(): void
    {
        $picture = Scene::of(140, 120, Scene::disc(70, 60, 30));
        $dice = new Randomizer(new Mt19937(3));
        for ($round = 0; $round < 12; $round++) {
            $cutout = new Cutout($picture, Box::of(30, 20, 80, 80));
            $said = [];
            for ($i = 0; $i < 5; $i++) {
                [$x, $y, $adds] = [$dice->getInt(34, 106), $dice->getInt(24, 96), $dice->getInt(0, 1) === 1];
                // strokes that contradict each other are no case: the later would win where they overlap
                if (array_filter($said, static fn (array $s): bool => hypot($s[0] - $x, $s[1] - $y) < 9) === []) {
                    $said[] = [$x, $y, $adds];
                    $cutout->stroke(Stroke::of($adds, [$x + 0.5, $y + 0.5]));
                }
            }
            foreach ([$cutout->mask(), $cutout->dialled(3.0), $cutout->dialled(-3.0)] as $mask) {
                foreach ($said as [$x, $y, $adds]) {
                    self::assertSame($adds, $mask->has($x, $y), "round {$round}: {$x}, {$y}");
                }
            }
        }
    }

    public function test_looser_is_never_smaller(): void
    {
        $soft = static fn (float $x, float $y): array => [(int) (60 + 130 * exp(-(($x - 80) ** 2 + ($y - 60) ** 2) / 900)), 90, 60];
        $cutout = new Cutout(Scene::of(300, 240, static fn (float $x, float $y): array => $soft($x / 2, $y / 2), grain: 14), Box::of(70, 30, 180, 180));
        $before = null;
        $areas = [];
        foreach ([-4.0, -3.0, -2.0, -1.0, -0.5, 0.0, 0.5, 1.0, 2.0, 3.0, 4.0] as $by) {
            $mask = $cutout->dialled($by);
            $areas[] = $mask->area();
            if ($before !== null && $by <= 0.5 && $by >= -0.5) {
                self::assertSame(0.0, $before->without($mask)->area(), "at {$by}");
            }
            $before = $mask;
        }
        $sorted = $areas;
        sort($sorted);
        self::assertSame($sorted, $areas);
        self::assertLessThan($areas[10], $areas[0], 'the dial does something');
    }

    public function test_specks_and_pinholes_are_nobodys_wish(): void
    {
        $holes = static fn (float $x, float $y): ?array => hypot($x - 80, $y - 60) > 35 ? (hypot($x - 118, $y - 24) < 2 ? [190, 40, 40] : null) : (hypot($x - 80, $y - 60) < 1.6 ? null : [190, 40, 40]);
        $mask = (new Cutout(Scene::of(160, 120, $holes), Box::of(40, 20, 84, 82)))->mask();
        self::assertTrue($mask->has(80, 60));
        self::assertFalse($mask->has(118, 24));
    }

    public function test_it_goes_on_from_what_was_kept_as_if_nothing_had_been(): void
    {
        $a = new Cutout(Scene::of(200, 160, Scene::disc(100, 80, 50)), Box::of(45, 25, 112, 112));
        $a->stroke(Stroke::of(true, [100.0, 40.0]));
        $b = unserialize(serialize($a));
        self::assertInstanceOf(Cutout::class, $b);
        self::assertEquals($a->mask(), $b->mask());
        foreach ([$a, $b] as $cutout) {
            $cutout->stroke(Stroke::of(false, [100.0, 100.0, 120.0, 100.0]));
        }
        self::assertEquals($a->mask(), $b->mask());
        self::assertEquals($a->dialled(2.0), $b->dialled(2.0));
    }

    public function test_where_it_was_before_tells_it_from_its_like(): void
    {
        // two alike touch in the box: the one that was there is meant
        $two = static fn (float $x, float $y): ?array => hypot($x - 70, $y - 60) < 28 || hypot($x - 130, $y - 60) < 28 ? [190, 40, 40] : null;
        $picture = Scene::of(200, 120, $two);
        $before = Scene::truth(200, 120, 66, 58, 28);
        $mask = (new Cutout($picture, Box::of(30, 20, 85, 80), $before))->mask();
        self::assertGreaterThan(0.93, $mask->iou(Scene::truth(200, 120, 70, 60, 28)));
    }

    public function test_a_box_beside_the_picture_is_refused(): void
    {
        $this->expectException(InvalidValue::class);
        new Cutout(Scene::of(20, 20, Scene::disc(10, 10, 5)), Box::of(30, 5, 10, 10));
    }

    /** The tracing JIT has computed other code wrong before: what it makes of ours is held against PHP without it. */
    public function test_it_is_the_same_with_and_without_the_jit(): void
    {
        $run = static fn (string $jit): string => (string) shell_exec(escapeshellarg(PHP_BINARY)." -d opcache.enable_cli=1 -d opcache.jit={$jit} -d opcache.jit_buffer_size=32M -d opcache.file_update_protection=0 ".escapeshellarg(__DIR__.'/jit.php'));
        $plain = $run('off');
        self::assertStringContainsString('cut-out', $plain);
        self::assertSame($plain, $run('tracing'));
    }
}
