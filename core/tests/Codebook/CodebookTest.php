<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Codebook;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Tests\Samples;

final class CodebookTest extends TestCase
{
    public function test_reads_classes_in_order_and_fills_what_is_open(): void
    {
        $codebook = Samples::codebook();
        self::assertSame(['apple', 'scab', 'blurred'], array_keys($codebook->classes));
        self::assertSame([0, 1, 2], array_map(static fn ($class) => $class->index, array_values($codebook->classes)));
        self::assertMatchesRegularExpression('/^#[0-9a-f]{6}$/', $codebook->classes['scab']->color);
        self::assertSame(Samples::document(), $codebook->toArray());
        self::assertEquals($codebook, Codebook::stored($codebook->toJson()));
        self::assertEquals($codebook, Codebook::fromJson("\xEF\xBB\xBF".$codebook->toJson()));
    }

    /** @return iterable<string, array{\Closure(array<string, mixed>): array<string, mixed>, string, string}> change, path, words */
    public static function broken(): iterable
    {
        $set = static fn (string $path, mixed $value): \Closure => static function (array $document) use ($path, $value): array {
            $at = &$document;
            foreach (explode('/', $path) as $key) {
                $at = &$at[$key];
            }
            $at = $value;

            return $document;
        };
        yield 'unknown shape' => [$set('classes/0/shapes', ['blob']), 'classes[0].shapes[0]', '"blob"'];
        yield 'unknown member' => [$set('classes/1/colour', 'red'), 'classes[1]', '"colour" is not known'];
        yield 'bad key' => [$set('classes/1/key', 'Leaf Scab'), 'classes[1].key', 'does not match'];
        yield 'no classes' => [static function (array $document): array {
            unset($document['classes']);

            return $document;
        }, '(document)', '"classes" is missing'];
        yield 'wrong version' => [$set('skeno', 'codebook/9'), 'skeno', 'codebook/9'];
        yield 'choice without options' => [static function (array $document): array {
            unset($document['attributes'][0]['options']);

            return $document;
        }, 'attributes[0]', '"options" is missing'];
        yield 'options on a number' => [$set('attributes/2/options', [['key' => 'a', 'name' => 'A']]), 'attributes[2]', 'only choices'];
        yield 'two classes of one key' => [$set('classes/1/key', 'apple'), 'classes[1].key', 'already the key of classes[0]'];
        yield 'two classes on one digit' => [$set('classes/1/shortcut', '1'), 'classes[1].shortcut', 'taken by classes[0]'];
        yield 'attribute that is not there' => [$set('classes/1/attributes', ['smell']), 'classes[1].attributes[0]', 'no attribute "smell"'];
        yield 'part of a class that is not there' => [$set('classes/1/part_of', ['leaf']), 'classes[1].part_of[0]', 'no class "leaf"'];
        yield 'skeleton class without skeleton' => [$set('classes/1/shapes', ['skeleton']), 'classes[1].skeleton', 'must name one'];
        yield 'skeleton that is not there' => [$set('classes/1/skeleton', 'moth'), 'classes[1].skeleton', 'no skeleton "moth"'];
        yield 'more names than points' => [static function (array $document): array {
            $document['classes'][1] = ['point_names' => ['tip', 'base', 'side'], 'points' => 2, 'shapes' => ['points']] + $document['classes'][1];

            return $document;
        }, 'classes[1].point_names', 'more names than points'];
        yield 'names of points without a number' => [static function (array $document): array {
            $document['classes'][1] = ['point_names' => ['tip'], 'shapes' => ['points']] + $document['classes'][1];

            return $document;
        }, 'classes[1].point_names', 'need a number of them'];
        yield 'a point without a name' => [$set('classes/1/point_names', ['tip', '']), 'classes[1].point_names[1]', ''];
        yield 'one-sided twins' => [$set('skeletons', [['key' => 'm', 'name' => 'M', 'edges' => [], 'nodes' => [['key' => 'l', 'name' => 'L', 'x' => 0, 'y' => 0, 'twin' => 'r'], ['key' => 'r', 'name' => 'R', 'x' => 1, 'y' => 0]]]]), 'skeletons[0].nodes[0].twin', 'whose twin'];
        yield 'edge to nowhere' => [$set('skeletons', [['key' => 'm', 'name' => 'M', 'edges' => [['l', 'x']], 'nodes' => [['key' => 'l', 'name' => 'L', 'x' => 0, 'y' => 0]]]]), 'skeletons[0].edges[0][1]', 'no node'];
        yield 'impossible default' => [$set('attributes/0/default', 'purple'), 'attributes[0].default', 'one of green, ripe'];
        yield 'impossible condition' => [$set('attributes/2/when', [['attribute' => 'damage', 'any' => ['rust']]]), 'attributes[2].when[0].any[0]', 'rust'];
        yield 'condition on nothing' => [$set('attributes/2/when', [['attribute' => 'smell', 'any' => ['x']]]), 'attributes[2].when[0].attribute', 'no attribute "smell"'];
        yield 'conditions in a circle' => [static function (array $document): array {
            $document['attributes'][0]['when'] = [['attribute' => 'crack_length', 'any' => [3]]];
            $document['attributes'][1]['when'] = [['attribute' => 'ripeness', 'any' => ['ripe']]];

            return $document;
        }, 'attributes[0].when', 'lead back to itself'];
        yield 'answer seen at a node that is not there' => [$set('attributes/0/look_at', ['node' => 'stalk']), 'attributes[0].look_at.node[0]', 'no node "stalk"'];
        yield 'answer seen on half a part' => [$set('attributes/0/look_at', ['x' => 0.5, 'width' => 0.5]), 'attributes[0].look_at', 'its width and height'];
        yield 'answer seen on a part without width' => [$set('attributes/0/look_at', ['width' => 0, 'height' => 1]), 'attributes[0].look_at.width', 'more than 0'];
        yield 'min above max' => [$set('attributes/2/min', 90), 'attributes[2].min', '90 is more than max 80'];
        yield 'margin upside down' => [$set('classes/0/rules', ['margin' => ['min' => 3, 'max' => 1, 'unit' => 'px']]), 'classes[0].rules.margin.min', 'more than max'];
        yield 'limits upside down' => [$set('limits', ['objects' => ['min' => 3, 'max' => 1]]), 'limits.objects.min', 'more than max'];
        yield 'item question on a class' => [static function (array $document): array {
            $document['attributes'][] = ['key' => 'usable', 'name' => 'Usable', 'type' => 'yesno', 'scope' => 'item'];
            $document['classes'][0]['attributes'][] = 'usable';

            return $document;
        }, 'classes[0].attributes[4]', 'asked of the item'];
    }

