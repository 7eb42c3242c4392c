<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Inference;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Inference\Card;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Knows;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\Inference\Told;
use Skeno\Core\InvalidValue;

/** What a model says in its own words becomes what a project would say. */
final class SuggestingTest extends TestCase
{
    private const ID = '01J00000000000000000000000';

    private static function codebook(): Codebook
    {
        return Codebook::fromArray([
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']],
                ['key' => 'moth', 'name' => 'Codling moth', 'shapes' => ['skeleton'], 'skeleton' => 'moth'],
            ],
            'attributes' => [
                ['key' => 'usable', 'name' => 'Usable picture', 'type' => 'yesno', 'scope' => 'item'],
                ['key' => 'weather', 'name' => 'Weather', 'type' => 'one', 'scope' => 'item', 'options' => [['key' => 'dry', 'name' => 'Dry'], ['key' => 'rain', 'name' => 'Rain']]],
                ['key' => 'tags', 'name' => 'A question called as the tags are', 'type' => 'yesno', 'scope' => 'item'],
            ],
            'tags' => [['key' => 'backlit', 'name' => 'Backlit', 'group' => 'light'], ['key' => 'low_sun', 'name' => 'Low sun', 'group' => 'light'], ['key' => 'wet', 'name' => 'Wet leaves'], ['key' => 'gust', 'name' => 'Gust', 'scope' => 'stretch']],
            'skeletons' => [['key' => 'moth', 'name' => 'Moth', 'nodes' => [['key' => 'head', 'name' => 'Head', 'x' => 0.5, 'y' => 0.1], ['key' => 'tail', 'name' => 'Tail', 'x' => 0.5, 'y' => 0.9]], 'edges' => [['head', 'tail']]]],
        ]);
    }

    private static function knows(): Knows
    {
        return new Knows(['APPLE', 'codling-moth', 'pear'], ['Head', 'abdomen'], ['Low Sun', 'wet_leaves', 'fog', 'gust'], ['usable', 'weather']);
    }

    private static function moth(): Found
    {
        return new Found('codling-moth', 0.8, [Pose::of(['Head' => ['x' => 5, 'y' => 1, 'state' => 'visible'], 'abdomen' => ['x' => 5, 'y' => 9, 'state' => 'hidden']])]);
    }

    public function test_what_is_called_alike_is_found_by_key_or_name(): void
    {
        $mapping = Mapping::alike(self::codebook(), self::knows());
        self::assertSame(['classes' => ['APPLE' => 'apple', 'codling-moth' => 'moth'], 'nodes' => ['moth' => ['Head' => 'head']], 'tags' => ['Low Sun' => 'low_sun', 'wet_leaves' => 'wet']], $mapping->toArray());
        self::assertEquals($mapping, Mapping::fromArray(json_decode((string) json_encode($mapping->toArray()), true)));
    }

    public function test_nodes_go_by_name_until_a_hand_says_which_is_which(): void
    {
        $by = static fn (Mapping $mapping): array => array_keys(Suggesting::of(self::codebook(), self::knows(), $mapping)->mark(self::moth(), self::ID)?->geometry->toArray()['nodes'] ?? []);
        self::assertSame(['head'], $by(new Mapping(['codling-moth' => 'moth'])));
        self::assertSame(['head', 'tail'], $by(new Mapping(['codling-moth' => 'moth'], ['moth' => ['Head' => 'head', 'abdomen' => 'tail']])));
        // the hand leaves the head out, though it is called alike
        self::assertSame(['tail'], $by(new Mapping(['codling-moth' => 'moth'], ['moth' => ['abdomen' => 'tail']])));
        // no node is one of the class: no skeleton
        self::assertSame([], $by(new Mapping(['codling-moth' => 'moth'], ['moth' => []])));
    }

    public function test_of_tags_that_exclude_each_other_the_surest_is_suggested(): void
    {
        $knows = new Knows([], [], ['backlit', 'low_sun', 'wet', 'fog']);
        $suggesting = Suggesting::of(self::codebook(), $knows, new Mapping([], [], ['backlit' => 'backlit', 'low_sun' => 'low_sun', 'wet' => 'wet']), 0.4);
        $keys = static fn (array $sure): array => array_map(static fn (Saying $one): array => [$one->key, $one->confidence], $suggesting->sayings(new Told($sure)));
        self::assertSame([['low_sun', 0.9], ['wet', 0.41]], $keys(['wet' => 0.41, 'backlit' => 0.8, 'low_sun' => 0.9, 'fog' => 1.0]));
        self::assertSame([['backlit', 0.8]], $keys(['backlit' => 0.8, 'low_sun' => 0.7, 'wet' => 0.39]));
        self::assertSame([], $keys([]));
    }

    public function test_answers_are_suggested_that_may_be_given_and_are_likelier_than_not(): void
    {
        $said = static fn (array $answers, float $from = 0.3): array => array_map(static fn (Saying $one): array => [$one->key, $one->answer?->value, $one->confidence], Suggesting::of(self::codebook(), self::knows(), new Mapping([]), $from)->sayings(new Told([], $answers)));
        self::assertSame([['usable', false, 0.7], ['weather', 'rain', 0.5]], $said(['weather' => ['rain', 0.5], 'usable' => [false, 0.7]]));
        self::assertSame([], $said(['weather' => ['hail', 0.9], 'usable' => [true, 0.49], 'ripeness' => ['ripe', 0.9]]), 'no such option, not likely enough, no such question');
        self::assertSame([['usable', true, 0.9]], $said(['weather' => ['rain', 0.79], 'usable' => [true, 0.9]], 0.8));
    }

    /** @param  array<string, mixed>  $wrong */
    #[DataProvider('wrong')]
    public function test_a_mapping_that_names_what_is_not_there_is_refused(string $field, array $wrong): void
    {
        try {
            Suggesting::of(self::codebook(), self::knows(), Mapping::fromArray($wrong, ''));
            self::fail('taken');
        } catch (InvalidValue $e) {
            self::assertStringStartsWith($field, ltrim($e->field, '.'));
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>}> */
    public static function wrong(): iterable
    {
        yield 'a class the model does not know' => ['classes', ['classes' => ['plum' => 'apple']]];
        yield 'a class the project does not have' => ['classes', ['classes' => ['pear' => 'pear']]];
        yield 'no key' => ['classes.pear', ['classes' => ['pear' => ['apple']]]];
        yield 'a tag the model does not know' => ['tags', ['tags' => ['hail' => 'wet']]];
        yield 'a tag the project does not have' => ['tags', ['tags' => ['fog' => 'fog']]];
        yield 'a tag of stretches, not of items' => ['tags', ['tags' => ['gust' => 'gust']]];
        yield 'nodes of a class without a skeleton' => ['nodes', ['classes' => ['APPLE' => 'apple'], 'nodes' => ['apple' => ['Head' => 'head']]]];
        yield 'a node the model does not know' => ['nodes.moth', ['classes' => ['codling-moth' => 'moth'], 'nodes' => ['moth' => ['wing' => 'head']]]];
        yield 'a node the skeleton does not have' => ['nodes.moth', ['classes' => ['codling-moth' => 'moth'], 'nodes' => ['moth' => ['Head' => 'wing']]]];
        yield 'a node meant twice' => ['nodes.moth', ['classes' => ['codling-moth' => 'moth'], 'nodes' => ['moth' => ['Head' => 'head', 'abdomen' => 'head']]]];
    }

    public function test_nothing_that_is_wanted_is_refused_with_what_it_knows(): void
    {
        $this->expectExceptionMessage('it knows pear, fog');
        Suggesting::of(self::codebook(), new Knows(['pear'], [], ['fog']), new Mapping([]));
    }

    public function test_a_card_that_only_scores_the_picture_knows_tags_and_no_classes(): void
    {
        $knows = static fn (array $outputs): Knows => Card::fromArray(['skeno' => 'card/1', 'name' => 'x', 'input' => ['tensor' => 'image', 'width' => 64, 'height' => 64], 'outputs' => $outputs, 'classes' => ['wet', 'dry']])->knows();
        self::assertEquals(new Knows([], [], ['wet', 'dry']), $knows(['picture_scores' => 'p']));
        self::assertEquals(new Knows(['wet', 'dry']), $knows(['boxes' => 'b', 'scores' => 's', 'classes' => 'c']));
        self::assertEquals(new Knows(['wet', 'dry'], [], ['wet', 'dry']), $knows(['labels' => 'l', 'picture_scores' => 'p']));
    }

    public function test_what_comes_then_brings_its_nodes_and_words_but_finds_nothing(): void
    {
        self::assertEquals(new Knows(['apple'], ['head'], ['wet'], ['usable']), (new Knows(['apple'], ['head']))->then(new Knows(['pear'], ['head'], ['wet'], ['usable'])));
        self::assertEquals(new Told(['wet' => 0.9, 'dry' => 0.1], ['usable' => [true, 0.8]]), (new Told(['wet' => 0.9]))->and(new Told(['wet' => 0.2, 'dry' => 0.1], ['usable' => [true, 0.8]])));
    }

    public function test_a_box_stays_a_box(): void
    {
        $mark = Suggesting::of(self::codebook(), self::knows(), new Mapping(['pear' => 'apple']), 0.5, ['apple' => 0.7])->mark(new Found('pear', 0.71, [Box::of(1, 2, 3, 4)]), self::ID);
        self::assertSame(['apple', 0.71], [$mark?->class, $mark?->confidence]);
        self::assertNull(Suggesting::of(self::codebook(), self::knows(), new Mapping(['pear' => 'apple']), 0.5, ['apple' => 0.72])->mark(new Found('pear', 0.71, [Box::of(1, 2, 3, 4)]), self::ID));
    }
}
