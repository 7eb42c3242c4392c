<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Tracks;

use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeySource;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

/** What a track is between its keys, and tracks cut, joined and swapped. */
final class TrackShapesTest extends TestCase
{
    private static function key(int $place, float $x, bool $hidden = false, ?string $gait = null): Key
    {
        return Key::of($place, Box::of($x, 5, 20, 10), $gait === null ? [] : ['gait' => Answer::of($gait)], $hidden);
    }

    /** @return array<int, float> x by place */
    private static function xs(Track $track, int $first = 0, int $last = 200): array
    {
        $xs = [];
        foreach ($track->shapes($first, $last) as $place => $shape) {
            self::assertInstanceOf(Box::class, $shape);
            $xs[$place] = $shape->x;
        }

        return $xs;
    }

    public function test_a_shape_goes_evenly_from_key_to_key_and_holds_at_the_ends(): void
    {
        $track = Track::of([self::key(10, 0), self::key(14, 40), self::key(15, 0)], Places::stretch(8, 18));
        self::assertSame([8 => 0.0, 9 => 0.0, 10 => 0.0, 11 => 10.0, 12 => 20.0, 13 => 30.0, 14 => 40.0, 15 => 0.0, 16 => 0.0, 17 => 0.0, 18 => 0.0], self::xs($track));
        self::assertSame([12 => 20.0, 13 => 30.0], self::xs($track, 12, 13));
        self::assertNull($track->shape(7));
        self::assertNull($track->shape(19));
        self::assertSame([], self::xs(Track::of([Key::of(3, null, ['gait' => Answer::of('walks')])], Places::stretch(0, 9))), 'without a shape there is nothing to see');
    }

    public function test_nothing_moves_while_it_is_away(): void
    {
        $track = Track::of([self::key(0, 0), self::key(4, 40), self::key(22, 200), self::key(30, 0)], Places::fromArray([[0, 9], [20, 30], [40, 41]]));
        $xs = self::xs($track);
        self::assertSame([40.0, 40.0], [$xs[5], $xs[9]], 'up to the end of its stretch the last key holds');
        self::assertArrayNotHasKey(10, $xs);
        self::assertSame([200.0, 200.0, 100.0], [$xs[20], $xs[21], $xs[26]], 'from its beginning the first');
        self::assertSame([0.0, 0.0], [$xs[40], $xs[41]], 'a stretch without a key is as it was last');
        self::assertSame(7.0, Track::of([self::key(25, 7)], Places::fromArray([[0, 9], [20, 30]]))->shape(3)?->toArray()['x'], 'or as it will be first');
    }

