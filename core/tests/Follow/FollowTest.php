<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Follow;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Follow\Fit;
use Skeno\Core\Follow\Follower;
use Skeno\Core\Follow\Patch;
use Skeno\Core\Follow\Sums;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

/** Objects of which it is known where they are, before a ground of their own. */
final class FollowTest extends TestCase
{
    private const WIDTH = 320;

    private const HEIGHT = 200;

    /** @var list<float> */
    private static array $ground;

    /** @var list<float> */
    private static array $object;

    private Randomizer $random;

    public static function setUpBeforeClass(): void
    {
        self::$ground = self::cloth(self::WIDTH, self::HEIGHT, 14, 1);
        self::$object = self::cloth(60, 48, 8, 2);
    }

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Xoshiro256StarStar(9));
    }

    /** Smooth noise, brightness by pixel. @return list<float> */
    private static function cloth(int $width, int $height, int $cell, int $seed): array
    {
        $random = new Randomizer(new Xoshiro256StarStar($seed));
        $across = intdiv($width, $cell) + 2;
        $knots = [];
        for ($i = 0; $i < $across * (intdiv($height, $cell) + 2); $i++) {
            $knots[] = $random->getInt(20, 235);
        }
        $cloth = [];
        for ($y = 0; $y < $height; $y++) {
            for ($x = 0; $x < $width; $x++) {
                $at = intdiv($y, $cell) * $across + intdiv($x, $cell);
                [$u, $v] = [$x % $cell / $cell, $y % $cell / $cell];
                $cloth[] = ($knots[$at] * (1 - $u) + $knots[$at + 1] * $u) * (1 - $v) + ($knots[$at + $across] * (1 - $u) + $knots[$at + $across + 1] * $u) * $v;
            }
        }

        return $cloth;
    }

    /**
     * A frame with the object at the given boxes, in their order, and then what covers it.
     *
     * @param  list<Box>  $at
     * @param  float  $light  times which all is bright, and noise of ±3
     */
    private function frame(array $at, float $light = 1.0, ?Box $cover = null): Plane
    {
        $pixels = self::$ground;
        foreach ($at as $box) {
            for ($y = max(0, (int) ceil($box->y)); $y < min(self::HEIGHT, $box->bottom()); $y++) {
                for ($x = max(0, (int) ceil($box->x)); $x < min(self::WIDTH, $box->right()); $x++) {
                    $pixels[$y * self::WIDTH + $x] = self::$object[(int) (($y - $box->y) / $box->height * 48) * 60 + (int) (($x - $box->x) / $box->width * 60)];
                }
            }
        }
        $bytes = '';
        foreach ($pixels as $i => $value) {
            [$x, $y] = [$i % self::WIDTH, intdiv($i, self::WIDTH)];
            if ($cover !== null && $x >= $cover->x && $x < $cover->right() && $y >= $cover->y && $y < $cover->bottom()) {
                $value = 90 + 40 * sin($x / 3) * sin($y / 4);
            }
            $bytes .= chr((int) max(0, min(255, $value * $light + $this->random->getInt(-3, 3))));
        }

        return Plane::of(self::WIDTH, self::HEIGHT, $bytes);
    }

    public function test_it_goes_with_what_moves_grows_and_gets_darker(): void
    {
        $follower = null;
        for ($k = 0; $k < 60; $k++) {
            $size = 1 + 0.006 * $k;
            $truth = Box::of(20 + 2.5 * $k, 70 + 40 * sin($k / 9), 60 * $size, 48 * $size);
            $plane = $this->frame([$truth], 1 - 0.006 * $k);
            if ($follower === null) {
                $follower = Follower::on($plane, $truth);

                continue;
            }
            $found = $follower->next($plane);
            self::assertNull($found->unsure, "frame {$k}");
            self::assertGreaterThan(0.92, $found->box->iou($truth), "frame {$k}");
            self::assertGreaterThan(0.9, $found->certainty);
        }
    }

    public function test_it_finds_what_leaps(): void
    {
        $truth = Box::of(100, 60, 60, 48);
        $follower = Follower::on($this->frame([$truth]), $truth);
        foreach ([[28, -20], [-30, 22], [25, 20], [-28, -18], [0, 0]] as [$dx, $dy]) {
            $truth = Box::of($truth->x + $dx, $truth->y + $dy, 60, 48);
            self::assertGreaterThan(0.93, $follower->next($this->frame([$truth]))->box->iou($truth));
        }
    }

    public function test_what_stands_still_stays_where_it_was_drawn(): void
    {
        $truth = Box::of(100.5, 60.25, 41, 33);
        $plane = $this->frame([]);
        $follower = Follower::on($plane, $truth);
        for ($k = 0; $k < 5; $k++) {
            self::assertSame($truth->toArray(), $follower->next($plane)->box->toArray());
        }
    }

    public function test_it_says_when_something_else_covers_it_and_stays_there(): void
    {
        $truth = Box::of(120, 70, 60, 48);
        $follower = Follower::on($this->frame([$truth]), $truth);
        $sure = true;
        for ($k = 1; $k <= 40 && $sure; $k++) {
            $found = $follower->next($this->frame([$truth], 1.0, Box::of(60 + 3.0 * $k, 40, 100, 110)));
            $sure = $found->unsure === null;
            self::assertGreaterThan(0.85, $sure ? $found->box->iou($truth) : 1.0, "frame {$k}");
        }
        self::assertFalse($sure, 'it has not followed what covers it');
        self::assertSame('nothing here looks like it any more', $found->unsure);
        // uncovered, it is there again
        self::assertNull($follower->next($this->frame([$truth]))->unsure);
    }

    public function test_it_says_when_it_has_left_the_picture(): void
    {
        $truth = Box::of(250, 70, 60, 48);
        $follower = Follower::on($this->frame([$truth]), $truth);
        for ($k = 1; $k < 30; $k++) {
            $truth = Box::of(250 + 4.0 * $k, 70, 60, 48);
            $found = $follower->next($this->frame([$truth]));
            if ($found->unsure !== null) {
                break;
            }
        }
        self::assertNotNull($found->unsure);
        self::assertGreaterThan(self::WIDTH - 60, $truth->x, 'not as long as all of it is there');
        self::assertLessThan(self::WIDTH - 10, $truth->x);
    }

    public function test_it_says_when_there_are_two_of_it(): void
    {
        $truth = Box::of(40, 70, 60, 48);
        $follower = Follower::on($this->frame([$truth]), $truth);
        $found = $follower->next($this->frame([Box::of(9, 70, 60, 48), Box::of(71, 70, 60, 48)]));
        self::assertSame('something else here looks as much like it', $found->unsure);
    }

    /** @return iterable<string, array{Box, string}> */
    public static function hopeless(): iterable
    {
        yield 'too small' => [Box::of(10, 10, 5, 50), 'sides of at least 6 px'];
        yield 'of no size' => [Box::of(10, 10, 0, 0), 'sides of at least 6 px'];
        yield 'outside' => [Box::of(-100, 10, 120, 50), 'an object that can be seen'];
        yield 'far outside' => [Box::of(900_000, 900_000, 60, 50), 'an object that can be seen'];
        yield 'even' => [Box::of(20, 20, 30, 30), 'something to make out'];
    }

    #[DataProvider('hopeless')]
    public function test_what_can_not_be_followed_is_said_at_once(Box $box, string $why): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage($why);
        Follower::on(Plane::of(100, 100, str_repeat(chr(90), 10_000)), $box);
    }

    public function test_a_look_is_the_same_in_another_light(): void
    {
        $bright = $this->frame([]);
        $dark = Plane::of(self::WIDTH, self::HEIGHT, implode('', array_map(static fn (string $byte): string => chr(intdiv(ord($byte), 2) + 30), str_split($bright->bytes))));
        $patch = Patch::of(Sums::of($bright), 30.3, 40.7, 50, 40);
        self::assertEqualsWithDelta(1.0, $patch->likeness($patch), 1e-9);
        self::assertGreaterThan(0.999, $patch->likeness(Patch::of(Sums::of($dark), 30.3, 40.7, 50, 40)));
        self::assertLessThan(0.5, abs($patch->likeness(Patch::of(Sums::of($bright), 200, 100, 50, 40))));
        $even = Patch::of(Sums::of(Plane::of(50, 50, str_repeat(chr(7), 2500))), 0, 0, 50, 50);
        self::assertEqualsWithDelta([0.0, 0.0], [$even->contrast, $patch->likeness($even)], 1e-9);
        // half of each is as like the one as the other
        $other = Patch::of(Sums::of($bright), 33, 43, 50, 40);
        $both = $patch->mixed($other, 0.5);
        self::assertEqualsWithDelta($both->likeness($patch), $both->likeness($other), 0.02);
        self::assertGreaterThan($patch->likeness($other), $both->likeness($patch));
        self::assertEqualsWithDelta(1.0, $patch->mixed($other, 0.0)->likeness($patch), 1e-9);
    }

    public function test_a_reduced_picture_is_the_mean_of_its_pixels(): void
    {
        $plane = $this->frame([]);
        foreach ([[0, 0, 1], [37, 21, 3], [-7, -5, 4], [300, 180, 5]] as [$left, $top, $step]) {
            $small = $plane->reduced($left, $top, 9, 7, $step);
            for ($y = 0; $y < 7; $y++) {
                for ($x = 0; $x < 9; $x++) {
                    $sum = 0;
                    for ($v = 0; $v < $step; $v++) {
                        for ($u = 0; $u < $step; $u++) {
                            $sum += $plane->at(min(self::WIDTH - 1, max(0, $left + $x * $step + $u)), min(self::HEIGHT - 1, max(0, $top + $y * $step + $v))) ?? 0;
                        }
                    }
                    self::assertSame((int) round($sum / $step ** 2), $small->at($x, $y));
                }
            }
        }
        self::assertSame(5, Plane::of(40, 40, str_repeat(chr(5), 1600))->reduced(0, 0, 2, 2, 16)->at(1, 1));
        $this->expectException(InvalidValue::class);
        $plane->reduced(0, 0, 0, 5, 1);
    }

    public function test_the_frame_is_found_at_which_what_lies_between_keys_fits_worst(): void
    {
        // it turns back half way, which two keys know nothing of
        $truth = static fn (int $k): Box => Box::of(60 + 2.0 * min($k, 40 - $k), 70, 60, 48);
        $track = Track::of([Key::of(0, $truth(0)), Key::of(40, $truth(40))], Places::stretch(0, 40));
        $fit = new Fit($track);
        for ($k = 0; $k <= 40; $k++) {
            $fit->frame($this->frame([$truth($k)]), 1.0, $k);
        }
        $judged = $fit->judged();
        self::assertSame(range(1, 39), (static function (array $places): array {
            sort($places);

            return $places;
        })(array_keys($judged)));
        self::assertGreaterThan(0.8, $judged[1]);
        self::assertLessThan(0.6, $judged[20]);
        $doubtful = $fit->doubtful(5);
        self::assertSame([5, array_key_first($judged)], [count($doubtful), array_key_first($doubtful)]);
        $off = [];
        foreach (array_keys($doubtful) as $k) {
            $off[$k] = $fit->placed($this->frame([$truth($k)]), 1.0, $k)->misfit ?? 0.0;
            self::assertEqualsWithDelta(1 - $truth($k)->iou($truth(0)), $off[$k], 0.1, "frame {$k}");
        }
        arsort($off);
        self::assertEqualsWithDelta(20, array_key_first($off), 5, 'near where it is farthest off');

        $found = $fit->placed($this->frame([$truth(15)]), 1.0, 15);
        self::assertNotNull($found);
        self::assertTrue($found->isSure());
        self::assertInstanceOf(Box::class, $found->shape);
        self::assertGreaterThan(0.93, $found->shape->iou($truth(15)));

        // with a key where it turns back all of it fits
        $mended = new Fit(Track::of([Key::of(0, $truth(0)), Key::of(20, $truth(20)), Key::of(40, $truth(40))], Places::stretch(0, 40)));
        for ($k = 0; $k <= 40; $k++) {
            $mended->frame($this->frame([$truth($k)]), 1.0, $k);
        }
        self::assertGreaterThan(0.9, min($mended->judged()));
    }

    public function test_what_is_hidden_or_even_all_over_is_not_judged(): void
    {
        $box = Box::of(60, 70, 60, 48);
        $track = Track::of([Key::of(0, $box), Key::of(5, $box, hidden: true), Key::of(10, $box), Key::of(15, $box)], Places::stretch(0, 20));
        $fit = new Fit($track);
        for ($k = 0; $k <= 20; $k++) {
            $fit->frame($this->frame([$box]), 1.0, $k);
        }
        self::assertSame([], array_intersect(array_keys($fit->judged()), [5, 6, 7, 8, 9]));
        self::assertArrayHasKey(20, $fit->judged(), 'behind the last key that one is held against it');

        // what the edge of the picture cuts off looks another way on each frame
        $edge = new Fit(Track::of([Key::of(0, Box::of(100, 70, 60, 48)), Key::of(10, Box::of(0, 70, 60, 48))], Places::stretch(0, 12)));
        for ($k = 0; $k <= 12; $k++) {
            $edge->frame($this->frame([Box::of(100 - 10.0 * $k, 70, 60, 48)]), 1.0, $k);
        }
        self::assertEqualsCanonicalizing(range(1, 9), array_keys($edge->judged()));
        self::assertGreaterThan(0.9, min($edge->judged()), 'by the key that is whole');
        self::assertSame('it fits nowhere near much better', $edge->placed($this->frame([Box::of(50, 70, 60, 48)]), 1.0, 5)?->unsure);

        $even = new Fit(Track::of([Key::of(0, $box)], Places::stretch(0, 2)));
        $grey = Plane::of(self::WIDTH, self::HEIGHT, str_repeat(chr(90), self::WIDTH * self::HEIGHT));
        for ($k = 0; $k <= 2; $k++) {
            $even->frame($grey, 1.0, $k);
        }
        self::assertSame([], $even->judged());
        self::assertNull($even->placed($grey, 1.0, 1));
    }
}
