<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Inference;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Card;
use Skeno\Core\Inference\DataType;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Message;
use Skeno\Core\Inference\Placement;
use Skeno\Core\Inference\Reading;
use Skeno\Core\Inference\Tensor;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/** What is sent to a model and read from it: by the protocol, by the card, and against servers that lie. */
final class InferenceTest extends TestCase
{
    /** @param  array<string, mixed>  $more */
    private static function card(array $more = []): Card
    {
        return Card::fromArray(array_replace([
            'skeno' => 'card/1', 'name' => 'fruit', 'input' => ['tensor' => 'image', 'width' => 100, 'height' => 100, 'datatype' => 'UINT8', 'layout' => 'NHWC'],
            'outputs' => ['boxes' => 'b', 'scores' => 's', 'classes' => 'c'], 'classes' => ['apple', 'pear'],
        ], $more));
    }

    /** @param  list<int>  $shape @param  list<int|float>  $values */
    private static function tensor(string $name, array $shape, array $values, DataType $type = DataType::Fp32): Tensor
    {
        return Tensor::of($name, $type, $shape, $values);
    }

    public function test_numbers_of_every_kind_come_back_as_they_went(): void
    {
        $dice = new Randomizer(new Mt19937(5));
        foreach (DataType::cases() as $type) {
            $values = match ($type) {
                DataType::Bool => [0, 1, 1],
                DataType::Fp32 => [0.0, -1.5, 0.25, 65536.0],
                DataType::Fp64 => [0.0, M_PI, -1e300],
                DataType::Int8 => [-128, 127, 0],
                DataType::Int16 => [-32768, 32767, 0],
                DataType::Int32 => [-2147483648, 2147483647, 0],
                DataType::Int64 => [PHP_INT_MIN, PHP_INT_MAX, 0],
                default => [0, $dice->getInt(1, 200), 2 ** (8 * min(4, $type->size())) - 1],
            };
            $bytes = $type->pack($values);
            self::assertSame(count($values) * $type->size(), strlen($bytes), $type->value);
            self::assertSame($values, $type->unpack($bytes), $type->value);
        }
    }

    public function test_what_is_sent_is_read_by_who_gets_it_in_bytes_and_in_json(): void
    {
        $tensor = self::tensor('image', [1, 2, 2, 3], range(0, 11), DataType::Uint8);
        foreach ([true, false] as $binary) {
            ['body' => $body, 'length' => $length] = Message::request($tensor, ['b', 's'], $binary);
            self::assertSame($binary, $length !== null);
            self::assertEquals(['image' => $tensor], Message::inputs($body, $length));
            $header = json_decode($length === null ? $body : substr($body, 0, $length), true);
            self::assertSame(['b', 's'], array_column($header['outputs'], 'name'));
            $answer = Message::answer('m', [self::tensor('s', [2], [0.5, 0.25]), self::tensor('c', [2], [1, 0], DataType::Int64)], $binary);
            $read = Message::response($answer['body'], $answer['length']);
            self::assertSame([[0.5, 0.25], [1, 0]], [$read['s']->values, $read['c']->values]);
        }
        // nested lists say the same
        self::assertSame([1, 2, 3, 4], Message::response('{"outputs":[{"name":"x","shape":[2,2],"datatype":"INT32","data":[[1,2],[3,4]]}]}', null)['x']->values);
    }

    /** @param  non-empty-string  $says */
    #[DataProvider('lies')]
    public function test_a_server_that_lies_is_told_what_was_wrong(string $says, string $body, ?int $length = null): void
    {
        try {
            Message::response($body, $length);
            self::fail('it was believed');
        } catch (InvalidValue $e) {
            self::assertStringContainsString($says, $e->getMessage());
        }
    }

