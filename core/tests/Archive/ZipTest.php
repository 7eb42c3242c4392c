<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Archive;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Tests\Samples;
use ZipArchive;

final class ZipTest extends TestCase
{
    /** @param  array<string, string>  $entries */
    private static function zip(array $entries): string
    {
        $file = Samples::temporaryFolder().'/x.zip';
        $zip = new ZipArchive;
        $zip->open($file, ZipArchive::CREATE);
        foreach ($entries as $name => $contents) {
            $zip->addFromString($name, $contents);
        }
        $zip->close();

        return $file;
    }

    /** @return iterable<string, array{string, ?string}> */
    public static function names(): iterable
    {
        yield 'plain' => ['set/a.png', 'set/a.png'];
        yield 'backslashes' => ['set\\a.png', 'set/a.png'];
        yield 'dots' => ['./set//a.png', 'set/a.png'];
        yield 'climbing' => ['../../etc/passwd', null];
        yield 'climbing later' => ['set/../../a.png', null];
        yield 'climbing by backslash' => ['set\\..\\..\\a.png', null];
        yield 'absolute' => ['/etc/passwd', null];
        yield 'drive' => ['C:\\a.png', null];
        yield 'a colon in a name' => ['slope/a:b.png', 'slope/a_b.png'];
        yield 'a letter and a colon' => ['a:b.png', 'a_b.png'];
        yield 'nul' => ["a\0.png", null];
        yield 'nothing' => ['', null];
    }

    #[DataProvider('names')]
    public function test_paths_stay_inside(string $name, ?string $safe): void
    {
        self::assertSame($safe, ZipSource::safePath($name));
    }

    public function test_climbing_entries_are_refused_by_name_and_the_rest_comes(): void
    {
        $source = ZipSource::open(self::zip(['../../evil.png' => 'x', 'set/a.png' => 'y', '__MACOSX/._a.png' => 'z']), 1000, 1000);
        self::assertSame(['set/a.png'], array_keys($source->entries));
        self::assertSame(['../../evil.png'], array_keys($source->refused));
        $target = Samples::temporaryFolder().'/out';
        $source->extract('set/a.png', $target);
        self::assertSame('y', file_get_contents($target));
    }

    public function test_a_bomb_is_refused_before_anything_is_unpacked(): void
    {
        $this->expectException(UnsafeArchive::class);
        $this->expectExceptionMessage('unpacks to more than');
        ZipSource::open(self::zip(['a' => str_repeat("\0", 2_000_000)]), 1_000_000, 10_000_000);
    }

    /** The directory of this zip claims 10 bytes; the entry really holds two million. */
    public function test_a_lying_directory_is_stopped_while_unpacking(): void
    {
        $file = self::zip(['a' => str_repeat("\0", 2_000_000)]);
        $bytes = (string) file_get_contents($file);
        file_put_contents($file, str_replace(pack('V', 2_000_000), pack('V', 10), $bytes));
        $source = ZipSource::open($file, 1_000_000, 100_000);
        $this->expectException(\RuntimeException::class);
        $source->extract('a', Samples::temporaryFolder().'/out');
        self::fail('two million bytes came out: '.filesize($file));
    }

    public function test_what_is_no_zip_is_said_so(): void
    {
        $file = Samples::temporaryFolder().'/x.zip';
        file_put_contents($file, 'not a zip');
        $this->expectExceptionMessage('not a readable zip');
        ZipSource::open($file, 1000, 1000);
    }
}
