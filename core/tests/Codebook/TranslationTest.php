<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Codebook;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Census;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookChange;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\Remap;
use Skeno\Core\Tests\Samples;

final class TranslationTest extends TestCase
{
    /**
     * @param  callable(array<string, mixed>): array<string, mixed>  $change
     * @param  array<string, ?string>  $mapping
     */
    private static function translation(callable $change, array $mapping = []): Translation
    {
        return new Translation(Samples::codebook(), Codebook::fromArray($change(Samples::document())), Mapping::fromArray($mapping));
    }

    public function test_a_change_nobody_is_hurt_by_says_nothing(): void
    {
        $change = CodebookChange::of(self::translation(static function (array $document): array {
            array_splice($document['classes'], 1, 1);

            return $document;
        }), new Census(['apple' => ['box' => 4]]));
        self::assertSame([], $change->orphans());
        self::assertSame([], $change->report());
        self::assertFalse($change->rewrites());
    }

    public function test_what_has_no_place_is_an_orphan_with_its_count_and_choices(): void
    {
        $change = CodebookChange::of(self::translation(static function (array $document): array {
            $document['classes'][1] = ['key' => 'leaf_scab', 'name' => 'leaf scab', 'shapes' => ['box']];
            $document['attributes'][0]['options'][0] = ['key' => 'unripe', 'name' => 'Unripe'];

            return $document;
        }), new Census(
            ['apple' => ['box' => 4], 'scab' => ['box' => 3], 'blurred' => ['box' => 0]],
            ['apple' => ['ripeness' => ['{"value":"green"}' => 2, '{"value":"ripe"}' => 1, '{"no_value":"unsure"}' => 1]]],
        ));
        self::assertSame([['answer:ripeness=green', 2], ['class:scab', 3]], array_map(static fn (array $orphan): array => [$orphan['address'], $orphan['count']], $change->orphans()));
        self::assertSame(['apple', 'leaf_scab', 'blurred'], array_column($change->orphans()[1]['choices'], 'key'));
        self::assertSame('leaf_scab', $change->orphans()[1]['guess']);
        self::assertSame(['unripe', 'ripe', '?not_visible', '?unsure'], array_column($change->orphans()[0]['choices'], 'key'));
        self::assertStringContainsString('3 marks of "Leaf scab" would have no place', $change->orphans()[1]['message']);
    }

    public function test_a_mapping_settles_orphans_and_the_marks_follow_it(): void
    {
        $translation = self::translation(static function (array $document): array {
            $document['classes'][0]['key'] = 'fruit';
            $document['classes'][0]['name'] = 'Fruit';
            $document['classes'][0]['attributes'] = ['stage', 'damage', 'crack_length', 'shaded'];
            $document['attributes'][0] = ['key' => 'stage', 'name' => 'Stage', 'type' => 'one', 'scope' => 'object', 'required' => true, 'no_value' => ['unsure'], 'options' => [['key' => 'early', 'name' => 'Early'], ['key' => 'late', 'name' => 'Late']]];
            array_splice($document['classes'], 1, 1);

            return $document;
        }, ['class:apple' => 'fruit', 'class:scab' => null, 'question:ripeness' => 'stage', 'answer:ripeness=green' => 'early', 'answer:ripeness=ripe' => 'late', 'answer:ripeness=?not_visible' => '?unsure', 'answer:damage=bird' => null]);
        $change = CodebookChange::of($translation, new Census(
            ['apple' => ['box' => 5], 'scab' => ['box' => 2]],
            ['apple' => ['ripeness' => ['{"value":"green"}' => 3, '{"no_value":"not_visible"}' => 1], 'damage' => ['{"value":["bird","crack"]}' => 1, '{"value":["bird"]}' => 1]]],
        ));
        self::assertSame([], $change->orphans());
        self::assertTrue($change->rewrites());
        $counts = array_column(array_map(static fn (array $line): array => [$line['fate'].' '.$line['address'], $line['count']], $change->report()), 1, 0);
        self::assertSame(5, $counts['renamed class:apple']);
        self::assertSame(4, $counts['renamed question:ripeness']);
        self::assertSame(3, $counts['renamed answer:ripeness=green']);
        self::assertSame(2, $counts['removed answer:damage=bird']);
        self::assertSame(2, $counts['removed class:scab']);

        $remap = new Remap($translation);
        $box = Box::of(1, 2, 3, 4);
        $apple = $remap->mark(Mark::of('01HZX3M5Q0000000000000000A', 'apple', $box, ['ripeness' => Answer::none(NoValue::NotVisible), 'damage' => Answer::of(['bird', 'crack']), 'crack_length' => Answer::of(3)], 7, partOf: '01HZX3M5Q0000000000000000B'));
        self::assertSame('fruit', $apple?->class);
        self::assertSame(['crack_length' => ['value' => 3], 'damage' => ['value' => ['crack']], 'stage' => ['no_value' => 'unsure']], array_map(static fn (Answer $answer): array => $answer->toArray(), $apple->answers));
        self::assertSame([7, '01HZX3M5Q0000000000000000B'], [$apple->stack, $apple->partOf]);
        self::assertSame([], $remap->mark(Mark::of('01HZX3M5Q0000000000000000A', 'apple', $box, ['damage' => Answer::of(['bird'])]))?->answers);
        self::assertNull($remap->mark(Mark::of('01HZX3M5Q0000000000000000A', 'scab', $box)));
    }

