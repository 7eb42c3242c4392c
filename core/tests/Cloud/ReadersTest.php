<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Lzf;
use Skeno\Core\Cloud\RefusedCloud;

final class ReadersTest extends TestCase
{
    private const HEADER = "# .PCD v0.7\nVERSION 0.7\nFIELDS x y z intensity\nSIZE 4 4 4 4\nTYPE F F F F\nCOUNT 1 1 1 1\nWIDTH 3\nHEIGHT 1\nVIEWPOINT 0 0 0 1 0 0 0\nPOINTS 3\n";

    /** Three points and their strengths, column by column. */
    private const X = [1.5, -2.25, 1000.125];

    private const Y = [2.0, 0.0, -7.5];

    private const Z = [0.5, -0.5, 3.0];

    private const I = [0.0, 12.0, 255.0];

    private Clouds $clouds;

    protected function setUp(): void
    {
        $this->clouds = new Clouds;
    }

    /** @return iterable<string, array{string, string}> the same three points as every format has them */
    public static function formats(): iterable
    {
        $records = '';
        foreach (self::X as $i => $x) {
            $records .= pack('gggg', $x, self::Y[$i], self::Z[$i], self::I[$i]);
        }
        $columns = pack('g*', ...self::X).pack('g*', ...self::Y).pack('g*', ...self::Z).pack('g*', ...self::I);
        // as they are, at most 32 bytes at a time
        $packed = implode('', array_map(static fn (string $some): string => chr(strlen($some) - 1).$some, str_split($columns, 32)));
        yield 'PCD in words' => [self::HEADER."DATA ascii\n1.5 2 0.5 0\n-2.25 0 -0.5 12\n\n1000.125 -7.5 3 255\n", 'a.pcd'];
        yield 'PCD as records' => [self::HEADER."DATA binary\n{$records}", 'a.pcd'];
        yield 'PCD packed' => [self::HEADER."DATA binary_compressed\n".pack('VV', strlen($packed), strlen($columns)).$packed, 'a.pcd'];
        yield 'KITTI' => [$records, '000001.bin'];
        yield 'PLY in words' => ["ply\nformat ascii 1.0\ncomment made up\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty uchar intensity\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n1.5 2 0.5 0\n-2.25 0 -0.5 12\n1000.125 -7.5 3 255\n3 0 1 2\n", 'a.ply'];
        foreach (['little' => ['e', ''], 'big' => ['E', '']] as $order => [$code]) {
            $body = '';
            foreach (self::X as $i => $x) {
                $body .= pack("{$code}{$code}{$code}C", $x, self::Y[$i], self::Z[$i], (int) self::I[$i]);
            }
            yield "PLY, {$order} end first" => ["ply\nformat binary_{$order}_endian 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\nproperty uint8 intensity\nend_header\n{$body}", 'a.ply'];
        }
        yield 'XYZ' => ["1.5 2 0.5 0\n-2.25 0 -0.5 12\n1000.125 -7.5 3 255\n", 'a.xyz'];
        yield 'CSV that names its columns' => ["\u{FEFF}\"intensity\",\"x\",\"y\",\"z\"\n0,1.5,2,0.5\n12,-2.25,0,-0.5\n255,1000.125,-7.5,3\n", 'a.csv'];
        yield 'CSV with semicolons' => ["x;y;z;intensity\r\n1.5;2;0.5;0\r\n-2.25;0;-0.5;12\r\n1000.125;-7.5;3;255\r\n", 'a.csv'];
        yield 'XYZ with a remark that names them' => ["// x y z intensity\n1.5 2 0.5 0\n# between\n-2.25 0 -0.5 12\n1000.125 -7.5 3 255\n", 'a.xyz'];
        yield 'LAS' => [self::las(3, 0, 20), 'a.las'];
    }

    /** A LAS file of the three points: a thousandth of a metre is one, x counted from 100. */
    private static function las(int $count, int $format, int $length, int $minor = 2): string
    {
        $head = str_pad('LASF', 24, "\0").chr(1).chr($minor).str_repeat("\0", 68).pack('vVV', 227, 227, 0).chr($format).pack('vV', $length, $count).str_repeat("\0", 20).pack('e*', 0.001, 0.001, 0.001, 100.0, 0.0, 0.0).str_repeat("\0", 48);
        $body = '';
        foreach (self::X as $i => $x) {
            $body .= str_pad(pack('VVVvCC', (int) round(($x - 100) * 1000), (int) (self::Y[$i] * 1000), (int) (self::Z[$i] * 1000), (int) self::I[$i], 0, 0b0110_0010), $length, "\0");
        }

        return $head.$body;
    }

