<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Edit;
use Skeno\Core\Tests\Samples;

final class EditTest extends TestCase
{
    /** @param  array<string, mixed>  $more */
    private static function edit(string $action, int $base, array $more = []): Edit
    {
        return Edit::fromArray(['id' => Samples::id(90), 'action' => $action, 'mark' => Samples::id(1), 'base' => $base] + $more, 'edits[0]');
    }

    public function test_an_edit_fits_only_the_revision_the_hand_saw(): void
    {
        self::assertTrue(self::edit('create', 0)->fits(null, false));
        self::assertFalse(self::edit('create', 0)->fits(1, false), 'there already');
        self::assertTrue(self::edit('create', 3)->fits(3, true), 'undo of a delete');
        self::assertFalse(self::edit('create', 2)->fits(3, true));
        self::assertTrue(self::edit('change', 4)->fits(4, false));
        self::assertFalse(self::edit('change', 4)->fits(5, false));
        self::assertFalse(self::edit('change', 4)->fits(4, true), 'deleted meanwhile');
        self::assertFalse(self::edit('delete', 1)->fits(null, false));
    }

    public function test_changes_touch_only_what_they_name(): void
    {
        $mark = Samples::apple(1, 1, 2, 3, 4);
        $moved = self::edit('change', 1, ['data' => ['geometry' => ['x' => 9, 'y' => 2, 'width' => 3, 'height' => 4]]])->applyTo($mark);
        self::assertSame(9.0, $moved?->geometry->x);
        self::assertEquals($mark->answers, $moved->answers);
        self::assertNull(self::edit('delete', 1)->applyTo($mark));
        $answered = self::edit('answer', 1, ['data' => ['attribute' => 'shaded', 'answer' => ['value' => true]]])->applyTo($mark);
        self::assertSame(['ripeness', 'shaded'], array_keys($answered->answers ?? []));
        $cleared = self::edit('answer', 1, ['data' => ['attribute' => 'ripeness']])->applyTo($mark);
        self::assertSame([], $cleared?->answers);
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function hostile(): iterable
    {
        $box = ['x' => 0, 'y' => 0, 'width' => 1, 'height' => 1];
        yield 'text for a number' => [['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => '1e3'] + $box], 'data.geometry.x'];
        yield 'no geometry' => [['class' => 'apple', 'kind' => 'box'], 'data.geometry'];
        yield 'negative size' => [['class' => 'apple', 'kind' => 'box', 'geometry' => ['width' => -4] + $box], 'data.geometry.width'];
        yield 'a kind we have not' => [['class' => 'apple', 'kind' => 'star', 'geometry' => $box], 'data.kind'];
        yield 'a class that is a list' => [['class' => ['apple'], 'kind' => 'box', 'geometry' => $box], 'data.class'];
        yield 'an answer of two minds' => [['class' => 'apple', 'kind' => 'box', 'geometry' => $box, 'answers' => ['a' => ['value' => 1, 'no_value' => 'none']]], 'data.answers.a'];
    }

    /** @param  array<string, mixed>  $data */
    #[DataProvider('hostile')]
    public function test_hostile_data_are_refused_by_their_path(array $data, string $path): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage($path);
        self::edit('create', 0, ['data' => $data])->applyTo(null);
    }

    public function test_ids_must_be_ulids(): void
    {
        $this->expectExceptionMessage('edits[0].mark');
        Edit::fromArray(['id' => Samples::id(1), 'action' => 'delete', 'mark' => '../etc', 'base' => 1], 'edits[0]');
    }
}
