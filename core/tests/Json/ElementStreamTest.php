<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Json;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Json\ElementStream;
use Skeno\Core\Json\MalformedJson;

final class ElementStreamTest extends TestCase
{
    /**
     * @param  list<string>  $members
     * @return list<array{string, int|null, mixed}>
     */
    private static function read(string $json, array $members = []): array
    {
        $stream = fopen('php://memory', 'w+b');
        self::assertIsResource($stream);
        fwrite($stream, $json);
        rewind($stream);

        return iterator_to_array(ElementStream::read($stream, ['a', 'b'], $members), false);
    }

    public function test_elements_come_one_by_one_and_members_whole(): void
    {
        $read = self::read("\xEF\xBB\xBF { \"x\" : {\"a\":[1]}, \"a\" : [ {\"k\":\"]\\\"}\"} , 2,\"t\", [3,[4]] ] ,\n\"m\":[1,2],\"b\":[] }", ['m']);
        self::assertSame([['a', 0, ['k' => ']"}']], ['a', 1, 2], ['a', 2, 't'], ['a', 3, [3, [4]]], ['m', null, [1, 2]], ['b', null, []]], $read);
    }

    /** Random documents, padded so that every kind of token falls on the edge of a chunk, agree with json_decode. */
    public function test_agrees_with_the_whole_reader_across_chunk_edges(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(3));
        $value = function (int $depth) use (&$value, $random): mixed {
            return match ($random->getInt(0, $depth > 3 ? 4 : 6)) {
                0 => $random->getInt(-1000, 1000),
                1 => $random->getInt(0, 1000) / 7,
                2 => ['"', '\\', 'ü€', 'a\\"b]}{[', '', "\n\t"][$random->getInt(0, 5)],
                3 => true,
                4 => null,
                5 => array_map(fn (): mixed => $value($depth + 1), range(1, $random->getInt(1, 4))),
                default => ['k"' => $value($depth + 1), 'l' => $value($depth + 1)],
            };
        };
        for ($run = 0; $run < 60; $run++) {
            $document = ['pad' => str_repeat('x\\"', (1 << 18) / 4 - $random->getInt(0, 60)), 'a' => array_map(fn (): mixed => $value(0), range(1, 40)), 'b' => [$value(0)]];
            $json = json_encode($document, $run % 2 === 0 ? JSON_PRETTY_PRINT : 0);
            $read = self::read((string) $json);
            $expected = json_decode((string) $json, true);
            self::assertEquals([...$expected['a'], ...$expected['b']], array_column($read, 2));
        }
    }

    /** @return iterable<string, array{string}> */
    public static function malformed(): iterable
    {
        yield 'nothing' => [''];
        yield 'a list' => ['[1]'];
        yield 'cut off in an element' => ['{"a":[{"x":1'];
        yield 'cut off in a text' => ['{"a":["x'];
        yield 'cut off after an element' => ['{"a":[1'];
        yield 'no comma' => ['{"a":[1 2]}'];
        yield 'not a value' => ['{"a":[nope]}'];
        yield 'no colon' => ['{"a" [1]}'];
        yield 'deeper than allowed' => ['{"a":['.str_repeat('[', 100).str_repeat(']', 100).']}'];
    }

    #[DataProvider('malformed')]
    public function test_malformed_files_are_refused(string $json): void
    {
        $this->expectException(MalformedJson::class);
        self::read($json);
    }
}
