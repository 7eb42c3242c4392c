<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Marks\Along;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Stretch;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

final class AlongTest extends TestCase
{
    public function test_a_question_of_frames_is_gone_through_with_its_gaps(): void
    {
        $said = ItemAnswers::of([], [], [
            Stretch::answer('light', Answer::of('sun'), 10, 19),
            Stretch::answer('light', Answer::of('shade'), 20, 29),
            Stretch::answer('wind', Answer::of('calm'), 0, 99),
            Stretch::tag('light', 3, 5),
        ]);
        self::assertSame([[0, 9, null], [10, 19, 'sun'], [20, 29, 'shade'], [30, 49, null]], self::plain(Along::ofItem($said, 'light', 50)));
        self::assertSame([[0, 49, null]], self::plain(Along::ofItem(ItemAnswers::none(), 'light', 50)));
        self::assertSame([[0, 99, 'calm']], self::plain(Along::ofItem($said, 'wind', 100)));
        self::assertSame([[3, 5, null]], self::plain(Along::ofTag($said, 'light')), 'a tag of the same key is another subject');
    }

    public function test_an_answer_of_an_object_holds_until_another_is_given_also_while_it_is_away(): void
    {
        $box = Box::of(0, 0, 10, 10);
        $key = static fn (int $place, ?string $answer): Key => Key::of($place, $box, $answer === null ? [] : ['load' => Answer::of($answer)]);
        $track = Track::of([$key(2, null), $key(8, 'empty'), $key(12, 'empty'), $key(40, 'full')], Places::fromArray([[2, 15], [30, 50], [60, 61]]));

        self::assertSame([[2, 7, null], [8, 39, 'empty'], [40, 61, 'full']], self::plain(Along::ofTrack($track, 'load')));
        self::assertSame([[2, 61, null]], self::plain(Along::ofTrack($track, 'ripe')));
        $away = Track::of([$key(2, 'empty'), $key(30, 'full')], Places::fromArray([[2, 15], [30, 50]]));
        self::assertSame([[2, 15, 'empty'], [30, 50, 'full']], self::plain(Along::ofTrack($away, 'load')), 'an end is a place at which it is there');
    }

    public function test_it_says_at_every_place_what_the_track_says(): void
    {
        mt_srand(7);
        $box = Box::of(0, 0, 10, 10);
        for ($round = 0; $round < 60; $round++) {
            $there = Places::none();
            for ($i = mt_rand(1, 4); $i > 0; $i--) {
                $first = mt_rand(0, 60);
                $there = $there->with(Places::stretch($first, $first + mt_rand(0, 20)));
            }
            $keys = [];
            for ($place = 0; $place < 82; $place++) {
                if ($there->has($place) && mt_rand(0, 5) === 0) {
                    $keys[] = Key::of($place, $box, mt_rand(0, 1) === 0 ? [] : ['q' => Answer::of(['a', 'b'][mt_rand(0, 1)])]);
                }
            }
            $track = Track::of($keys, $there);
            $said = [];
            foreach (Along::ofTrack($track, 'q') as $stretch) {
                self::assertTrue($there->has($stretch['first']) && $there->has($stretch['last']));
                for ($place = $stretch['first']; $place <= $stretch['last']; $place++) {
                    self::assertArrayNotHasKey($place, $said);
                    $said[$place] = $stretch['answer']?->value;
                }
            }
            for ($place = 0; $place < 82; $place++) {
                if ($there->has($place)) {
                    self::assertArrayHasKey($place, $said);
                    self::assertSame($track->answer('q', $place)?->value, $said[$place], "round {$round}, place {$place}");
                }
            }
        }
    }

    public function test_an_object_is_looked_at_where_it_is_seen_best_in_the_stretch(): void
    {
        $keys = [Key::of(0, Box::of(0, 0, 90, 90)), Key::of(10, Box::of(0, 0, 20, 20)), Key::of(20, Box::of(0, 0, 50, 50), hidden: true), Key::of(30, Box::of(0, 0, 10, 10))];
        self::assertSame(10, Along::face($keys, 5, 29));
        self::assertSame(20, Along::face($keys, 12, 29), 'hidden where it is nowhere else');
        self::assertSame(11, Along::face($keys, 11, 15));
    }

    /**
     * @param  list<array{first: int, last: int, answer: ?Answer}>  $all
     * @return list<array{int, int, mixed}>
     */
    private static function plain(array $all): array
    {
        return array_map(static fn (array $one): array => [$one['first'], $one['last'], $one['answer']?->value], $all);
    }
}
