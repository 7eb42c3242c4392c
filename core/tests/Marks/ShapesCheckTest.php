<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Edit;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tests\Samples;

/** The rules beyond boxes: every shape, parts of wholes, the picture as a whole. */
final class ShapesCheckTest extends TestCase
{
    /**
     * @param  list<Mark>  $marks
     * @return list<string>
     */
    private static function codes(array $marks, ?ItemAnswers $said = null): array
    {
        return array_map(static fn (Finding $finding): string => $finding->code, (new MarkCheck(Samples::shapes()))->item($marks, Extent::plane(100, 80), $said));
    }

    public function test_shapes_are_those_of_the_class(): void
    {
        self::assertSame([], self::codes([Mark::of(Samples::id(1), 'branch', Polyline::of([1, 1, 50, 50]))]));
        self::assertSame(['shape_not_allowed'], self::codes([Mark::of(Samples::id(1), 'branch', Box::of(1, 1, 5, 5))]));
        self::assertSame(['empty'], self::codes([Mark::of(Samples::id(1), 'branch', Polyline::of([5, 5, 5, 5]))]));
        self::assertSame(['empty'], self::codes([Mark::of(Samples::id(1), 'apple', Mask::none(100, 80))]));
        self::assertSame(['outside'], self::codes([Mark::of(Samples::id(1), 'leaf', Polygon::of([[90, 10, 120, 10, 90, 30]]))]));
        self::assertSame(['points'], self::codes([Mark::of(Samples::id(1), 'bud', PointSet::of([1, 1, 2, 2]))]));
        self::assertSame([], self::codes([Mark::of(Samples::id(1), 'bud', PointSet::of([1, 1, 2, 2, 3, 3]))]));
    }

