<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\Align;
use Skeno\Core\Cloud\Follow;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Motion;
use Skeno\Core\Cloud\Rigid;
use Skeno\Core\Geometry\Cuboid;

final class FollowTest extends TestCase
{
    private Clouds $clouds;

    protected function setUp(): void
    {
        mt_srand(5);
        $this->clouds = new Clouds;
    }

    private static function drawn(float $from, float $to): float
    {
        return $from + ($to - $from) * mt_rand() / mt_getrandmax();
    }

    /** Where posts stand beside the way. @return list<Cuboid> */
    private static function posts(): array
    {
        $posts = [];
        for ($n = 0; $n < 12; $n++) {
            $posts[] = Cuboid::of([-9 + 2.3 * $n + 0.4 * ($n % 3), $n % 2 === 0 ? 4.1 : -3.7, 0.9], [0.3, 0.3, 1.8], 0);
        }

        return $posts;
    }

    /**
     * A floor, posts, and more things, as a scanner at some place sees them: of each thing the sides that face it.
     *
     * @param  list<Cuboid>  $things  in the axes of the ground
     * @param  Motion  $scanner  from the axes of the ground to those of the scanner
     */
    private function frame(array $things, Motion $scanner): Frame
    {
        $points = [];
        for ($x = -12; $x < 12; $x++) {
            for ($y = -12; $y < 12; $y++) {
                $points[] = [$x + self::drawn(0, 1), $y + self::drawn(0, 1), self::drawn(-0.01, 0.01)];
            }
        }
        foreach ([...self::posts(), ...$things] as $thing) {
            $seen = $scanner->cuboid($thing);
            [$c, $s] = [cos(deg2rad($seen->heading)), sin(deg2rad($seen->heading))];
            foreach ([[1, 0], [-1, 0], [0, 1], [0, -1]] as [$u, $v]) {
                [$ax, $ay] = [$u * $c - $v * $s, $u * $s + $v * $c];
                [$hu, $hv] = [$seen->size[0] / 2, $seen->size[1] / 2];
                [$mx, $my] = [$seen->center[0] + $ax * ($u !== 0 ? $hu : $hv), $seen->center[1] + $ay * ($u !== 0 ? $hu : $hv)];
                if ($mx * $ax + $my * $ay >= 0) {
                    continue;
                }
                $wide = $u !== 0 ? $hv : $hu;
                for ($n = 0; $n < 180; $n++) {
                    $t = self::drawn(-$wide, $wide);
                    $points[] = [$mx - $ay * $t, $my + $ax * $t, $seen->center[2] + self::drawn(-0.48, 0.48) * $seen->size[2]];
                }
            }
        }

        return $this->clouds->frame($points);
    }

    private static function follow(Cuboid $cuboid, Frame $from, Frame $to, ?Motion $scene = null): Follow
    {
        $scene ??= Follow::scene($from, $to);
        $over = static function (Frame $frame, Cuboid $about): \Skeno\Core\Cloud\Near {
            $reach = Follow::reach($about, true);

            return $frame->over([$about->center[0] - $reach, $about->center[1] - $reach, $about->center[0] + $reach, $about->center[1] + $reach]);
        };

        return Follow::next($cuboid, $over($from, $cuboid), $scene, null, $over($to, $scene->cuboid($cuboid)));
    }

    public function test_motions_are_put_together_and_turned_back(): void
    {
        $a = new Motion(30, 2, -1, 0.5);
        $b = new Motion(-75, 0.3, 4);
        [$x, $y] = $a->place(3, 7);
        self::assertEqualsWithDelta($b->place($x, $y), $a->then($b)->place(3, 7), 1e-9);
        $cuboid = Cuboid::of([1, 2, 3], [1, 1, 1], 170);
        self::assertSame([-160.0, 3.5], [$a->cuboid($cuboid)->heading, $a->cuboid($cuboid)->center[2]]);
        // a quarter turn to the left and 2 m on: what was 5 m ahead is 5 m to the right of a place 2 m back
        $there = Motion::ofPoses(Rigid::of([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], 'a'), Rigid::of([0, -1, 0, 2, 1, 0, 0, 0, 0, 0, 1, 0.4], 'b'));
        self::assertEqualsWithDelta([0.0, -3.0], $there->place(5, 0), 1e-9);
        self::assertEqualsWithDelta([-90.0, -0.4], [$there->turn, $there->z], 1e-9);
    }

    public function test_places_are_laid_onto_places_that_were_moved_and_turned(): void
    {
        $x = $y = $qx = $qy = [];
        $true = new Motion(6, 0.4, -0.3);
        for ($n = 0; $n < 200; $n++) {
            $x[] = self::drawn(-3, 3);
            $y[] = self::drawn(-2, 2);
            [$u, $v] = $true->place($x[$n], $y[$n]);
            // a fifth of them have no partner
            $qx[] = $n % 5 === 0 ? self::drawn(-9, 9) : $u;
            $qy[] = $n % 5 === 0 ? self::drawn(-9, 9) : $v;
        }
        $align = new Align($qx, $qy, 0.3);
        $found = $align->nearer($x, $y, $align->shifted($x, $y, Motion::none(), 1.0, [0.0, -4.0, 4.0, 8.0], 0.01), true, 0.75);
        self::assertEqualsWithDelta([6.0, 0.4, -0.3], [$found->turn, $found->x, $found->y], 0.01);
        self::assertEqualsWithDelta(0.8, $align->share($x, $y, $found, 0.01), 0.05);
        // onto nothing they stay where they are
        $nothing = new Align([], [], 0.3);
        self::assertSame(0.0, $nothing->nearer($x, $y, Motion::none(), true, 0.75)->x);
        self::assertSame(0.0, $nothing->share($x, $y, Motion::none(), 1.0));
    }

