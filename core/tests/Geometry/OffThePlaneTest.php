<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Geometry;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Anchor;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tests\Samples;

/** Marks that do not lie on a plane: spans of a text, cuboids in space; and anchors, which sit anywhere. */
final class OffThePlaneTest extends TestCase
{
    public function test_a_span_counts_code_points(): void
    {
        $text = "Äpfel 🍎🍏 reif, e\u{301}clair";
        $span = Span::fromFields(Fields::of(['start' => 6, 'end' => 8]));
        self::assertSame(['🍎🍏', 2], [$span->in($text), $span->length()]);
        self::assertSame('reif', Span::of(9, 13)->in($text));
        self::assertTrue($span->overlaps(Span::of(7, 9)));
        self::assertFalse($span->overlaps(Span::of(8, 9)), 'its end is not its own');
        self::assertSame(['start' => 6, 'end' => 8], $span->toArray());
    }

    /** Corners and middle worked out by hand: 4 × 2 × 1 m, turned by 90°, lies 2 m along x and 4 m along y. */
    public function test_a_cuboid_holds_points_as_it_is_turned(): void
    {
        $cuboid = Cuboid::of([10.0, 20.0, 1.0], [4.0, 2.0, 1.0], 90.0);
        self::assertSame(8.0, $cuboid->volume());
        foreach ([[10, 20, 1], [10, 22, 1], [11, 18, 1.5], [9, 21.9, 0.5]] as $inside) {
            self::assertTrue($cuboid->contains(...$inside), implode(' ', $inside));
        }
        foreach ([[12, 20, 1], [10, 22.1, 1], [10, 20, 1.6], [11.1, 20, 1]] as $outside) {
            self::assertFalse($cuboid->contains(...$outside), implode(' ', $outside));
        }
        self::assertSame([180.0, -90.0, 90.0, 180.0], array_map(static fn (float $heading): float => Cuboid::of([0.0, 0.0, 0.0], [1.0, 1.0, 1.0], $heading)->heading, [-180.0, 270.0, 450.0, 540.0]));
        self::assertEquals($cuboid, Cuboid::fromFields(Fields::of(json_decode((string) json_encode($cuboid->toArray()), true))));
    }

    public function test_marks_carry_them_and_say_that_they_are_on_no_plane(): void
    {
        foreach (['span' => ['start' => 3, 'end' => 9], 'cuboid' => ['center' => [1.0, 2.0, 3.0], 'size' => [4.0, 2.0, 1.5], 'heading' => 30.0]] as $kind => $geometry) {
            $mark = Mark::fromArray(['id' => Samples::id(1), 'class' => 'apple', 'kind' => $kind, 'geometry' => $geometry]);
            self::assertSame([$kind, $geometry], [$mark->kind->value, $mark->geometry->toArray()]);
            self::assertNotInstanceOf(Flat::class, $mark->geometry);
            try {
                $mark->flat();
                self::fail("a {$kind} has bounds on a picture");
            } catch (InvalidValue $e) {
                self::assertSame('kind', $e->field);
            }
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>, string}> */
    public static function wrong(): iterable
    {
        yield 'an empty span' => ['span', ['start' => 3, 'end' => 3], 'geometry.end'];
        yield 'a span backwards' => ['span', ['start' => 3, 'end' => 1], 'geometry.end'];
        yield 'a span before the text' => ['span', ['start' => -1, 'end' => 1], 'geometry.start'];
        yield 'half a cuboid' => ['cuboid', ['center' => [1, 2], 'size' => [1, 1, 1], 'heading' => 0], 'geometry.center'];
        yield 'a cuboid inside out' => ['cuboid', ['center' => [1, 2, 3], 'size' => [1, -1, 1], 'heading' => 0], 'geometry.size[1]'];
        yield 'words for numbers' => ['cuboid', ['center' => [1, 2, 'up'], 'size' => [1, 1, 1], 'heading' => 0], 'geometry.center[2]'];
        yield 'beyond all clouds' => ['cuboid', ['center' => [1e9, 2, 3], 'size' => [1, 1, 1], 'heading' => 0], 'geometry.center[0]'];
    }

    /** @param  array<string, mixed>  $geometry */
    #[DataProvider('wrong')]
    public function test_what_is_none_is_refused_by_name(string $kind, array $geometry, string $field): void
    {
        try {
            Mark::fromArray(['id' => Samples::id(1), 'class' => 'apple', 'kind' => $kind, 'geometry' => $geometry], 'data');
            self::fail('it was taken');
        } catch (InvalidValue $e) {
            self::assertSame("data.{$field}", $e->field);
        }
    }

    public function test_an_anchor_sits_in_one_way(): void
    {
        foreach ([['place' => 3, 'point' => [1.5, 2.0]], ['offset' => 17], ['place' => 0, 'mark' => Samples::id(2), 'space' => [1.0, 2.0, -3.5]], ['mark' => Samples::id(2)]] as $data) {
            self::assertSame($data, Anchor::fromArray($data)->toArray());
        }
        self::assertSame(['place' => 4, 'point' => [1.0, 2.0]], Anchor::onPlane(1, 2, 4)->toArray());
        foreach (['offset' => ['point' => [1, 2], 'offset' => 4], 'point' => ['point' => [1]], 'space[2]' => ['space' => [1, 2, 'z']], 'place' => ['place' => -1], 'mark' => ['mark' => 'x']] as $field => $data) {
            try {
                Anchor::fromArray($data);
                self::fail("{$field} was taken");
            } catch (InvalidValue $e) {
                self::assertSame("anchor.{$field}", $e->field);
            }
        }
    }
}