    /** @param  \Closure(array<string, mixed>): array<string, mixed>  $change */
    #[DataProvider('broken')]
    public function test_a_broken_codebook_is_refused_with_the_path(\Closure $change, string $path, string $words): void
    {
        try {
            Codebook::fromArray($change(Samples::document()));
            self::fail('it was taken');
        } catch (InvalidCodebook $e) {
            self::assertContains($path, array_column($e->errors, 'path'), json_encode($e->errors) ?: '');
            self::assertStringContainsString($words, implode("\n", array_column($e->errors, 'message')));
        }
    }

    public function test_a_failed_member_does_not_blame_its_neighbours(): void
    {
        $document = Samples::document();
        $document['classes'][0]['color'] = 'red';
        try {
            Codebook::fromArray($document);
            self::fail('it was taken');
        } catch (InvalidCodebook $e) {
            self::assertSame(['classes[0].color'], array_column($e->errors, 'path'));
        }
    }

    public function test_text_that_is_not_json_is_refused(): void
    {
        $this->expectException(InvalidCodebook::class);
        $this->expectExceptionMessage('is not JSON');
        Codebook::fromJson('{"skeno": ');
    }

    public function test_a_question_is_asked_while_its_condition_holds(): void
    {
        $codebook = Samples::codebook();
        $apple = $codebook->classes['apple'];
        $asked = static fn (array $answers): array => array_map(static fn ($attribute) => $attribute->key, $codebook->asked($apple, $answers));
        self::assertSame(['ripeness', 'damage', 'shaded'], $asked([]));
        self::assertSame(['ripeness', 'damage', 'crack_length', 'shaded'], $asked(['damage' => Answer::of(['bird', 'crack'])]));
        self::assertSame(['ripeness', 'damage', 'shaded'], $asked(['damage' => Answer::none(NoValue::None)]));
    }