    public function test_outlines_have_the_number_of_points_their_class_asks_for(): void
    {
        $check = new MarkCheck(Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'board', 'name' => 'Board', 'shapes' => ['polygon', 'polyline'], 'points' => 4], ['key' => 'bud', 'name' => 'Bud', 'shapes' => ['points', 'polygon'], 'points' => 2]]]));
        $codes = static fn (string $class, Geometry $geometry): array => array_map(static fn (Finding $finding): string => $finding->message, $check->item([Mark::of(Samples::id(1), $class, $geometry)], Extent::plane(100, 80)));
        self::assertSame([], $codes('board', Polygon::of([[0, 0, 9, 0, 9, 9, 0, 9]])));
        self::assertSame(['Board 1: 3 of 4 points'], $codes('board', Polygon::of([[0, 0, 9, 0, 9, 9]])));
        self::assertSame(['Board 1: 2 of 4 points'], $codes('board', Polyline::of([0, 0, 9, 9])));
        // where a class is drawn as points, their number is no rule for its outlines
        self::assertSame([], $codes('bud', Polygon::of([[0, 0, 9, 0, 9, 9]])));
        self::assertSame(['Bud 1: 1 of 2 points'], $codes('bud', PointSet::of([1, 1])));
    }

    public function test_a_node_the_skeleton_has_not_is_found(): void
    {
        self::assertSame(['node_unknown'], self::codes([Mark::of(Samples::id(1), 'moth', Pose::of(['horn' => ['x' => 5, 'y' => 5, 'state' => 'visible']]))]));
    }

    public function test_words_of_an_earlier_codebook_are_kept_where_it_is_given(): void
    {
        $check = new MarkCheck(Samples::codebook());
        $pose = Mark::of(Samples::id(1), 'moth', Pose::of(['head' => ['x' => 5, 'y' => 5, 'state' => 'visible']]));
        $check->admit($pose, Extent::plane(100, 80), 'data', [Samples::shapes()]);
        // what is kept already may be moved as it is
        $check->admit($pose, Extent::plane(100, 80), 'data', [], $pose);
        $this->expectException(InvalidValue::class);
        $check->admit($pose, Extent::plane(100, 80));
    }

    public function test_what_can_not_even_be_kept(): void
    {
        $check = new MarkCheck(Samples::shapes());
        $pose = static fn (string $class, string $node, float $x): Mark => Mark::of(Samples::id(1), $class, Pose::of([$node => ['x' => $x, 'y' => 1, 'state' => 'visible']]));
        $check->admit($pose('moth', 'head', 100.4), Extent::plane(100, 80));
        $bad = [
            'data.class' => Mark::of(Samples::id(1), 'pear', Box::of(1, 1, 2, 2)),
            'data.geometry.size' => Mark::of(Samples::id(1), 'apple', Mask::none(99, 80)),
            'data.geometry.nodes.wing' => $pose('moth', 'wing', 5),
            'data.geometry' => $pose('moth', 'head', 101),
            'data.part_of' => Mark::of(Samples::id(1), 'leaf', Polygon::of([[0, 0, 5, 0, 5, 5]]), partOf: Samples::id(1)),
        ];
        foreach ($bad as $field => $mark) {
            try {
                $check->admit($mark, Extent::plane(100, 80));
                self::fail("{$field} taken");
            } catch (InvalidValue $e) {
                self::assertSame($field, $e->field);
            }
        }
        $this->expectExceptionMessage('a class with a skeleton');
        $check->admit($pose('apple', 'head', 5), Extent::plane(100, 80));
    }

    public function test_parts_belong_to_what_the_codebook_says_they_may(): void
    {
        $leaf = Mark::of(Samples::id(1), 'leaf', Polygon::of([[0, 0, 50, 0, 50, 50]]));
        $apple = Mark::of(Samples::id(2), 'apple', Box::of(1, 1, 20, 20));
        $scab = static fn (int $of): Mark => Mark::of(Samples::id(3), 'scab', Polygon::of([[5, 2, 20, 2, 20, 10]]), partOf: Samples::id($of));
        self::assertSame([], self::codes([$leaf, $scab(1)]));
        self::assertSame(['part_not_allowed'], self::codes([$apple, $scab(2)]));
        self::assertSame(['part_of_nothing'], self::codes([$leaf, $scab(9)]));
    }

    public function test_a_part_of_itself_over_others_is_found(): void
    {
        $document = Samples::shapes()->toArray();
        self::assertIsArray($document['classes']);
        $document['classes'][1]['part_of'] = ['scab'];
        $scab = static fn (int $n, int $of): Mark => Mark::of(Samples::id($n), 'scab', Polygon::of([[5, 2, 20, 2, 20, 10 + $n]]), partOf: Samples::id($of));
        $found = (new MarkCheck(\Skeno\Core\Codebook\Codebook::fromArray($document)))->item([$scab(1, 2), $scab(2, 3), $scab(3, 1)], Extent::plane(100, 80));
        self::assertSame(['part_of_itself', 'part_of_itself', 'part_of_itself'], array_map(static fn (Finding $finding): string => $finding->code, $found));
    }

    public function test_the_picture_as_a_whole(): void
    {
        self::assertSame(['answer_missing'], self::codes([], ItemAnswers::none()));
        $usable = ['usable' => Answer::of(true)];
        self::assertSame([], self::codes([], ItemAnswers::of($usable, ['wet', 'backlit'])));
        self::assertSame(['tags_exclude'], self::codes([], ItemAnswers::of($usable, ['low_sun', 'backlit'])));
        self::assertSame(['tags_exclude', 'too_many_tags'], self::codes([], ItemAnswers::of($usable, ['low_sun', 'backlit', 'wet'])));
        self::assertSame(['tag_unknown'], self::codes([], ItemAnswers::of($usable, ['fog'])));
        self::assertSame(['answer_unknown'], self::codes([], ItemAnswers::of($usable + ['ripeness' => Answer::of('ripe')], [])), 'a question about objects is none about the picture');
        self::assertSame(['remark'], array_map(static fn ($a) => $a->key, array_values(array_filter(Samples::shapes()->askedOfItem(['usable' => Answer::of(false)]), static fn ($a): bool => $a->key !== 'usable'))));
        self::assertCount(1, Samples::shapes()->askedOfItem($usable), 'the remark is asked only of pictures that are not usable');
    }

    public function test_what_is_said_of_an_item_is_changed_by_edits(): void
    {
        $edit = static fn (array $data, string $action = 'change'): Edit => Edit::fromArray(['id' => Samples::id(1), 'action' => $action, 'mark' => Samples::id(2), 'base' => 0, 'data' => $data], 'edit');
        self::assertTrue($edit(['kind' => 'item'])->isOfItem());
        self::assertFalse($edit(['kind' => 'box'])->isOfItem());
        $said = $edit(['kind' => 'item', 'tags' => ['wet']])->applyToItem(ItemAnswers::of(['usable' => Answer::of(true)], []));
        self::assertEquals(ItemAnswers::of(['usable' => Answer::of(true)], ['wet']), $said);
        $answered = $edit(['kind' => 'item', 'attribute' => 'usable', 'answer' => ['value' => false]], 'answer')->applyToItem($said);
        self::assertEquals(ItemAnswers::of(['usable' => Answer::of(false)], ['wet']), $answered);
        self::assertNull($edit(['kind' => 'item'], 'delete')->applyToItem($said));
        $this->expectException(InvalidValue::class);
        $edit(['kind' => 'item', 'tags' => ['wet', 'wet']])->applyToItem(null);
    }

    public function test_an_edit_of_the_item_names_no_mark(): void
    {
        $edit = Edit::fromArray(['id' => Samples::id(1), 'action' => 'change', 'mark' => null, 'base' => 0, 'data' => ['kind' => 'item', 'tags' => ['wet']]], 'edit');
        self::assertSame([true, null], [$edit->isOfItem(), $edit->mark]);
        self::assertNull(Edit::fromArray(['id' => Samples::id(1), 'action' => 'create', 'mark' => Samples::id(2), 'base' => 0, 'data' => ['kind' => 'item']], 'edit')->mark, 'what a bench of an earlier version kept while offline');
        $this->expectExceptionMessage('edit.mark');
        Edit::fromArray(['id' => Samples::id(1), 'action' => 'delete', 'mark' => null, 'base' => 1], 'edit');
    }

    public function test_marks_keep_flags_links_and_stack_through_json_and_edits(): void
    {
        $mark = Mark::of(Samples::id(1), 'leaf', Polygon::of([[0, 0, 5, 0, 5, 5]]), [], 4, null, Samples::id(2), [Flag::Crowd, Flag::CutOff]);
        self::assertTrue($mark->equals(Mark::fromArray(json_decode((string) json_encode($mark->toArray()), true))));
        self::assertSame(['cut_off', 'crowd'], $mark->toArray()['flags'], 'in one order, however they were set');
        $moved = Edit::fromArray(['id' => Samples::id(3), 'action' => 'change', 'mark' => Samples::id(1), 'base' => 1, 'data' => ['part_of' => null, 'flags' => []]], 'edit')->applyTo($mark);
        self::assertSame([null, [], 4], [$moved?->partOf, $moved?->flags, $moved?->stack]);
        $this->expectExceptionMessage('flags[0] is "lovely"');
        Mark::fromArray(['flags' => ['lovely']] + $mark->toArray());
    }
}
