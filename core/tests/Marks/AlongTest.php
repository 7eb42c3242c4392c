<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\Remap;
use Skeno\Core\Marks\Stretch;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Face;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/** What is said along the axis of an item, and marks that are tracks along it. */
final class AlongTest extends TestCase
{
    private static function codebook(string $wind = 'wind', string $blocked = 'blocked'): Codebook
    {
        return Codebook::fromArray([
            'skeno' => 'codebook/1',
            'classes' => [['key' => 'bin', 'name' => 'Bin', 'shapes' => ['box']]],
            'attributes' => [
                ['key' => $wind, 'name' => 'Wind', 'type' => 'one', 'scope' => 'frame', 'required' => true, 'options' => [['key' => 'calm', 'name' => 'Calm'], ['key' => 'gust', 'name' => 'Gust']]],
                ['key' => 'note', 'name' => 'Note', 'type' => 'text', 'scope' => 'item'],
            ],
            'tags' => [['key' => $blocked, 'name' => 'Blocked', 'scope' => 'stretch', 'group' => 'view'], ['key' => 'clear', 'name' => 'Clear', 'scope' => 'stretch', 'group' => 'view']],
        ]);
    }

    /**
     * @param  list<Finding>  $findings
     * @return list<array{string, ?int}>
     */
    private static function told(array $findings): array
    {
        return array_map(static fn (Finding $finding): array => [$finding->code, $finding->place], $findings);
    }

    public function test_a_question_that_is_required_has_an_answer_at_every_place(): void
    {
        $check = new MarkCheck(self::codebook());
        $of = static fn (Stretch ...$stretches): array => $check->along(ItemAnswers::of([], [], array_values($stretches)), 100);
        $calm = static fn (int $first, int $last): Stretch => Stretch::answer('wind', Answer::of('calm'), $first, $last);
        self::assertSame([], $of($calm(0, 99)));
        self::assertSame([], $of($calm(50, 99), $calm(0, 49)));
        self::assertSame([['answer_missing', 0]], self::told($of()));
        $found = $of($calm(0, 9), $calm(20, 29), $calm(31, 98));
        self::assertSame([['answer_missing', 10]], self::told($found));
        self::assertSame('Wind is not answered from frame 11 to 20 and at 2 more places', $found[0]->message);
        self::assertSame('wind', $found[0]->attribute);
        self::assertSame([['answer_not_allowed', 0]], self::told($of(Stretch::answer('wind', Answer::of('storm'), 0, 99))));
        self::assertSame([['answer_unknown', 3]], self::told($of($calm(0, 99), Stretch::answer('note', Answer::of('x'), 3, 4))));
        self::assertSame([['tag_unknown', 7]], self::told($of($calm(0, 99), Stretch::tag('fog', 7, 9))));
        self::assertSame([['tags_exclude', 15]], self::told($of($calm(0, 99), Stretch::tag('blocked', 10, 20), Stretch::tag('clear', 15, 30))));
        self::assertSame([], $of($calm(0, 99), Stretch::tag('blocked', 10, 14), Stretch::tag('clear', 15, 30)));
        // a picture is asked nothing along an axis
        self::assertSame([], $check->item([], 10, 10, ItemAnswers::none()));
    }