    #[DataProvider('formats')]
    public function test_every_format_has_the_same_points(string $bytes, string $name): void
    {
        $points = $this->clouds->points($bytes, $name);
        self::assertEqualsWithDelta(self::X, $points->x, 1e-9);
        self::assertEqualsWithDelta(self::Y, $points->y, 1e-9);
        self::assertEqualsWithDelta(self::Z, $points->z, 1e-9);
        self::assertEqualsWithDelta(self::I, $points->intensity ?? [], 1e-9);
        self::assertTrue(CloudFile::isOne(substr($bytes, 0, 1024)) || CloudFile::isNamed($name));
    }

    public function test_what_stands_beside_the_points(): void
    {
        self::assertSame([2, 2, 2], $this->clouds->points(self::las(3, 0, 20), 'a.las')->class, 'five bits of the byte');
        $coloured = $this->clouds->points("x y z r g b\n0 0 0 255 128 1\n", 'a.xyz');
        self::assertSame([0xFF8001], $coloured->colour);
        self::assertNull($coloured->intensity);
        $pcd = "VERSION .7\nFIELDS x y z rgb label\nSIZE 4 4 4 4 2\nTYPE F F F F U\nCOUNT 1 1 1 1 1\nWIDTH 1\nHEIGHT 1\nPOINTS 1\nDATA binary\n".pack('gggVv', 1, 2, 3, 0xFF102030, 40);
        $points = $this->clouds->points($pcd, 'a.pcd');
        self::assertSame([[0x102030], [40]], [$points->colour, $points->class]);
        // fields nobody asks for, of several values each, are passed by
        $wide = "VERSION .7\nFIELDS x normal y z\nSIZE 4 4 4 4\nTYPE F F F F\nCOUNT 1 3 1 1\nWIDTH 2\nHEIGHT 1\nPOINTS 2\n";
        $records = pack('g*', 1, 9, 9, 9, 2, 3).pack('g*', 4, 9, 9, 9, 5, 6);
        $columns = pack('g*', 1, 4).pack('g*', 9, 9, 9, 9, 9, 9).pack('g*', 2, 5).pack('g*', 3, 6);
        foreach (["{$wide}DATA binary\n{$records}", "{$wide}DATA ascii\n1 9 9 9 2 3\n4 9 9 9 5 6\n", "{$wide}DATA binary_compressed\n".pack('VV', 50, 48).chr(23).substr($columns, 0, 24).chr(23).substr($columns, 24)] as $bytes) {
            $points = $this->clouds->points($bytes, 'a.pcd');
            self::assertSame([[1.0, 4.0], [2.0, 5.0], [3.0, 6.0]], [$points->x, $points->y, $points->z]);
        }
    }

    public function test_places_that_are_no_numbers_keep_their_points_in_order(): void
    {
        $points = $this->clouds->points(self::HEADER."DATA ascii\nnan nan nan 0\n-2.25 0 -0.5 12\ninf 0 0 1\n", 'a.pcd');
        self::assertCount(3, $points->x);
        self::assertNan($points->x[0]);
        self::assertSame(-2.25, $points->x[1]);
    }

    public function test_more_points_than_are_held_at_a_time(): void
    {
        $words = '';
        for ($i = 0; $i < 40_000; $i++) {
            $words .= "{$i} 0 1\n";
        }
        $points = $this->clouds->points($words, 'a.xyz');
        self::assertCount(40_000, $points->x);
        self::assertSame(39_999.0, $points->x[39_999]);
    }

    public function test_lzf(): void
    {
        self::assertSame('abcabcabcabcX', Lzf::unpack("\x02abc".chr(7 << 5).chr(0).chr(2)."\x00X", 13), 'nine bytes that repeat what they make');
        self::assertSame(str_repeat('a', 280), Lzf::unpack("\x00a".chr(7 << 5).chr(255).chr(0).chr(7 << 5).chr(6).chr(0), 280), 'long ones');
        foreach (['cut off in what is as it is' => "\x05abc", 'reaching before the beginning' => "\x00a".chr(1 << 5).chr(9), 'cut off in a copy' => "\x00a".chr(7 << 5), 'too long' => "\x02abc".chr(7 << 5).chr(0).chr(2)] as $why => $packed) {
            try {
                Lzf::unpack($packed, 4);
                self::fail($why);
            } catch (RefusedCloud $e) {
                self::assertStringContainsString('packed points', $e->getMessage());
            }
        }
    }

