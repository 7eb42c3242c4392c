<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cutout;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\Stroke;
use Skeno\Core\Cutout\Window;
use Skeno\Core\Cutout\Wish;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;

final class WindowTest extends TestCase
{
    public function test_it_reads_the_box_and_what_lies_round_it(): void
    {
        $window = Window::round(Box::of(100, 50, 100, 60), [], 640, 480);
        self::assertSame([80, 30, 140, 100, 140, 100], [$window->x, $window->y, $window->width, $window->height, $window->columns, $window->rows]);
        self::assertEquals(Box::of(20, 20, 100, 60), $window->box);
    }

    public function test_of_a_huge_picture_it_reads_no_more_than_it_needs(): void
    {
        $window = Window::round(Box::of(1000, 1000, 6400, 3200), [], 12_000, 9_000);
        self::assertLessThanOrEqual(900, $window->columns);
        self::assertEqualsWithDelta(640, $window->box->width, 1);
        $truth = Scene::truth(12_000, 9_000, 4200, 2600, 1500);
        self::assertGreaterThan(0.995, $window->out($window->in($truth))->iou($truth));
    }

    public function test_what_is_put_in_comes_out(): void
    {
        $window = Window::round(Box::of(100, 50, 100, 60), [], 640, 480);
        $mask = Scene::truth(640, 480, 150, 80, 30);
        self::assertEquals($mask, $window->out($window->in($mask)));
    }

    public function test_what_is_added_outside_makes_the_box_larger(): void
    {
        $adds = [Stroke::of(true, [90.0, 70.0]), Stroke::of(false, [300.0, 300.0])];
        $window = Window::round(Box::of(100, 50, 100, 60), $adds, 640, 480);
        self::assertEqualsWithDelta(80, $window->x + $window->box->x, 0.001);
        self::assertEqualsWithDelta(200, $window->x + $window->box->right(), 0.001);
        self::assertSame(90.0 - $window->x, $window->stroke($adds[0])->points[0]);
    }

    public function test_a_wish_is_answered_as_what_was_asked_for(): void
    {
        $picture = Scene::of(160, 120, Scene::disc(80, 60, 35));
        $truth = Scene::truth(160, 120, 80, 60, 35);
        foreach (['polygon', 'mask'] as $as) {
            $wish = Wish::fromFields(Fields::of(['box' => ['x' => 40, 'y' => 20, 'width' => 82, 'height' => 84], 'as' => $as, 'tolerance' => 0.5]));
            $window = $wish->window(160, 120);
            $part = $picture->part($window->x, $window->y, $window->width, $window->height);
            $answer = $wish->answer(new Cutout($part, $window->box), $window);
            self::assertSame($as, $answer['kind']);
            self::assertEqualsWithDelta($truth->area(), $answer['area'], 60);
        }
    }

    /** @param  array<string, mixed>  $with */
    #[DataProvider('wrong')]
    public function test_what_is_no_wish_is_refused_by_its_name(string $field, array $with): void
    {
        try {
            Wish::fromFields(Fields::of($with + ['box' => ['x' => 0, 'y' => 0, 'width' => 50, 'height' => 50], 'as' => 'mask']))->window(100, 100);
            self::fail('it was taken');
        } catch (InvalidValue $e) {
            self::assertSame($field, $e->field);
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>}> */
    public static function wrong(): iterable
    {
        yield 'no shape it can be' => ['as', ['as' => 'ellipse']];
        yield 'looser than the dial goes' => ['loose', ['loose' => 9]];
        yield 'a tolerance below nothing' => ['tolerance', ['tolerance' => -1]];
        yield 'a box beside the picture' => ['box', ['box' => ['x' => 200, 'y' => 0, 'width' => 50, 'height' => 50]]];
        yield 'a stroke of half a point' => ['strokes[0].points', ['strokes' => [['adds' => true, 'points' => [1]]]]];
        yield 'a stroke of no numbers' => ['strokes[0].points[1]', ['strokes' => [['adds' => true, 'points' => [1, 'x']]]]];
        yield 'a stroke that goes on for ever' => ['strokes[0].points', ['strokes' => [['adds' => true, 'points' => array_fill(0, 2000, 1)]]]];
        yield 'more strokes than a hand makes' => ['strokes', ['strokes' => array_fill(0, 201, ['adds' => true, 'points' => [1, 1]])]];
    }
}
