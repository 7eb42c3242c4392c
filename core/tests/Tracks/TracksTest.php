<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Tracks;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeyEdit;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Saying;
use Skeno\Core\Tracks\Track;

final class TracksTest extends TestCase
{
    private static function key(int $place, float $x = 0, array $answers = []): Key
    {
        return Key::of($place, Box::of($x, 5, 20, 10), $answers);
    }

    private static function long(): Track
    {
        return Track::of(array_map(static fn (int $i): Key => self::key(10 * $i, $i), range(0, 999)), Places::stretch(0, 10_000));
    }

    /** Two people at one track of 1,000 keys: each changes every other key, in turns, and nobody meets the other. */
    public function test_two_people_on_different_keys_never_meet(): void
    {
        $track = self::long();
        foreach (range(0, 999) as $i) {
            // each knows the track only as it was when they opened it: every key at revision 1
            $track = $track->edited(new KeyEdit(10 * $i, 1, self::key(10 * $i, $i % 2 === 0 ? 100 : 200)));
            self::assertNotNull($track);
        }
        self::assertCount(1000, $track->keys);
        self::assertSame([100.0, 200.0, 2], [$track->keys[0]->geometry->x, $track->keys[10]->geometry->x, $track->keys[9990]->revision]);
    }

    public function test_two_people_on_the_same_key_meet(): void
    {
        $first = self::long()->edited(new KeyEdit(50, 1, self::key(50, 70)));
        self::assertNotNull($first);
        self::assertNull($first->edited(new KeyEdit(50, 1, self::key(50, 80))), 'the second has not seen the first');
        self::assertSame(70.0, $first->keys[50]->geometry->x);
        self::assertNull($first->edited(new KeyEdit(50, 1, null)), 'nor may it be taken away under the other\'s hand');
        self::assertArrayNotHasKey(50, $first->edited(new KeyEdit(50, 2, null))->keys ?? [50 => 1]);
        self::assertSame(1, $first->edited(new KeyEdit(55, 0, self::key(55)))?->keys[55]->revision, 'a new key between others');
        self::assertNull($first->edited(new KeyEdit(60, 0, self::key(60))), 'where there is one already');
    }

    public function test_a_track_says_what_holds_at_a_place(): void
    {
        $track = Track::of([self::key(20, 2, ['gait' => Answer::of('walks')]), self::key(10, 1), Key::of(15, null, ['gait' => Answer::of('stands')])], Places::fromArray([[10, 30], [50, 60]]));
        self::assertSame([null, 10, 10, 20], [$track->before(9)?->place, $track->before(10)?->place, $track->before(16)?->place, $track->before(55)?->place]);
        self::assertSame([10, 20, null], [$track->after(0)?->place, $track->after(15)?->place, $track->after(20)?->place]);
        self::assertSame([null, 'stands', 'walks'], [$track->answer('gait', 12)?->value, $track->answer('gait', 19)?->value, $track->answer('gait', 60)?->value], 'the last value holds until it is switched');
        $this->expectException(InvalidValue::class);
        $track->edited(new KeyEdit(40, 0, self::key(40)));
    }

    /** @return iterable<string, array{\Closure(): mixed}> */
    public static function wrong(): iterable
    {
        yield 'two keys at one place' => [static fn () => Track::of([self::key(1), self::key(1)], Places::stretch(0, 5))];
        yield 'a key where it is not there' => [static fn () => Track::of([self::key(9)], Places::stretch(0, 5))];
        yield 'a key that says nothing' => [static fn () => Key::of(1, null)];
        yield 'a key before the first place' => [static fn () => Key::of(-1, Box::of(0, 0, 1, 1))];
        yield 'too sure' => [static fn () => Key::of(1, Box::of(0, 0, 1, 1), confidence: 1.5)];
        yield 'a stretch backwards' => [static fn () => Places::stretch(5, 4)];
        yield 'no stretch' => [static fn () => Places::fromArray([[1, 'x']])];
        yield 'no list' => [static fn () => Places::fromArray(['a' => [1, 2]])];
    }

    /** @param  \Closure(): mixed  $make */
    #[DataProvider('wrong')]
    public function test_what_is_no_track_is_refused(\Closure $make): void
    {
        $this->expectException(InvalidValue::class);
        $make();
    }