    public function test_two_classes_become_one_and_two_swap_names(): void
    {
        $merged = self::translation(static function (array $document): array {
            array_splice($document['classes'], 1, 1);

            return $document;
        }, ['class:scab' => 'blurred']);
        self::assertSame('moved', CodebookChange::of($merged, new Census(['scab' => ['box' => 1]]))->report()[0]['fate']);
        $swapped = self::translation(static fn (array $document): array => $document, ['class:scab' => 'blurred', 'class:blurred' => 'scab']);
        self::assertSame(['blurred', 'scab'], [$swapped->class('scab')[0], $swapped->class('blurred')[0]]);
    }

    public function test_a_question_no_longer_asked_of_one_class_is_an_orphan_there_only(): void
    {
        $without = static function (array $document): array {
            $document['classes'][0]['attributes'] = ['ripeness', 'damage', 'crack_length'];

            return $document;
        };
        $census = new Census(['apple' => ['box' => 2]], ['apple' => ['shaded' => ['{"value":true}' => 2]]]);
        $orphans = CodebookChange::of(self::translation($without), $census)->orphans();
        self::assertSame(['question:apple/shaded'], array_column($orphans, 'address'));
        self::assertSame(['ripeness', 'damage', 'crack_length'], array_column($orphans[0]['choices'], 'key'));
        self::assertSame([], CodebookChange::of(self::translation($without, ['question:apple/shaded' => null]), $census)->orphans());
    }

    /** @return iterable<string, array{array<string, mixed>, string, Answer, array<string, ?string>, ?array<string, mixed>}> */
    public static function conversions(): iterable
    {
        $choices = ['options' => [['key' => 'green', 'name' => 'Green'], ['key' => 'ripe', 'name' => 'Ripe'], ['key' => 'yes', 'name' => 'Yes']]];
        yield 'one choice becomes several' => [['type' => 'many'] + $choices, 'ripeness', Answer::of('ripe'), [], ['value' => ['ripe']]];
        yield 'several with one become one' => [['type' => 'one', 'options' => [['key' => 'bird', 'name' => 'Bird'], ['key' => 'crack', 'name' => 'Crack']]], 'damage', Answer::of(['bird']), [], ['value' => 'bird']];
        yield 'several with two do not' => [['type' => 'one', 'options' => [['key' => 'bird', 'name' => 'Bird'], ['key' => 'crack', 'name' => 'Crack']]], 'damage', Answer::of(['bird', 'crack']), [], null];
        yield 'several with two, told what to do' => [['type' => 'one', 'options' => [['key' => 'bird', 'name' => 'Bird'], ['key' => 'crack', 'name' => 'Crack']]], 'damage', Answer::of(['bird', 'crack']), ['answer:damage=*' => 'crack'], ['value' => 'crack']];
        yield 'a choice becomes its words' => [['type' => 'text'], 'ripeness', Answer::of('ripe'), [], ['value' => 'Ripe']];
        yield 'yes becomes a choice of that name' => [['type' => 'one'] + $choices, 'shaded', Answer::of(true), [], ['value' => 'yes']];
        yield 'a number out of the new range has no place' => [['type' => 'number', 'min' => 0, 'max' => 10], 'crack_length', Answer::of(20), [], null];
        yield 'a number out of the new range is taken away' => [['type' => 'number', 'min' => 0, 'max' => 10], 'crack_length', Answer::of(20), ['answer:crack_length=*' => null], ['gone']];
        yield 'a number in range stays' => [['type' => 'number', 'min' => 0, 'max' => 10], 'crack_length', Answer::of(9), ['answer:crack_length=*' => null], ['value' => 9]];
    }