    /** @return iterable<string, array{Motion}> */
    public static function scanners(): iterable
    {
        yield 'stands' => [Motion::none()];
        yield 'drives' => [new Motion(0, -1.3, 0)];
        yield 'drives round a corner' => [new Motion(-6, -1.0, 0.2)];
    }

    #[DataProvider('scanners')]
    public function test_how_the_scene_moved_is_told_by_what_stands_in_it(Motion $scanner): void
    {
        $bin = Cuboid::of([5, 1, 0.4], [1.2, 1.0, 0.8], 20);
        $found = Follow::scene($this->frame([$bin], Motion::none()), $this->frame([$bin], $scanner));
        self::assertEqualsWithDelta([$scanner->turn, $scanner->x, $scanner->y], [$found->turn, $found->x, $found->y], 0.12);
    }

    #[DataProvider('scanners')]
    public function test_what_stands_still_is_where_it_stood(Motion $scanner): void
    {
        $bin = Cuboid::of([5, 1, 0.4], [1.2, 1.0, 0.8], 20);
        $found = self::follow($bin, $this->frame([$bin], Motion::none()), $this->frame([$bin], $scanner));
        self::assertNull($found->unsure);
        self::assertLessThan(0.1, $scanner->cuboid($bin)->apart(Cuboid::of($found->cuboid->center, $found->cuboid->size, $scanner->cuboid($bin)->heading)));
        self::assertEqualsWithDelta($scanner->turn + 20, $found->cuboid->heading, 1.0);
        self::assertSame([0.0, 0.0, 0.0], $found->own);
    }

    /** @return iterable<string, array{float, float, float}> */
    public static function ways(): iterable
    {
        yield 'ahead' => [1.6, 0, 0];
        yield 'slowly' => [0.4, 0, 0];
        yield 'across' => [0.3, -1.1, 0];
        yield 'round a corner' => [1.2, 0.3, 8];
    }

    #[DataProvider('ways')]
    public function test_what_moves_is_found_where_it_went_and_how_it_went_is_known(float $x, float $y, float $turn): void
    {
        $cart = Cuboid::of([5.5, 0.8, 0.7], [1.9, 1.1, 1.4], 10);
        $went = Cuboid::of([5.5 + $x, 0.8 + $y, 0.7], [1.9, 1.1, 1.4], 10 + $turn);
        $scanner = new Motion(0, -1.1, 0);
        $found = self::follow($cart, $this->frame([$cart], Motion::none()), $this->frame([$went], $scanner));
        self::assertNull($found->unsure);
        self::assertEqualsWithDelta([5.5 + $x - 1.1, 0.8 + $y, 0.7], $found->cuboid->center, 0.12);
        self::assertEqualsWithDelta(10 + $turn, $found->cuboid->heading, 3.0);
        self::assertSame($cart->size, $found->cuboid->size);
        self::assertEqualsWithDelta([$x, $y], [$found->own[0], $found->own[1]], 0.15);
        // as it went it is looked for on the next frame
        $next = Follow::guess($found->cuboid, $scanner, $found->own)->cuboid($found->cuboid);
        self::assertEqualsWithDelta([5.5 + 2 * ($x - 1.1), 0.8 + 2 * $y], [$next->center[0], $next->center[1]], 0.3);
    }

    public function test_a_very_large_thing_is_followed_by_some_of_its_cells(): void
    {
        $hall = Cuboid::of([9, 1, 1.5], [12, 30, 3], 0);
        [$from, $to] = [$this->frame([$hall], Motion::none()), $this->frame([$hall], new Motion(0, -1, 0))];
        $found = self::follow($hall, $from, $to, new Motion(0, -1, 0));
        self::assertEqualsWithDelta([8.0, 1.0], [$found->cuboid->center[0], $found->cuboid->center[1]], 0.1);
    }

    public function test_what_is_gone_and_what_never_was_there_is_not_made_up(): void
    {
        $bin = Cuboid::of([5, 1, 0.4], [1.2, 1.0, 0.8], 20);
        [$with, $without] = [$this->frame([$bin], Motion::none()), $this->frame([], Motion::none())];
        self::assertStringContainsString('too few points where it should be', (string) self::follow($bin, $with, $without, Motion::none())->unsure);
        self::assertStringContainsString('too few points in it', (string) self::follow($bin, $without, $with, Motion::none())->unsure);
    }

    public function test_one_thing_alone_says_nothing_of_how_the_scene_moved(): void
    {
        $of = fn (float $x): Frame => $this->clouds->frame(array_merge(
            ...array_map(static fn (int $i): array => [[$x + $i / 100, 1.0, 0.2 + $i / 200], [$x, 1.0 + $i / 100, 0.2 + $i / 200]], range(0, 100)),
            ...array_map(static fn (int $i): array => array_map(static fn (int $j): array => [$i - 10, $j - 10, 0.0], range(0, 20)), range(0, 20)),
        ));
        self::assertEquals(Motion::none(), Follow::scene($of(3), $of(3.5)));
    }

    public function test_frames_with_nothing_in_them_say_nothing_of_how_one_moved(): void
    {
        $empty = $this->clouds->frame([[1, 1, 0], [2, 2, 0]]);
        self::assertEquals(Motion::none(), Follow::scene($empty, $empty));
    }
}