    public function test_a_place_alone_and_in_its_row_are_the_same(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(5));
        for ($round = 0; $round < 40; $round++) {
            $track = self::some($random);
            $xs = self::xs($track);
            for ($place = 0; $place <= 200; $place++) {
                self::assertSame($xs[$place] ?? null, $track->shape($place)?->toArray()['x'], "round {$round}, {$place}");
                self::assertSame($track->there->has($place), isset($xs[$place]));
            }
            [$first, $last] = [$random->getInt(0, 200), $random->getInt(0, 200)];
            self::assertSame(array_filter($xs, static fn (int $place): bool => $place >= $first && $place <= $last, ARRAY_FILTER_USE_KEY), self::xs($track, $first, $last));
        }
    }

    private static function some(Randomizer $random): Track
    {
        $there = Places::none();
        for ($i = $random->getInt(1, 3); $i > 0; $i--) {
            $from = $random->getInt(0, 180);
            $there = $there->with(Places::stretch($from, $random->getInt($from, 200)));
        }
        $keys = [];
        for ($i = $random->getInt(1, 12); $i > 0; $i--) {
            [$from, $to] = $there->stretches[$random->getInt(0, count($there->stretches) - 1)];
            $place = $random->getInt($from, $to);
            $keys[$place] = $random->getInt(0, 4) === 0 && $keys !== [] ? Key::of($place, null, ['gait' => Answer::of("g{$i}")]) : self::key($place, $random->getInt(0, 500), $random->getInt(0, 3) === 0, $random->getInt(0, 1) === 0 ? "w{$i}" : null);
        }

        return Track::of(array_values($keys), $there);
    }

    /** All that is to be known of a track at each of its places. @return array<int, array{float, bool, mixed}> */
    private static function known(Track $track): array
    {
        $known = [];
        foreach (self::xs($track) as $place => $x) {
            $known[$place] = [round($x, 6), $track->isHidden($place), $track->answer('gait', $place)?->value];
        }

        return $known;
    }

    public function test_cut_and_joined_again_it_is_the_same_everywhere(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(17));
        $cuts = 0;
        for ($round = 0; $round < 300; $round++) {
            $track = self::some($random);
            $place = $random->getInt(1, 200);
            if ($track->before($place) === null || $track->there->without(Places::stretch($place, 200))->isEmpty() || ! array_filter($track->there->stretches, static fn (array $s): bool => $s[1] >= $place)) {
                continue;
            }
            $cuts++;
            [$one, $two] = $track->split($place);
            $known = self::known($track);
            self::assertSame($known, self::known($one) + self::known($two), "round {$round}, cut at {$place}");
            self::assertSame([], array_intersect_key(self::known($one), self::known($two)));
            self::assertSame($known, self::known($one->joined($two)), "round {$round}, joined at {$place}");
        }
        self::assertGreaterThan(100, $cuts);
    }

    public function test_a_cut_between_keys_leaves_keys_that_say_where_they_come_from(): void
    {
        [$one, $two] = Track::of([self::key(0, 0, false, 'walks'), self::key(10, 100)], Places::stretch(0, 20))->split(5);
        self::assertSame([[0, 4], [5, 10]], [array_keys($one->keys), array_keys($two->keys)]);
        self::assertSame([KeySource::Hand, KeySource::Copied, KeySource::Copied], [$one->keys[0]->source, $one->keys[4]->source, $two->keys[5]->source]);
        self::assertSame(['walks', 50.0], [$two->answer('gait', 5)?->value, $two->keys[5]->geometry?->toArray()['x']]);
        self::assertSame([0, 19], [$one->there->stretches[0][0], $two->there->stretches[0][1] - 1]);
        foreach ([0, 21] as $nowhere) {
            try {
                Track::of([self::key(0, 0)], Places::stretch(0, 20))->split($nowhere);
                self::fail('one of them would be nowhere');
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
    }

    public function test_ended_earlier_it_is_as_it_was_up_to_there(): void
    {
        $track = Track::of([self::key(0, 0), self::key(10, 100), self::key(20, 0)], Places::stretch(0, 30));
        $ended = $track->within(Places::stretch(0, 14));
        self::assertSame([0, 10, 14], array_keys($ended->keys));
        self::assertSame(array_slice(self::xs($track), 0, 15, true), self::xs($ended));
        $begun = $track->within(Places::fromArray([[5, 12], [25, 99]]));
        self::assertSame([[5, 12], [25, 30]], $begun->there->toArray());
        self::assertSame(array_filter(self::xs($track), static fn (int $p): bool => $p >= 5 && $p <= 12 || $p >= 25, ARRAY_FILTER_USE_KEY), self::xs($begun));
        $this->expectException(InvalidValue::class);
        $track->within(Places::stretch(40, 50));
    }

    public function test_a_track_nobody_has_drawn_yet_can_be_cut(): void
    {
        [$one, $two] = Track::of([], Places::stretch(0, 9))->split(4);
        self::assertSame([[], [], [[4, 9]]], [$one->keys, $two->keys, $two->there->toArray()]);
        [, $two] = Track::of([Key::of(3, null, ['gait' => Answer::of('walks')])], Places::stretch(0, 9))->split(6);
        self::assertSame('walks', $two->answer('gait', 6)?->value);
    }

    public function test_two_that_were_taken_for_each_other_are_swapped_from_where_they_met(): void
    {
        $a = Track::of([self::key(0, 0, false, 'walks'), self::key(20, 200)], Places::stretch(0, 20));
        $b = Track::of([self::key(0, 200, true, 'stands'), self::key(20, 0)], Places::stretch(0, 20));
        [$one, $two] = Track::swapped($a, $b, 10);
        [$ka, $kb] = [self::known($a), self::known($b)];
        self::assertSame(array_slice($ka, 0, 10, true) + array_slice($kb, 10, null, true), self::known($one));
        self::assertSame(array_slice($kb, 0, 10, true) + array_slice($ka, 10, null, true), self::known($two));
    }

    public function test_tracks_that_are_there_together_are_not_one(): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage('never there at the same place');
        Track::of([self::key(0, 0)], Places::stretch(0, 10))->joined(Track::of([self::key(10, 0)], Places::stretch(10, 20)));
    }
}