    /**
     * @param  array<string, mixed>  $becomes
     * @param  array<string, ?string>  $mapping
     * @param  ?array<array-key, mixed>  $expected  null for an orphan
     */
    #[DataProvider('conversions')]
    public function test_answers_follow_a_new_type_where_nothing_is_lost(array $becomes, string $question, Answer $answer, array $mapping, ?array $expected): void
    {
        $translation = self::translation(static function (array $document) use ($becomes, $question): array {
            foreach ($document['attributes'] as $i => $attribute) {
                if ($attribute['key'] === $question) {
                    $document['attributes'][$i] = $becomes + ['key' => $question, 'name' => $attribute['name'], 'scope' => 'object'];
                }
            }
            if ($question === 'damage') {
                unset($document['attributes'][2]['when']);
            }

            return $document;
        }, $mapping);
        [$key, $after, $passages] = $translation->answer('apple', $question, $answer);
        $orphaned = array_filter($passages, static fn ($passage): bool => $passage->fate->value === 'orphaned') !== [];
        self::assertSame($expected === null, $orphaned);
        if ($expected === ['gone']) {
            self::assertNull($after);
        } elseif ($expected !== null) {
            self::assertSame([$question, $expected], [$key, $after?->toArray()]);
            self::assertNull($translation->new->attributes[$question]->objection(Answer::fromArray($expected, '')));
        }
    }

    public function test_tags_item_answers_and_nodes_follow_too(): void
    {
        $before = ['skeno' => 'codebook/1', 'classes' => [['key' => 'moth', 'name' => 'Moth', 'shapes' => ['skeleton'], 'skeleton' => 'moth']],
            'skeletons' => [['key' => 'moth', 'name' => 'Moth', 'nodes' => [['key' => 'head', 'name' => 'Head', 'x' => 0.5, 'y' => 0.1], ['key' => 'tail', 'name' => 'Tail', 'x' => 0.5, 'y' => 0.9]], 'edges' => [['head', 'tail']]]],
            'attributes' => [['key' => 'weather', 'name' => 'Weather', 'type' => 'text', 'scope' => 'item']],
            'tags' => [['key' => 'wet', 'name' => 'Wet'], ['key' => 'windy', 'name' => 'Windy']]];
        $after = $before;
        $after['skeletons'][0]['nodes'][0] = ['key' => 'front', 'name' => 'Front', 'x' => 0.5, 'y' => 0.1];
        $after['skeletons'][0]['edges'] = [['front', 'tail']];
        $after['tags'] = [['key' => 'moist', 'name' => 'Moist']];
        $after['attributes'][0]['key'] = 'sky';
        $codebooks = [Codebook::fromArray($before), Codebook::fromArray($after)];
        $census = new Census(['moth' => ['skeleton' => 2]], ['' => ['weather' => ['{"value":"dull"}' => 1]]], ['wet' => 3, 'windy' => 1], ['moth' => ['head' => 2, 'tail' => 1]]);
        $orphans = CodebookChange::of(new Translation($codebooks[0], $codebooks[1], Mapping::none()), $census)->orphans();
        self::assertSame(['node:moth/head' => 2, 'question:weather' => 1, 'tag:wet' => 3, 'tag:windy' => 1], array_column($orphans, 'count', 'address'));
        self::assertSame(['front', 'sky', 'moist', 'moist'], array_column($orphans, 'guess'));

        $translation = new Translation($codebooks[0], $codebooks[1], Mapping::fromArray(['node:moth/head' => 'front', 'question:weather' => 'sky', 'tag:wet' => 'moist', 'tag:windy' => null]));
        self::assertSame([], CodebookChange::of($translation, $census)->orphans());
        $remap = new Remap($translation);
        $pose = $remap->mark(Mark::of('01HZX3M5Q0000000000000000A', 'moth', Pose::of(['head' => ['x' => 1, 'y' => 2, 'state' => 'hidden'], 'tail' => ['x' => 3, 'y' => 4, 'state' => 'visible']])))?->geometry;
        self::assertInstanceOf(Pose::class, $pose);
        self::assertSame(['front', 'tail'], array_keys($pose->nodes));
        self::assertSame('hidden', $pose->nodes['front']['state']);
        self::assertSame(['answers' => ['sky' => ['value' => 'dull']], 'tags' => ['moist']], $remap->said(ItemAnswers::of(['weather' => Answer::of('dull')], ['windy', 'wet']))->toArray());
        $gone = new Remap(new Translation($codebooks[0], $codebooks[1], Mapping::fromArray(['node:moth/head' => null])));
        self::assertNull($gone->mark(Mark::of('01HZX3M5Q0000000000000000A', 'moth', Pose::of(['head' => ['x' => 1, 'y' => 2, 'state' => 'hidden']]))));
    }