    public function test_places_are_what_sets_of_numbers_are(): void
    {
        mt_srand(3);
        for ($round = 0; $round < 300; $round++) {
            $places = Places::none();
            $true = [];
            for ($n = 0; $n < 8; $n++) {
                $first = mt_rand(0, 30);
                $stretch = Places::stretch($first, $first + mt_rand(0, 6));
                $numbers = array_fill_keys(range($stretch->stretches[0][0], $stretch->stretches[0][1]), true);
                if (mt_rand(0, 1) === 1) {
                    $places = $places->with($stretch);
                    $true += $numbers;
                } else {
                    $places = $places->without($stretch);
                    $true = array_diff_key($true, $numbers);
                }
                self::assertSame(count($true), $places->count());
                foreach (range(0, 40) as $place) {
                    self::assertSame(isset($true[$place]), $places->has($place));
                }
            }
            for ($i = 1; $i < count($places->stretches); $i++) {
                self::assertGreaterThan($places->stretches[$i - 1][1] + 1, $places->stretches[$i][0], 'stretches never touch');
            }
            self::assertEquals($places, Places::fromArray(array_reverse($places->toArray())));
        }
    }

    /** As a hostile list would have them: many, in no order, on top of each other. */
    public function test_many_stretches_in_any_order_are_read_as_what_they_cover(): void
    {
        $numbers = range(0, 29_999);
        mt_srand(7);
        shuffle($numbers);
        $every = Places::fromArray(array_map(static fn (int $n): array => [3 * $n, 3 * $n + 1], $numbers));
        self::assertSame([30_000, 60_000, [0, 1], [89_997, 89_998]], [count($every->stretches), $every->count(), $every->stretches[0], $every->stretches[29_999]]);
        $gaps = Places::stretch(0, 89_999)->without($every);
        self::assertSame([30_000, 30_000, [2, 2]], [count($gaps->stretches), $gaps->count(), $gaps->stretches[0]]);
        self::assertTrue($every->without($every)->isEmpty());
        self::assertSame([[0, 89_999]], $every->with($gaps)->toArray());
        self::assertSame($every->toArray(), $every->without($gaps)->toArray());
    }

    public function test_a_new_answer_cuts_the_one_that_holds_there(): void
    {
        [$calm, $windy, $wet] = [Answer::of('calm'), Answer::of('windy'), Answer::of('wet')];
        $said = Saying::none()->say(0, 99, $calm)->say(40, 59, $windy);
        self::assertSame([[0, 39], [40, 59], [60, 99]], array_map(static fn (array $s): array => [$s['first'], $s['last']], $said->stretches));
        $switched = $said->switch(70, $wet, 200);
        self::assertSame(['calm', 'wet', 'wet', null], [$switched->at(69)?->value, $switched->at(70)?->value, $switched->at(99)?->value, $switched->at(100)?->value], 'to where the one before would have ended');
        self::assertSame([[120, 149]], $said->say(150, 200, $calm)->say(100, 119, $calm)->gaps(0, 180)->toArray());
        self::assertCount(2, $said->say(150, 200, $calm)->switch(110, $wet, 500)->gaps(0, 200)->count() === 10 ? [1, 2] : []);
        self::assertSame([[0, 99]], array_map(static fn (array $s): array => [$s['first'], $s['last']], $said->say(40, 59, $calm)->stretches), 'what says the same is one');
        self::assertNull($said->say(10, 20, null)->at(15));
    }

    /** Against the plain thing: an array with an answer for each place. */
    public function test_stretches_say_what_an_array_of_places_says(): void
    {
        mt_srand(9);
        $words = ['a', 'b', 'c', null];
        for ($round = 0; $round < 200; $round++) {
            $said = Saying::none();
            $true = [];
            for ($n = 0; $n < 12; $n++) {
                $first = mt_rand(0, 40);
                $last = $first + mt_rand(0, 15);
                $word = $words[mt_rand(0, 3)];
                $said = $said->say($first, $last, $word === null ? null : Answer::of($word));
                foreach (range($first, $last) as $place) {
                    $true[$place] = $word;
                }
            }
            foreach (range(0, 60) as $place) {
                self::assertSame($true[$place] ?? null, $said->at($place)?->value);
            }
            for ($i = 1; $i < count($said->stretches); $i++) {
                self::assertGreaterThan($said->stretches[$i - 1]['last'], $said->stretches[$i]['first'], 'they never overlap');
            }
        }
    }
}
