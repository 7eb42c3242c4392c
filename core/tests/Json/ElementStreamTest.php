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

    /** Elements from a few bytes to longer than any buffer, each after the other: what is topped up, matched at once or gone through is the same text. */
    public function test_elements_of_every_length_come_back_whole(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(5));
        for ($run = 0; $run < 8; $run++) {
            $elements = [];
            for ($bytes = 0; $bytes < 3 << 20;) {
                // short ones, and some around the length of what is read ahead and of a chunk
                $length = [20, 900, 1 << 16, (1 << 18) - 40, 1 << 18, 700_000][$random->getInt(0, 40) % 6] + $random->getInt(0, 90);
                $elements[] = ['id' => count($elements), 't' => [str_repeat($random->getInt(0, 1) === 0 ? 'x' : '\\"]', intdiv($length, 4)), ['deep' => [[$length]]]]];
                $bytes += $length;
            }
            $read = self::read((string) json_encode(['a' => $elements]));
            self::assertSame($elements, array_column($read, 2));
            self::assertSame(array_keys($elements), array_column($read, 1));
        }
    }

    /** A stream that gives a few bytes at a time, as one that is unpacked on the way may. */
    public function test_a_stream_that_gives_little_at_a_time_is_read_to_its_end(): void
    {
        $elements = array_map(static fn (int $i): array => ['id' => $i, 't' => str_repeat('é', $i % 50)], range(0, 4000));
        $file = (string) tempnam(sys_get_temp_dir(), 'skeno');
        try {
            file_put_contents("compress.zlib://{$file}", (string) json_encode(['a' => $elements]));
            $stream = gzopen($file, 'rb');
            self::assertIsResource($stream);
            stream_set_chunk_size($stream, 37);
            self::assertSame($elements, array_column(iterator_to_array(ElementStream::read($stream, ['a']), false), 2));
        } finally {
            unlink($file);
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
        yield 'closed by the wrong bracket' => ['{"a":[{"x":[1}]}]}'];
        yield 'closed twice' => ['{"a":[{"x":1}}]}'];
        yield 'a text that is not closed in a list that is' => ['{"a":[["x]]}'];
        yield 'half a million lists in one' => ['{"a":[['.str_repeat('[],', 500_001).'[]]]}'];
        yield 'hundred thousand deep' => ['{"a":['.str_repeat('[', 100_000).str_repeat(']', 100_000).']}'];
        yield 'deeper than allowed' => ['{"a":['.str_repeat('[', 100).str_repeat(']', 100).']}'];
    }

    #[DataProvider('malformed')]
    public function test_malformed_files_are_refused(string $json): void
    {
        $this->expectException(MalformedJson::class);
        self::read($json);
    }
}
