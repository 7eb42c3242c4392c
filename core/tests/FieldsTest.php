<?php

declare(strict_types=1);

namespace Skeno\Core\Tests;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

final class FieldsTest extends TestCase
{
    public function test_reads_what_is_there_with_its_type(): void
    {
        $fields = Fields::of(['s' => 'ü', 'i' => 3.0, 'f' => 2, 'b' => true, 'l' => [['a' => 1]], 'm' => ['x' => null]], 'body');
        self::assertSame('ü', $fields->string('s', 1));
        self::assertSame(3, $fields->int('i', 0, 3));
        self::assertSame(2.0, $fields->number('f'));
        self::assertTrue($fields->bool('b'));
        self::assertFalse($fields->bool('missing'));
        self::assertSame(1, $fields->objects('l')[0]->int('a'));
        self::assertSame('body.l[0].a', $fields->objects('l')[0]->path('a'));
        self::assertNull($fields->optionalInt('missing'));
        self::assertSame([], $fields->list('missing'));
        self::assertSame(['x' => null], $fields->map('m'));
    }

    public function test_a_number_as_text_only_where_other_writers_are_forgiven(): void
    {
        $fields = Fields::of(['n' => ' 1.5 ']);
        self::assertSame(1.5, $fields->number('n', true));
        $this->expectException(InvalidValue::class);
        $fields->number('n');
    }

    /** @return iterable<string, array{\Closure(Fields): mixed, string}> */
    public static function wrong(): iterable
    {
        yield 'missing text' => [static fn (Fields $fields) => $fields->string('missing'), 'body.missing is missing'];
        yield 'text too long' => [static fn (Fields $fields) => $fields->string('s', 2), 'body.s is "abc"; expected text of at most 2'];
        yield 'broken bytes' => [static fn (Fields $fields) => $fields->string('broken'), 'body.broken'];
        yield 'a fraction for a whole number' => [static fn (Fields $fields) => $fields->int('f'), 'body.f is 1.5; expected a whole number'];
        yield 'out of range' => [static fn (Fields $fields) => $fields->int('i', 5, 9), 'from 5 to 9'];
        yield 'infinite' => [static fn (Fields $fields) => $fields->number('inf'), 'body.inf is INF'];
        yield 'text for yes' => [static fn (Fields $fields) => $fields->bool('s'), 'true or false'];
        yield 'a map for a list' => [static fn (Fields $fields) => $fields->list('m'), 'body.m is an object; expected a list'];
        yield 'a list of mixed things' => [static fn (Fields $fields) => $fields->strings('l'), 'body.l[1] is 2; expected text'];
        yield 'not an object at all' => [static fn () => Fields::of('x', 'body'), 'body is "x"; expected an object'];
    }

    /** @param  \Closure(Fields): mixed  $read */
    #[DataProvider('wrong')]
    public function test_what_is_wrong_is_named_with_its_path(\Closure $read, string $message): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage($message);
        $read(Fields::of(['s' => 'abc', 'broken' => "\xFF", 'f' => 1.5, 'i' => 3, 'inf' => INF, 'm' => ['a' => 1], 'l' => ['a', 2]], 'body'));
    }

    public function test_values_in_messages_stay_short(): void
    {
        self::assertLessThanOrEqual(60, mb_strlen(InvalidValue::show(str_repeat('x', 10_000))));
        self::assertSame(['missing', 'true', 'a list of 2', 'an object', 'not a number'], array_map(InvalidValue::show(...), [null, true, [1, 2], ['a' => 1], NAN]));
    }
}