    /** @return iterable<string, array{0: string, 1: string, 2?: int}> */
    public static function lies(): iterable
    {
        $one = static fn (string $shape, string $data, string $type = 'FP32'): string => '{"outputs":[{"name":"b","shape":'.$shape.',"datatype":"'.$type.'","data":'.$data.'}]}';
        yield 'fewer numbers than its shape' => ['b is "3 numbers"', $one('[2,2]', '[1,2,3]')];
        yield 'more numbers than its shape' => ['b.data', $one('[1]', '[1,2,3]')];
        yield 'a billion boxes' => ['b.shape', $one('[1000000000,4]', '[]')];
        yield 'sides that overflow' => ['b.shape', $one('[4294967296,4294967296,4294967296]', '[]')];
        yield 'a side below nothing' => ['b.shape', $one('[-1]', '[]')];
        yield 'no numbers' => ['b.data', $one('[2]', '["a",1]')];
        yield 'no known kind' => ['b.datatype', $one('[1]', '[1]', 'FP8')];
        yield 'not JSON' => ['answer', '<html>busy</html>'];
        yield 'nothing' => ['answer', ''];
        yield 'no outputs' => ['outputs', '{"model_name":"x"}'];
        $header = '{"outputs":[{"name":"b","shape":[2],"datatype":"FP32","parameters":{"binary_data_size":8}}]}';
        yield 'bytes that never came' => ['4 bytes left', $header.'abcd', strlen($header)];
        $short = str_replace('8}', '4}', $header);
        yield 'fewer bytes than its shape' => ['b is "4 bytes"', $short.'abcd', strlen($short)];
        yield 'a header longer than all' => [Message::LENGTH, $header, 99_999];
        $nan = '{"outputs":[{"name":"b","shape":[1],"datatype":"FP32","parameters":{"binary_data_size":4}}]}';
        yield 'not a number' => ['not a number', $nan.pack('g', NAN), strlen($nan)];
        yield 'more tensors than anybody needs' => ['at most 64', '{"outputs":['.implode(',', array_fill(0, 70, '{"name":"b","shape":[0],"datatype":"FP32","data":[]}')).']}'];
    }

    public function test_a_picture_goes_in_as_the_card_says(): void
    {
        // red, green over blue, white: 2 × 2, into 4 × 2
        $picture = Colours::of(2, 2, "\xFF\0\0\0\xFF\0\0\0\xFF\xFF\xFF\xFF");
        $input = ['tensor' => 'x', 'width' => 12, 'height' => 8, 'datatype' => 'UINT8', 'layout' => 'NHWC'];
        $card = self::card(['input' => $input]);
        $placed = $card->placed(200, 200);
        self::assertSame([2, 0, 8, 8], [$placed->left, $placed->top, $placed->columns, $placed->rows]);
        $large = $picture->resized(8, 8);
        $tensor = $card->input($large, $placed);
        self::assertSame([[1, 8, 12, 3], DataType::Uint8], [$tensor->shape, $tensor->type]);
        // round it is black; then red
        self::assertSame([0, 0, 0, 0, 0, 0, 255, 0, 0], array_slice($tensor->values, 0, 9));
        $scaled = self::card(['input' => ['layout' => 'NCHW', 'datatype' => 'FP32', 'scale' => 1 / 255, 'mean' => [0.5, 0.5, 0.5], 'spread' => [0.5, 0.5, 0.25], 'colour' => 'BGR', 'size' => 'stretch'] + $input]);
        $placed = $scaled->placed(200, 200);
        self::assertSame([0, 0, 12, 8], [$placed->left, $placed->top, $placed->columns, $placed->rows]);
        $tensor = $scaled->input($picture->resized(12, 8), $placed);
        // the first channel is blue: nothing of it in the red corner, all of it in the blue one
        self::assertEqualsWithDelta([-1.0, 1.0], [$tensor->values[0], $tensor->values[7 * 12]], 0.01);
        // the last is red, in a spread of its own
        self::assertEqualsWithDelta(2.0, $tensor->values[2 * 96], 0.01);
    }

    public function test_places_come_back_to_where_they_are_on_the_picture(): void
    {
        $fit = Placement::of(1280, 960, 640, 640, true);
        self::assertSame([0, 80, 640, 480], [$fit->left, $fit->top, $fit->columns, $fit->rows]);
        self::assertEqualsWithDelta([640.0, 480.0], [$fit->x(320), $fit->y(320)], 1e-9);
        $stretched = Placement::of(1280, 960, 640, 640, false);
        self::assertEqualsWithDelta([640.0, 480.0], [$stretched->x(320), $stretched->y(320)], 1e-9);
    }