    /** @return iterable<string, array{string, string, string}> */
    public static function broken(): iterable
    {
        $records = str_repeat(pack('gggg', 1, 2, 3, 4), 3);
        yield 'header cut off' => [substr(self::HEADER, 0, 60), 'a.pcd', 'header'];
        yield 'a header without an end' => ["VERSION .7\n".str_repeat("# nothing\n", 9_000), 'a.pcd', 'header'];
        yield 'records cut off' => [self::HEADER."DATA binary\n".substr($records, 0, 40), 'a.pcd', 'ends after 2'];
        yield 'words cut off' => [self::HEADER."DATA ascii\n1 2 3 4\n", 'a.pcd', 'ends after 1'];
        yield 'a word that is no number' => [self::HEADER."DATA ascii\n1 2 three 4\n1 2 3 4\n1 2 3 4\n", 'a.pcd', '"three"'];
        yield 'too few values' => [self::HEADER."DATA ascii\n1 2\n", 'a.pcd', 'lacks values'];
        yield 'a thousand million points' => [str_replace(['POINTS 3', 'WIDTH 3'], ['POINTS 1000000000', 'WIDTH 1000000000'], self::HEADER)."DATA binary\n", 'a.pcd', '1,000,000,000'];
        yield 'sizes that contradict each other' => [str_replace('WIDTH 3', 'WIDTH 2', self::HEADER)."DATA binary\n{$records}", 'a.pcd', 'contradicts itself'];
        yield 'packed sizes that lie' => [self::HEADER."DATA binary_compressed\n".pack('VV', 4, 4_000_000_000).'abcd', 'a.pcd', 'contradicts itself'];
        yield 'packed and cut off' => [self::HEADER."DATA binary_compressed\n".pack('VV', 400, 48).'abcd', 'a.pcd', 'cut off'];
        yield 'no z' => [str_replace(['x y z intensity'], ['x y q intensity'], self::HEADER)."DATA binary\n{$records}", 'a.pcd', 'no z'];
        yield 'a kind nobody knows' => [str_replace('TYPE F F F F', 'TYPE F F F X', self::HEADER)."DATA binary\n{$records}", 'a.pcd', 'intensity'];
        yield 'a point of a million values' => [str_replace('COUNT 1 1 1 1', 'COUNT 1 1 1 1000000', self::HEADER)."DATA binary\n", 'a.pcd', 'bytes'];
        yield 'no points' => [str_replace(['POINTS 3', 'WIDTH 3'], ['POINTS 0', 'WIDTH 0'], self::HEADER)."DATA binary\n", 'a.pcd', 'no points'];
        yield 'KITTI, not whole' => [substr($records, 0, 17), 'a.bin', 'whole points'];
        yield 'KITTI, empty' => ['', 'a.bin', 'no points'];
        yield 'PLY of a kind nobody knows' => ["ply\nformat binary_middle_endian 1.0\nelement vertex 1\nproperty float x\nend_header\n", 'a.ply', 'binary_middle_endian'];
        yield 'PLY with a list in its vertices' => ["ply\nformat ascii 1.0\nelement vertex 1\nproperty list uchar int x\nend_header\n1 1\n", 'a.ply', 'list'];
        yield 'PLY cut off' => ["ply\nformat binary_little_endian 1.0\nelement vertex 9\nproperty float x\nproperty float y\nproperty float z\nend_header\n".$records, 'a.ply', 'ends after 4'];
        yield 'LAZ' => [self::las(3, 128, 20), 'a.laz', 'LAZ'];
        yield 'LAS of a format nobody knows' => [self::las(3, 11, 20), 'a.las', 'format 11'];
        yield 'LAS with points shorter than they are' => [self::las(3, 3, 20), 'a.las', 'format 3'];
        yield 'LAS that says more than it has' => [self::las(4, 0, 20), 'a.las', 'ends after 3'];
        yield 'LAS of a thousand million points' => [self::las(1_000_000_000, 0, 20), 'a.las', '1,000,000,000'];
        yield 'XYZ of words' => ["the old wall\n", 'a.xyz', 'first line'];
        yield 'XYZ that stops being one' => ["1 2 3\nfour 5 6\n", 'a.xyz', 'line 2'];
        yield 'XYZ, empty' => ['', 'a.xyz', 'no points'];
        yield 'CSV with two columns of one name' => ["x,y,z,x\n1,2,3,4\n", 'a.csv', 'one name'];
    }

    #[DataProvider('broken')]
    public function test_what_is_broken_is_refused_by_what_is_wrong(string $bytes, string $name, string $said): void
    {
        $this->expectException(RefusedCloud::class);
        $this->expectExceptionMessageMatches('/'.preg_quote($said, '/').'/');
        $this->clouds->points($bytes, $name);
    }

    public function test_limits(): void
    {
        $this->expectException(RefusedCloud::class);
        $this->expectExceptionMessageMatches('/at most 2/');
        Clouds::all($this->clouds->open("1 2 3\n1 2 3\n1 2 3\n", 'a.xyz', new CloudLimits(2)));
    }

    public function test_a_table_about_files_is_no_cloud(): void
    {
        self::assertFalse(CloudFile::isOne("file,frame,track,class,x,y,z\n"));
        self::assertFalse(CloudFile::isOne("text,weight\n"));
        self::assertTrue(CloudFile::isOne("x,y,z\n1,2,3\n"));
    }
}
