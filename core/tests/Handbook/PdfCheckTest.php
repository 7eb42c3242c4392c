<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Handbook;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Handbook\PdfCheck;

final class PdfCheckTest extends TestCase
{
    /** @return iterable<string, array{array<string, mixed>, list<string>}> */
    public static function documents(): iterable
    {
        yield 'pages only' => [['/Type' => '/Page', '/Contents' => '4 0 R'], []];
        yield 'a script run when it opens' => [['/OpenAction' => ['/S' => '/JavaScript', '/JS' => 'u:app.alert(1)']], ['scripts']];
        yield 'a script by name' => [['/Names' => ['/JavaScript' => ['/Names' => ['u:x', '5 0 R']]]], ['scripts']];
        yield 'a script deep in a form' => [['/AcroForm' => ['/Fields' => [['/AA' => ['/K' => ['/S' => '/JavaScript', '/JS' => '9 0 R']]]]]], ['scripts']];
        yield 'a program and a file' => [['a' => ['/S' => '/Launch'], 'b' => ['/Type' => '/Filespec', '/EF' => ['/F' => '8 0 R']]], ['commands that start programs', 'embedded files']];
        yield 'a form that sends' => [['/A' => ['/S' => '/SubmitForm']], ['forms that send data']];
        yield 'text about scripts' => [['/Title' => 'u:/JavaScript', '/Subject' => 'u:/Launch', '/S' => '/Transparency'], []];
        yield 'a link within and to a page' => [['/A' => ['/S' => '/GoTo'], 'b' => ['/S' => '/URI', '/URI' => 'u:https://larkmoor.example']], []];
    }

    /**
     * @param  array<string, mixed>  $objects
     * @param  list<string>  $expected
     */
    #[DataProvider('documents')]
    public function test_what_runs_fetches_or_hides_is_named(array $objects, array $expected): void
    {
        self::assertSame($expected, PdfCheck::objections(['qpdf' => [[], ['obj:1 0 R' => ['value' => $objects]]]]));
    }

    public function test_pages_are_counted(): void
    {
        self::assertSame(2, PdfCheck::pages(['a' => ['value' => ['/Type' => '/Page']], 'b' => ['stream' => ['dict' => ['/Type' => '/XObject']]], 'c' => ['value' => ['/Type' => '/Page']], 'd' => ['value' => ['/Type' => '/Pages']]]));
    }

    /** The name of an action may stand in an object of its own: `/S 9 0 R`. */
    public function test_names_that_are_pointed_at_are_followed(): void
    {
        $document = static fn (array $objects): array => ['qpdf' => [['jsonversion' => 2], array_combine(array_map(static fn (int $n): string => "obj:{$n} 0 R", array_keys($objects)), array_map(static fn (mixed $value): array => ['value' => $value], array_values($objects)))]];
        self::assertSame(['commands that start programs'], PdfCheck::objections($document([1 => ['/OpenAction' => ['/S' => '2 0 R', '/F' => 'u:calc']], 2 => '3 0 R', 3 => '/Launch'])));
        self::assertSame([], PdfCheck::objections($document([1 => ['/S' => '2 0 R'], 2 => '1 0 R', 3 => ['/S' => '3 0 R']])), 'objects that point in a circle');
        self::assertSame(1, PdfCheck::pages($document([1 => ['/Type' => '2 0 R'], 2 => '/Page'])));
    }
}