    /** @param  array<string, mixed>  $more @param  list<float>  $numbers */
    #[DataProvider('boxes')]
    public function test_boxes_in_every_form_are_the_same_box(array $more, array $numbers): void
    {
        $found = Reading::of(self::card($more), ['b' => self::tensor('b', [1, 1, 4], $numbers), 's' => self::tensor('s', [1, 1], [0.9]), 'c' => self::tensor('c', [1, 1], [1], DataType::Int64)], 200, 100)->things;
        self::assertEquals([new Found('pear', 0.9, [Box::of(20, 10, 40, 30)])], $found);
    }

    /** @return iterable<string, array{array<string, mixed>, list<float>}> */
    public static function boxes(): iterable
    {
        // 200 × 100 into 100 × 100: half the size, 25 px down
        yield 'corners' => [[], [10, 30, 30, 45]];
        yield 'corner and size' => [['boxes' => 'xywh'], [10, 30, 20, 15]];
        yield 'middle and size' => [['boxes' => 'cxcywh'], [20, 37.5, 20, 15]];
        yield 'in shares' => [['units' => 'share'], [0.1, 0.3, 0.3, 0.45]];
    }

    public function test_the_surest_come_first_and_what_lies_beside_the_picture_or_is_unsure_is_none(): void
    {
        $boxes = [0, 0, 10, 10, 20, 20, 60, 60, 90, 90, 300, 300, 50, 50, 40, 40, -500, -500, -400, -400];
        $things = Reading::of(self::card(['input' => ['tensor' => 'i', 'width' => 100, 'height' => 100, 'size' => 'stretch']]), ['b' => self::tensor('b', [5, 4], $boxes), 's' => self::tensor('s', [5], [0.01, 0.5, 0.7, 0.9, 0.9]), 'c' => self::tensor('c', [5], [0, 0, 1, 0, 0])], 100, 100)->things;
        self::assertSame([['pear', 0.7], ['apple', 0.5]], array_map(static fn (Found $f): array => [$f->class, $f->confidence], $things));
        self::assertEquals(Box::of(90, 90, 10, 10), $things[0]->shapes[0]);
    }

    public function test_class_scores_masks_and_keypoints(): void
    {
        $grid = array_fill(0, 100, 0.1);
        foreach (range(2, 5) as $y) {
            foreach (range(3, 6) as $x) {
                $grid[10 * $y + $x] = 0.8;
            }
        }
        $card = self::card(['outputs' => ['masks' => 'm', 'class_scores' => 'cs', 'keypoints' => 'k'], 'nodes' => ['head', 'tail']]);
        [$thing] = Reading::of($card, ['m' => self::tensor('m', [1, 10, 10], $grid), 'cs' => self::tensor('cs', [1, 2], [0.2, 0.6]), 'k' => self::tensor('k', [1, 1, 2, 3], [10, 20, 0.9, 30, 40, 0.2])], 100, 100)->things;
        self::assertSame(['pear', 0.6], [$thing->class, $thing->confidence]);
        [$mask, $pose] = $thing->shapes;
        self::assertInstanceOf(Mask::class, $mask);
        self::assertEquals(Box::of(30, 20, 40, 40), $mask->bounds());
        self::assertInstanceOf(Pose::class, $pose);
        self::assertSame(['head' => 0.9, 'tail' => 0.2], $thing->nodes);
        self::assertSame(['x' => 30.0, 'y' => 40.0, 'state' => 'visible'], $pose->toArray()['nodes']->tail ?? ((array) $pose->toArray()['nodes'])['tail']);
    }