    public function test_what_stays_but_breaks_a_rule_is_said(): void
    {
        $change = CodebookChange::of(self::translation(static function (array $document): array {
            $document['classes'][1]['shapes'] = ['polygon'];
            $document['attributes'][1]['required'] = true;
            unset($document['attributes'][2]['when']);

            return $document;
        }), new Census(['scab' => ['box' => 3, 'polygon' => 1], 'apple' => ['box' => 5]], ['apple' => ['damage' => ['{"value":["bird"]}' => 2]]]));
        self::assertSame([], $change->orphans());
        self::assertFalse($change->rewrites());
        self::assertSame([3, 3], array_column($change->report(), 'count'));
    }

    /** @return iterable<string, array{mixed, string}> */
    public static function bad(): iterable
    {
        yield 'no object' => ['apple', 'mapping'];
        yield 'no address' => [['apple' => 'pear'], 'address'];
        yield 'no key' => [['class:apple' => 'not a key'], 'class:apple'];
        yield 'a number' => [['class:apple' => 4], 'class:apple'];
        yield 'a class the new one has not' => [['class:apple' => 'pear'], 'new codebook'];
        yield 'a choice nobody has' => [['answer:ripeness=ripe' => 'pear'], 'new codebook'];
    }

    #[DataProvider('bad')]
    public function test_a_broken_mapping_says_where(mixed $mapping, string $expected): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessageMatches('~'.preg_quote($expected, '~').'~');
        new Translation(Samples::codebook(), Samples::codebook(), Mapping::fromArray($mapping));
    }

    /** Whatever is renamed, joined or taken away: what the report counts is what happens, and what comes out fits the new codebook. */
    public function test_at_random_the_report_counts_what_happens(): void
    {
        mt_srand(7);
        for ($round = 0; $round < 60; $round++) {
            $document = Samples::document();
            $rename = mt_rand(0, 1) === 1;
            if ($rename) {
                $document['attributes'][0]['options'][0]['key'] = 'unripe';
            }
            $mapping = ($rename ? ['answer:ripeness=green' => [null, 'unripe', 'ripe', '?unsure'][mt_rand(0, 3)]] : []) + (mt_rand(0, 1) === 1 ? ['answer:damage=bird' => [null, 'crack'][mt_rand(0, 1)]] : []) + (mt_rand(0, 3) === 0 ? ['class:scab' => null] : []);
            $translation = new Translation(Samples::codebook(), Codebook::fromArray($document), Mapping::fromArray($mapping));
            $marks = [];
            $answers = $kinds = [];
            for ($i = 0; $i < 30; $i++) {
                $class = ['apple', 'scab'][mt_rand(0, 1)];
                $said = $class === 'scab' ? [] : ['ripeness' => Answer::of(['green', 'ripe'][mt_rand(0, 1)]), 'damage' => Answer::of([['bird'], ['crack'], ['bird', 'crack']][mt_rand(0, 2)])];
                $marks[] = Mark::of('01HZX3M5Q0000000000000000A', $class, Box::of($i, 0, 9, 9), $said);
                $kinds[$class]['box'] = ($kinds[$class]['box'] ?? 0) + 1;
                foreach ($said as $question => $answer) {
                    $json = (string) json_encode($answer->toArray());
                    $answers[$class][$question][$json] = ($answers[$class][$question][$json] ?? 0) + 1;
                }
            }
            $change = CodebookChange::of($translation, new Census($kinds, $answers));
            self::assertSame([], $change->orphans());
            $remap = new Remap($translation);
            $after = array_map($remap->mark(...), $marks);
            $counts = array_column($change->report(), 'count', 'address');
            self::assertCount($counts['class:scab'] ?? 0, array_filter($after, is_null(...)));
            $birds = array_filter($marks, static fn (Mark $mark): bool => in_array('bird', (array) ($mark->answers['damage']->value ?? []), true));
            self::assertSame(array_key_exists('answer:damage=bird', $mapping) ? count($birds) : 0, $counts['answer:damage=bird'] ?? 0);
            foreach (array_filter($after) as $mark) {
                foreach ($mark->answers as $question => $answer) {
                    self::assertNull($translation->new->attributes[$question]->objection($answer));
                }
            }
        }
    }
}
