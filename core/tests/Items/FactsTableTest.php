<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Items;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Condition;
use Skeno\Core\Items\FactsTable;
use Skeno\Core\Tests\Samples;

final class FactsTableTest extends TestCase
{
    /** @return array<int, array{0: string, 1: array<string, string>}> */
    private static function read(string $csv): array
    {
        $file = (string) tempnam(sys_get_temp_dir(), 'facts');
        file_put_contents($file, $csv);
        try {
            return iterator_to_array(FactsTable::read($file));
        } finally {
            unlink($file);
        }
    }

    public function test_each_line_says_what_is_known_of_a_picture(): void
    {
        self::assertSame(
            [2 => ['slope/a.jpg', ['row' => '7', 'Wetter' => 'Regen, "stark"']], 3 => ['b.jpg', ['row' => '8']]],
            self::read("\xEF\xBB\xBFrow,file,Wetter\r\n7,slope/a.jpg,\"Regen, \"\"stark\"\"\"\r\n8,b.jpg,\r\n,,\r\n"),
        );
        self::assertSame([2 => ['a.jpg', ['height m' => '2.5']]], self::read("Path;height m\na.jpg;2.5\n"), 'with semicolons');
        self::assertSame(200, mb_strlen(self::read("file,x\na.jpg,".str_repeat('é', 500))[2][1]['x']));
        self::assertCount(1, self::read("file,x\na.jpg,bad \xff byte"), 'what is no text is taken as near to it as can be');
    }

    /** @return array<string, array{string}> */
    public static function wrong(): array
    {
        return ['nothing' => [''], 'no picture' => ["row,weather\n1,rain"], 'no fact' => ["file\na.jpg"], 'a name that is none' => ["file,a=b\na.jpg,1"], 'an empty name' => ["file,\na.jpg,1"], 'a fact twice' => ["file,x,x\na.jpg,1,2"], 'too many' => ['file,'.implode(',', array_map(static fn (int $i): string => "f{$i}", range(1, 41)))]];
    }

    #[DataProvider('wrong')]
    public function test_what_is_no_such_table_is_refused(string $csv): void
    {
        $this->expectException(InvalidValue::class);
        self::read($csv);
    }

    public function test_a_condition_on_a_fact_has_a_sign(): void
    {
        $read = static fn (string $text): array => (array) Condition::parse($text, Samples::codebook())->fact;
        self::assertSame(['weather', '=', 'rain=heavy'], $read('fact:weather=rain=heavy'));
        self::assertSame(['height m', '>=', '2.5'], $read('fact:height m>=2.5'));
        self::assertSame(['height m', '<=', '-3'], $read('-fact:height m<=-3'));
        foreach (['fact:weather', 'fact:=rain', 'fact:a"b=1', 'fact:height>=tall', 'fact:a>b'] as $bad) {
            try {
                Condition::parse($bad, Samples::codebook());
                self::fail("{$bad} was taken");
            } catch (InvalidValue $e) {
                self::assertStringContainsString('fact', $e->getMessage());
            }
        }
    }
}
