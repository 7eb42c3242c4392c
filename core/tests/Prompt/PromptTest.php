<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Prompt;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookReader;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\PromptFigures;
use Skeno\Core\Prompt\Reply;
use Skeno\Core\Prompt\ReplyReader;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;
use Skeno\Core\Text\Text;

/** What a model is asked about texts, what of its reply can be used, and how good that is. */
final class PromptTest extends TestCase
{
    private const NOTE = "👩‍🌾 12 woolly aphids on the slope,\n3 woolly aphids below. Soap spray Monday.";

    private static function codebook(): Codebook
    {
        return CodebookReader::read([
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'pest', 'name' => 'Pest', 'shapes' => ['span'], 'description' => "What eats\nor sucks."],
                ['key' => 'count', 'name' => 'Count', 'shapes' => ['span']],
                ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']],
            ],
            'attributes' => [
                ['key' => 'urgency', 'name' => 'Urgency', 'type' => 'one', 'scope' => 'item', 'options' => [['key' => 'soon', 'name' => 'Within days', 'description' => 'It is getting worse.'], ['key' => 'today', 'name' => 'Today']]],
                ['key' => 'where', 'name' => 'Where', 'type' => 'many', 'scope' => 'item', 'options' => [['key' => 'slope', 'name' => 'The slope'], ['key' => 'wall', 'name' => 'Old wall']]],
                ['key' => 'trees', 'name' => 'Trees', 'type' => 'number', 'scope' => 'item', 'min' => 0, 'max' => 50],
                ['key' => 'treated', 'name' => 'Treated', 'type' => 'yesno', 'scope' => 'item'],
                ['key' => 'day', 'name' => 'Day', 'type' => 'date', 'scope' => 'item'],
            ],
            'tags' => [['key' => 'wet', 'name' => 'Wet leaves'], ['key' => 'windy', 'name' => 'Windy']],
        ]);
    }

    private static function read(string $said, ?Task $task = null): Reply
    {
        return ReplyReader::read($said, Text::of(self::NOTE), self::codebook(), $task ?? Task::all(self::codebook()));
    }

    /** @return list<string> */
    private static function spans(Reply $reply): array
    {
        $text = Text::of(self::NOTE);

        return array_map(static fn (array $one): string => "{$one['class']} {$one['span']->start} ".$text->words($one['span']), $reply->spans);
    }

    public function test_a_template_is_filled_in_from_the_codebook_and_nothing_else_in_it_is(): void
    {
        $codebook = self::codebook();
        $task = Task::all($codebook);
        self::assertSame(['classes' => ['pest', 'count'], 'questions' => ['urgency', 'where', 'trees', 'treated', 'day'], 'tags' => ['wet', 'windy']], $task->toArray());
        $filled = Template::of("Classes:\n{classes}\nAsk:\n{questions}\nTags:\n{tags}\n{form} {\"a\": {b}} {classes")->filled($codebook, $task);
        self::assertStringContainsString("Classes:\npest: Pest. What eats or sucks.\ncount: Count\n", $filled);
        self::assertStringContainsString("urgency: Urgency (one of its choices)\n  soon: Within days. It is getting worse.\n  today: Today\n", $filled);
        self::assertStringContainsString('trees: Trees (a number from 0 to 50)', $filled);
        self::assertStringContainsString("wet: Wet leaves\nwindy: Windy\n{\"spans\":[", $filled);
        self::assertStringEndsWith('{"a": {b}} {classes', $filled);
        // the form is one that is read without anything to mend
        $begun = Template::begun($task)->filled($codebook, $task);
        $form = substr($begun, (int) strrpos($begun, "\n") + 1);
        $read = self::read($form);
        self::assertSame(['the words as they stand there'], array_map(static fn (array $one): string => substr($one['why'], 1, 29), $read->left));
        self::assertSame([['urgency'], ['wet'], []], [array_keys($read->answers), $read->tags, $read->mended]);
        foreach (['', 'no place for a form', str_repeat('ä', Template::MOST + 1), "{form} \xff"] as $bad) {
            try {
                Template::of($bad);
                self::fail('it was taken: '.mb_strimwidth(mb_scrub($bad), 0, 30));
            } catch (InvalidValue) {
                $this->addToAssertionCount(1);
            }
        }
    }

    public function test_a_reply_is_held_against_what_was_asked_for_and_nothing_else(): void
    {
        $codebook = self::codebook();
        $task = Task::fromFields(Fields::of(['classes' => ['pest'], 'questions' => ['urgency'], 'tags' => ['wet']]), $codebook);
        $reply = new Reply([self::one('pest', 0, 6)], ['urgency' => Answer::of('soon')], [], [], []);
        $marks = [Mark::of('A', 'pest', Span::of(0, 6)), Mark::of('B', 'count', Span::of(8, 10)), Mark::of('C', 'pest', Box::of(0, 0, 5, 5))];
        $compared = Compared::reply($reply, $marks, ItemAnswers::of(['urgency' => Answer::of('soon'), 'trees' => Answer::of(3)], ['wet', 'windy']), $task);
        self::assertSame(['pest' => ['known' => 1, 'said' => 1, 'exact' => 1, 'overlapping' => 1]], $compared->counts());
        self::assertSame([['urgency' => true], ['wet' => ['known' => true, 'said' => false]]], [$compared->agreed(), $compared->tags]);
        self::assertSame('{"spans":[{"class":"pest","start":0,"end":6}],"answers":{"urgency":{"value":"soon"}},"tags":[]}', json_encode($reply->toArray()));
        self::assertSame('{"spans":[],"answers":{},"tags":[]}', json_encode((new Reply([], [], [], [], []))->toArray()));
    }

    public function test_an_answer_is_right_however_a_number_is_written_and_in_whatever_order_choices_are(): void
    {
        $known = ['a' => Answer::of(3), 'b' => Answer::of(['x', 'y']), 'c' => Answer::of('soon'), 'd' => Answer::of(true), 'e' => Answer::none(NoValue::Unsure), 'f' => Answer::of(1)];
        $said = ['a' => Answer::of(3.0), 'b' => Answer::of(['y', 'x']), 'c' => Answer::of('today'), 'e' => Answer::none(NoValue::Unsure), 'f' => Answer::of(true), 'g' => Answer::of('more')];
        self::assertSame(['a' => true, 'b' => true, 'c' => false, 'd' => false, 'e' => true, 'f' => false], Compared::of([], [], $known, $said)->agreed());
    }

    public function test_a_task_asks_for_what_the_codebook_has_for_texts(): void
    {
        $codebook = self::codebook();
        self::assertSame(['pest'], Task::fromFields(Fields::of(['classes' => ['pest', 'pest']]), $codebook)->classes);
        foreach ([['classes' => ['leaf']], ['classes' => ['nobody']], ['questions' => ['pest']], ['tags' => ['urgency']], []] as $bad) {
            try {
                Task::fromFields(Fields::of($bad), $codebook);
                self::fail('it was taken: '.json_encode($bad));
            } catch (InvalidValue) {
                $this->addToAssertionCount(1);
            }
        }
        self::assertSame(['pest'], Task::fromStored(Task::all($codebook)->toArray(), $codebook->only(['pest']))?->classes);
        self::assertNull(Task::fromStored(['classes' => ['count'], 'questions' => ['gone'], 'tags' => []], $codebook->only(['pest'])));
    }

    public function test_a_reply_that_is_right_is_taken_as_it_is(): void
    {
        $reply = self::read('{"spans":[{"class":"count","text":"12","start":4,"end":6},{"class":"pest","start":7,"end":20}],"answers":{"urgency":"soon","where":["slope"],"trees":4,"treated":true,"day":"2026-05-14"},"tags":["windy"]}');
        self::assertSame(['count 4 12', 'pest 7 woolly aphids'], self::spans($reply));
        self::assertEquals(['day' => Answer::of('2026-05-14'), 'treated' => Answer::of(true), 'trees' => Answer::of(4), 'urgency' => Answer::of('soon'), 'where' => Answer::of(['slope'])], $reply->answers);
        self::assertSame([['windy'], [], []], [$reply->tags, $reply->mended, $reply->left]);
    }

    /** @return iterable<string, array{string, list<string>, ?string, ?string}> the spans of a reply, what comes of them, what was mended and what left, in part */
    public static function lies(): iterable
    {
        $span = static fn (string $row): string => "{\"spans\":[{$row}],\"answers\":{},\"tags\":[]}";
        yield 'a fence and words round it' => ["Here you are:\n```json\n".$span('{"class":"count","text":"12","start":4,"end":6}')."\n```\nAnything else?", ['count 4 12'], 'words stood round its JSON', null];
        yield 'cut off' => ['{"spans":[{"class":"pest","te', [], null, 'it is no JSON'];
        yield 'nothing' => ['  ', [], null, 'it is empty'];
        yield 'a list' => ['[1,2]', [], null, 'it is no JSON'];
        yield 'deeper than anybody needs' => [str_repeat('[', 100_000), [], null, 'it is no JSON'];
        yield 'a class nobody has' => [$span('{"class":"weather","text":"12"}'), [], null, 'no class that was asked for: "weather"'];
        yield 'a class that is not for texts' => [$span('{"class":"leaf","text":"12"}'), [], null, 'no class that was asked for'];
        yield 'a class by its name' => [$span('{"class":"PEST","text":"Soap spray"}'), ['pest 58 Soap spray'], '"PEST" is pest', null];
        yield 'wrong offsets, words that are there once' => [$span('{"class":"pest","text":"Soap spray","start":3,"end":9}'), ['pest 58 Soap spray'], 'its offsets did not fit', null];
        yield 'words that are there twice, offsets in UTF-16' => [$span('{"class":"pest","text":"woolly aphids","start":9,"end":22}'), ['pest 7 woolly aphids'], 'in bytes or in UTF-16', null];
        yield 'words that are there twice, offsets in bytes' => [$span('{"class":"pest","text":"woolly aphids","start":45,"end":58}'), ['pest 37 woolly aphids'], 'in bytes or in UTF-16', null];
        yield 'words that are there twice, no offsets' => [$span('{"class":"pest","text":"woolly aphids"}'), [], null, 'is in the text 2 times'];
        yield 'other letters and spaces' => [$span('{"class":"pest","text":"SOAP  spray"}'), ['pest 58 Soap spray'], 'in other letters', null];
        yield 'over the end of a line' => [$span('{"class":"pest","text":"the slope, 3"}'), ["pest 24 the slope,\n3"], 'in other letters', null];
        yield 'words that are not there' => [$span('{"class":"pest","text":"codling moths"}'), [], null, 'is not in the text'];
        yield 'neither words nor offsets' => [$span('{"class":"pest","start":-4,"end":900}'), [], null, 'no words, and no offsets'];
        yield 'offsets turned round' => [$span('{"class":"pest","start":20,"end":7}'), [], null, 'no words, and no offsets'];
        yield 'twice the same' => [$span('{"class":"count","text":"12","start":4,"end":6},{"class":"count","text":"12"}'), ['count 4 12'], 'there twice', null];
        yield 'what is no span' => [$span('"pest",7,null'), [], null, 'it is no object'];
        yield 'no list' => ['{"spans":"none","answers":{},"tags":[]}', [], null, 'they are no list'];
        yield 'none at all' => ['{}', [], null, 'not even an empty list'];
    }

    /** @param  list<string>  $spans */
    #[DataProvider('lies')]
    public function test_what_has_one_meaning_is_mended_and_the_rest_is_left_out_and_said(string $said, array $spans, ?string $mended, ?string $left): void
    {
        $reply = self::read($said);
        self::assertSame($spans, self::spans($reply));
        $mended === null ? self::assertSame([], $reply->mended) : self::assertStringContainsString($mended, implode('; ', array_column($reply->mended, 'how')));
        $left === null ? self::assertSame([], $reply->left) : self::assertStringContainsString($left, implode('; ', array_column($reply->left, 'why')));
    }

    public function test_answers_and_tags_in_other_words_are_mended_where_they_mean_one_thing(): void
    {
        $reply = self::read('{"spans":[],"answers":{"Urgency":"within days","where":"old wall","trees":"12","treated":"No","day":"14 May","mood":"bad"},"tags":["WET LEAVES","sunny","wet"]}');
        self::assertEquals(['treated' => Answer::of(false), 'trees' => Answer::of(12), 'urgency' => Answer::of('soon'), 'where' => Answer::of(['wall'])], $reply->answers);
        self::assertSame(['wet'], $reply->tags);
        self::assertSame(['answer "day"', 'answer "mood"', 'tag 2'], array_column($reply->left, 'what'));
        $reply = self::read('{"spans":[],"answers":{"urgency":["soon"],"trees":900,"where":["slope","moon"],"treated":null,"day":{"a":1}},"tags":{"wet":true}}');
        self::assertSame([[], []], [$reply->answers, $reply->tags]);
        self::assertCount(6, $reply->left);
        // what was not asked for is not looked at
        $reply = self::read('{"tags":["wet"],"spans":"whatever"}', Task::fromFields(Fields::of(['tags' => ['wet']]), self::codebook()));
        self::assertSame([['wet'], []], [$reply->tags, $reply->left]);
    }

    public function test_a_reply_as_long_as_a_hostile_server_likes_costs_little(): void
    {
        $rows = implode(',', array_fill(0, 20_000, '{"class":"weather","text":"'.str_repeat('a', 40).'"}'));
        $reply = self::read("{\"spans\":[{$rows}],\"answers\":{},\"tags\":[]}");
        self::assertSame([], $reply->spans);
        self::assertLessThanOrEqual(200, count($reply->left));
        self::assertStringContainsString('longer than 2 MB', self::read(str_repeat(' ', ReplyReader::MOST_BYTES + 1))->left[0]['why']);
    }

    /** @return array{class: string, span: Span} */
    private static function one(string $class, int $start, int $end): array
    {
        return ['class' => $class, 'span' => Span::of($start, $end)];
    }

    public function test_what_was_said_is_held_against_what_is_known(): void
    {
        $compared = Compared::of(
            [self::one('pest', 0, 5), self::one('pest', 10, 20), self::one('count', 30, 32), self::one('pest', 40, 50)],
            [self::one('pest', 0, 5), self::one('pest', 12, 20), self::one('pest', 19, 25), self::one('pest', 30, 32), self::one('count', 60, 61)],
            ['urgency' => Answer::of('soon'), 'trees' => Answer::of(3)], ['urgency' => Answer::of('today')], ['wet'], ['wet', 'windy'],
        );
        self::assertSame(['count' => ['known' => 1, 'said' => 1, 'exact' => 0, 'overlapping' => 0], 'pest' => ['known' => 3, 'said' => 4, 'exact' => 1, 'overlapping' => 2]], $compared->counts());
        $shown = array_map(static fn (array $pair): string => "{$pair['class']} ".($pair['known'] === null ? '-' : "{$pair['known']->start}-{$pair['known']->end}").' '.($pair['said'] === null ? '-' : "{$pair['said']->start}-{$pair['said']->end}"), $compared->pairs);
        self::assertSame(['pest 0-5 0-5', 'pest 10-20 12-20', 'pest - 19-25', 'count 30-32 -', 'pest - 30-32', 'pest 40-50 -', 'count - 60-61'], $shown);
        self::assertEquals(['trees' => ['known' => Answer::of(3), 'said' => null], 'urgency' => ['known' => Answer::of('soon'), 'said' => Answer::of('today')]], $compared->answers);
        self::assertSame(['wet' => ['known' => true, 'said' => true], 'windy' => ['known' => false, 'said' => true]], $compared->tags);
    }

    /** Every span of either side is in one pair, pairs are of one class and overlap, and no two that are left could have been one. */
    public function test_pairs_are_whole_on_anything(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(14));
        for ($round = 0; $round < 200; $round++) {
            $make = static function () use ($random): array {
                $list = [];
                for ($n = $random->getInt(0, 12); $n > 0; $n--) {
                    $start = $random->getInt(0, 40);
                    $end = $start + $random->getInt(1, 15);
                    $class = ['pest', 'count'][$random->getInt(0, 1)];
                    $list["{$class} {$start} {$end}"] = self::one($class, $start, $end);
                }

                return array_values($list);
            };
            [$known, $said] = [$make(), $make()];
            $pairs = Compared::of($known, $said)->pairs;
            $name = static fn (string $class, Span $span): string => "{$class} {$span->start} {$span->end}";
            foreach (['known' => $known, 'said' => $said] as $side => $all) {
                $there = array_map(static fn (array $pair): string => $name($pair['class'], $pair[$side] ?? Span::of(0, 1)), array_filter($pairs, static fn (array $pair): bool => $pair[$side] !== null));
                $want = array_map(static fn (array $one): string => $name($one['class'], $one['span']), $all);
                sort($there);
                sort($want);
                self::assertSame($want, $there);
            }
            $lonely = ['known' => [], 'said' => []];
            foreach ($pairs as $pair) {
                if ($pair['known'] !== null && $pair['said'] !== null) {
                    self::assertTrue($pair['known']->overlaps($pair['said']));
                } else {
                    $lonely[$pair['known'] === null ? 'said' : 'known'][] = $pair;
                }
            }
            foreach ($lonely['known'] as $one) {
                foreach ($lonely['said'] as $other) {
                    self::assertFalse($one['class'] === $other['class'] && $one['known']?->overlaps($other['said'] ?? Span::of(900, 901)) === true);
                }
            }
        }
    }

    public function test_figures_by_hand(): void
    {
        $items = [
            ['pest' => ['known' => 3, 'said' => 2, 'exact' => 1, 'overlapping' => 2], 'count' => ['known' => 1, 'said' => 1, 'exact' => 1, 'overlapping' => 1]],
            ['pest' => ['known' => 1, 'said' => 2, 'exact' => 1, 'overlapping' => 1]],
            [],
        ];
        $pest = PromptFigures::ofSpans($items, 'pest');
        self::assertSame([4, 4, 0.5, 0.5, 0.5, 0.75], [$pest['known'], $pest['said'], $pest['exact']['precision']?->value, $pest['exact']['recall']?->value, $pest['exact']['f1']?->value, $pest['overlapping']['f1']?->value]);
        self::assertGreaterThanOrEqual($pest['exact']['f1']?->low, $pest['exact']['f1']?->value);
        self::assertEqualsWithDelta(3 / 5, PromptFigures::ofSpans($items, null)['exact']['precision']?->value, 1e-9);
        $none = PromptFigures::ofSpans($items, 'block');
        self::assertSame([0, 0, null, null, null], [$none['known'], $none['said'], ...array_values($none['exact'])]);
        self::assertNull(PromptFigures::ofSpans([], 'pest')['exact']['f1']);

        $agreement = PromptFigures::agreement([true, false, null, true, true]);
        self::assertSame(0.75, $agreement?->value);
        self::assertLessThan(0.75, $agreement->low);
        self::assertNull(PromptFigures::agreement([null, null]));
    }
}