    public function test_labels_of_pixels_are_parted_into_things(): void
    {
        $labels = array_fill(0, 100, 0);
        foreach ([11, 12, 21, 22] as $k) {
            $labels[$k] = 1;
            $labels[$k + 5] = 1;
            $labels[$k + 50] = 2;
        }
        $things = Reading::of(self::card(['outputs' => ['labels' => 'l']]), ['l' => self::tensor('l', [1, 10, 10], $labels, DataType::Uint8)], 100, 100)->things;
        self::assertSame(['apple', 'apple', 'pear'], array_map(static fn (Found $f): string => $f->class, $things));
        self::assertEquals([Box::of(10, 10, 20, 20), Box::of(60, 10, 20, 20), Box::of(10, 60, 20, 20)], array_map(static fn (Found $f): Box => $f->shapes[0]->bounds(), $things));
    }

    public function test_what_is_said_of_the_whole_picture(): void
    {
        self::assertSame(['apple' => 0.25, 'pear' => 0.75], Reading::of(self::card(['outputs' => ['picture_scores' => 'p']]), ['p' => self::tensor('p', [1, 2], [0.25, 0.75])], 100, 100)->told->tags);
    }

    /** @param  array<string, Tensor>  $with */
    #[DataProvider('unlike')]
    public function test_a_model_unlike_its_card_is_told_in_what(string $field, array $with): void
    {
        try {
            Reading::of(self::card(), $with + ['b' => self::tensor('b', [2, 4], array_fill(0, 8, 5)), 's' => self::tensor('s', [2], [0.5, 0.6]), 'c' => self::tensor('c', [2], [0, 1])], 100, 100);
            self::fail('it was believed');
        } catch (InvalidValue $e) {
            self::assertStringStartsWith($field, $e->field);
        }
    }

    /** @return iterable<string, array{string, array<string, Tensor>}> */
    public static function unlike(): iterable
    {
        yield 'fewer scores than boxes' => ['s.shape', ['s' => self::tensor('s', [1], [0.5])]];
        yield 'boxes of five numbers' => ['b.shape', ['b' => self::tensor('b', [2, 5], array_fill(0, 10, 1))]];
        yield 'boxes without an axis' => ['b.shape', ['b' => self::tensor('b', [8], array_fill(0, 8, 1))]];
        yield 'a class nobody named' => ['c[1]', ['c' => self::tensor('c', [2], [0, 7])]];
        yield 'surer than sure' => ['s[1]', ['s' => self::tensor('s', [2], [0.5, 17.0])]];
    }

    public function test_an_output_that_is_missing_is_named(): void
    {
        $this->expectExceptionMessage('s is "missing"');
        Reading::of(self::card(), ['b' => self::tensor('b', [0, 4], [])], 100, 100);
    }

    /** @param  array<string, mixed>  $with */
    #[DataProvider('noCards')]
    public function test_what_is_no_card_is_refused_by_what_is_wrong(string $field, array $with): void
    {
        try {
            self::card($with);
            self::fail('it was taken');
        } catch (InvalidValue $e) {
            self::assertSame($field, $e->field);
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>}> */
    public static function noCards(): iterable
    {
        yield 'of another form' => ['card.skeno', ['skeno' => 'card/9']];
        yield 'of a meaning nobody knows' => ['card.outputs', ['outputs' => ['things' => 'x']]];
        yield 'with nothing to find' => ['card.outputs', ['outputs' => ['scores' => 's']]];
        yield 'never sure' => ['card.outputs', ['outputs' => ['boxes' => 'b']]];
        yield 'nodes without names' => ['card.nodes', ['outputs' => ['keypoints' => 'k', 'scores' => 's']]];
        yield 'no classes' => ['card.classes', ['classes' => []]];
        yield 'one class twice' => ['card.classes', ['classes' => ['a', 'a']]];
        yield 'a picture of nothing' => ['card.input.width', ['input' => ['tensor' => 'i', 'width' => 0, 'height' => 8]]];
        yield 'four colours' => ['card.input.mean', ['input' => ['tensor' => 'i', 'width' => 8, 'height' => 8, 'mean' => [1, 2, 3, 4]]]];
        yield 'divided by nothing' => ['card.input.spread', ['input' => ['tensor' => 'i', 'width' => 8, 'height' => 8, 'spread' => [1, 0, 1]]]];
        yield 'a form of boxes nobody knows' => ['card.boxes', ['boxes' => 'polar']];
    }
}