    public function test_stretches_of_one_subject_never_lie_over_each_other(): void
    {
        $said = ItemAnswers::fromArray(['stretches' => [['tag' => 'clear', 'first' => 30, 'last' => 40], ['tag' => 'blocked', 'first' => 5, 'last' => 35], ['question' => 'wind', 'first' => 0, 'last' => 35, 'answer' => ['value' => 'calm']]]]);
        self::assertSame([0, 5, 30], array_map(static fn (Stretch $stretch): int => $stretch->first, $said->stretches));
        self::assertEquals($said, ItemAnswers::fromArray($said->toArray()));
        foreach ([
            [['tag' => 'a', 'first' => 1, 'last' => 5], ['tag' => 'a', 'first' => 5, 'last' => 6]],
            [['tag' => 'a', 'first' => 5, 'last' => 4]], [['tag' => 'a', 'first' => -1, 'last' => 4]], [['tag' => 'a', 'first' => 1]], [['first' => 1, 'last' => 2]],
            [['tag' => 'a', 'question' => 'b', 'first' => 1, 'last' => 2]], [['question' => 'b', 'first' => 1, 'last' => 2]], ['nothing'], 'nothing',
        ] as $wrong) {
            try {
                ItemAnswers::fromArray(['stretches' => $wrong]);
                self::fail('taken: '.json_encode($wrong));
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
        foreach ([null, 40] as $places) {
            try {
                MarkCheck::admitSaid($said, $places);
                self::fail('more places than there are');
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
        MarkCheck::admitSaid($said, 41);
    }

    public function test_what_varies_is_said_from_where_a_track_begins(): void
    {
        $check = new MarkCheck(Codebook::fromArray([
            'skeno' => 'codebook/1', 'classes' => [['key' => 'bin', 'name' => 'Bin', 'shapes' => ['box'], 'attributes' => ['load', 'kind']]],
            'attributes' => [
                ['key' => 'load', 'name' => 'Load', 'type' => 'yesno', 'scope' => 'object', 'required' => true, 'varies' => true],
                ['key' => 'kind', 'name' => 'Kind', 'type' => 'yesno', 'scope' => 'object'],
            ],
        ]));
        $track = static fn (int $from, mixed $load, string $question = 'load'): Mark => Mark::along(Samples::id(1), 'bin', [Key::of(3, Box::of(1, 1, 5, 5), $from === 3 ? [$question => Answer::of($load)] : []), ...($from === 3 ? [] : [Key::of($from, null, [$question => Answer::of($load)])])], Places::stretch(3, 20));
        self::assertSame([], $check->item([$track(3, true)], 50, 50, null, 30));
        self::assertSame([['answer_missing', null]], self::told($check->item([$track(8, true)], 50, 50, null, 30)));
        self::assertSame([['answer_not_allowed', 3], ['answer_not_allowed', null]], self::told($check->item([$track(3, 'much')], 50, 50, null, 30)));
        self::assertContains(['answer_not_allowed', 8], self::told($check->item([$track(8, true, 'kind')], 50, 50, null, 30)));
    }

    public function test_they_go_into_the_words_of_a_new_codebook(): void
    {
        $remap = new Remap(new Translation(self::codebook(), self::codebook('breeze', 'covered'), Mapping::fromArray(['question:wind' => 'breeze', 'tag:blocked' => 'covered'])));
        $said = ItemAnswers::of([], [], [Stretch::answer('wind', Answer::of('gust'), 0, 9), Stretch::tag('blocked', 2, 4), Stretch::tag('gone', 1, 1)]);
        // (what neither has is kept for the check to find)
        self::assertSame(['question breeze', 'tag gone', 'tag covered'], array_map(static fn (Stretch $stretch): string => $stretch->subject(), $remap->said($said)->stretches));
    }

    public function test_a_mark_on_an_item_with_an_axis_is_a_track_along_it(): void
    {
        $check = new MarkCheck(self::codebook());
        $track = Mark::along(Samples::id(1), 'bin', [Key::of(3, Box::of(1, 1, 5, 5)), Key::of(9, Box::of(1, 1, 8, 8))], Places::stretch(3, 20));
        $plain = Mark::of(Samples::id(2), 'bin', Box::of(1, 1, 5, 5));
        $check->admit($track, 100, 100, places: 21);
        $check->admit($plain, 100, 100);
        foreach ([[$track, 20], [$track, null], [$plain, 21], [$track->through(9, Places::none(), []), 21], [$track->through(null, Places::stretch(3, 20), []), 21]] as [$mark, $places]) {
            try {
                $check->admit($mark, 100, 100, places: $places);
                self::fail('taken');
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
        // its face is the key where it is seen best, and hidden ones last
        self::assertSame(9, $track->place);
        self::assertSame(3, Face::among([Key::of(3, Box::of(1, 1, 5, 5)), Key::of(9, Box::of(1, 1, 8, 8), hidden: true)])?->place);
        self::assertNull(Face::among([Key::of(3, null, ['x' => Answer::of(true)])]));
        // each fault once, at its first place
        $bad = Mark::along(Samples::id(3), 'bin', [Key::of(3, Box::of(-20, 1, 40, 5)), Key::of(5, Box::of(1, 1, 5, 5)), Key::of(9, Box::of(-20, 1, 40, 5)), Key::of(30, Box::of(-20, 1, 40, 5))], Places::stretch(3, 20));
        $found = $check->item([$bad], 100, 100, null, 40);
        self::assertSame([['outside', 3]], self::told($found));
        self::assertStringEndsWith('at frame 4 and 1 more', $found[0]->message);
    }
}