    /** The bench computes the same at once; both sides pass these cases. */
    public function test_the_shared_vectors_of_open_questions(): void
    {
        $vectors = json_decode((string) file_get_contents(dirname(__DIR__).'/vectors/asked.json'), true);
        $codebook = Codebook::fromArray($vectors['codebook']);
        self::assertGreaterThan(8, count($vectors['cases']));
        foreach ($vectors['cases'] as $case) {
            $answers = array_map(static fn (array $answer): Answer => Answer::fromArray($answer, 'answer'), $case['answers']);
            self::assertSame($case['asked'], array_map(static fn ($attribute) => $attribute->key, $codebook->asked($codebook->classes[$case['class']], $answers)), $case['what']);
        }
    }

    public function test_a_hidden_question_opens_no_other(): void
    {
        $document = Samples::document();
        $document['attributes'][] = ['key' => 'deep', 'name' => 'Deep', 'type' => 'yesno', 'scope' => 'object', 'when' => [['attribute' => 'crack_length', 'any' => [5]]]];
        $document['classes'][0]['attributes'][] = 'deep';
        $codebook = Codebook::fromArray($document);
        $keys = static fn (array $answers): array => array_map(static fn ($attribute) => $attribute->key, $codebook->asked($codebook->classes['apple'], $answers));
        self::assertContains('deep', $keys(['damage' => Answer::of(['crack']), 'crack_length' => Answer::of(5)]));
        self::assertNotContains('deep', $keys(['crack_length' => Answer::of(5)]), 'the length was answered, but is no longer asked');
    }

    public function test_classes_are_found_by_key_then_by_name_without_case(): void
    {
        $codebook = Samples::codebook();
        self::assertSame('scab', $codebook->classNamed('LEAF SCAB')?->key);
        self::assertSame('apple', $codebook->classNamed(' apple ')?->key);
        self::assertNull($codebook->classNamed('pear'));
    }

    public function test_classes_of_one_name_are_written_by_key(): void
    {
        $document = Samples::document();
        $document['classes'][1]['name'] = 'apple';
        $codebook = Codebook::fromArray($document);
        self::assertSame(['apple', 'scab', 'Too blurred'], array_map($codebook->exportName(...), array_values($codebook->classes)));
    }

    /** @return iterable<string, array{string, Answer, bool}> */
    public static function answers(): iterable
    {
        yield 'an option' => ['ripeness', Answer::of('ripe'), true];
        yield 'no option' => ['ripeness', Answer::of('blue'), false];
        yield 'offered way of having none' => ['ripeness', Answer::none(NoValue::NotVisible), true];
        yield 'way that is not offered' => ['ripeness', Answer::none(NoValue::None), false];
        yield 'several options' => ['damage', Answer::of(['crack', 'bird']), true];
        yield 'an option twice' => ['damage', Answer::of(['bird', 'bird']), false];
        yield 'no choice at all' => ['damage', Answer::of([]), false];
        yield 'inside the range' => ['crack_length', Answer::of(80), true];
        yield 'above the range' => ['crack_length', Answer::of(81), false];
        yield 'between the steps' => ['crack_length', Answer::of(2.5), false];
        yield 'a number as text' => ['crack_length', Answer::of('3'), false];
        yield 'yes' => ['shaded', Answer::of(true), true];
        yield 'text for yes' => ['shaded', Answer::of('yes'), false];
    }

    #[DataProvider('answers')]
    public function test_answers_are_held_against_the_question(string $attribute, Answer $answer, bool $possible): void
    {
        self::assertSame($possible, Samples::codebook()->attributes[$attribute]->objection($answer) === null);
    }

    /** PHP has one empty array for the two of JSON. */
    public function test_an_empty_object_is_an_object(): void
    {
        $json = '{"skeno": "codebook/1", "classes": [{"key": "apple", "name": "Apple", "shapes": ["box"], "rules": {}}], "attributes": [], "tags": [], "limits": {}}';
        $codebook = Codebook::fromJson($json);
        self::assertSame([null, null], [$codebook->minObjects, $codebook->maxTags]);
        self::assertEquals(json_decode($json), json_decode($codebook->toJson()));
        self::assertEquals($codebook->toArray(), Codebook::fromJson($codebook->toJson())->toArray());
        $this->expectException(InvalidCodebook::class);
        Codebook::fromJson('{"skeno": "codebook/1", "classes": {"apple": 1}}');
    }
}
