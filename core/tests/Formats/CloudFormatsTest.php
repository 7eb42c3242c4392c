<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Cloud\Clouds;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Thinning;

/** Cuboids of clouds out into files and back in. */
final class CloudFormatsTest extends TestCase
{
    private const HEAD = "file,frame,track,class,x,y,z,length,width,height,qx,qy,qz,qw\n";

    private static function codebook(): Codebook
    {
        return Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'bin', 'name' => 'Bin', 'shapes' => ['cuboid']],
            ['key' => 'post', 'name' => 'Post', 'shapes' => ['cuboid']],
        ]]);
    }

    /** A bin that turns past the half circle over six frames, hidden in its last two; a post in one. */
    private static function cloud(string $path = 'north/pass-1', int $frames = 6): DatasetItem
    {
        return new DatasetItem($path, 0, 0, str_repeat('b', 64), Labelled::Objects, [
            Mark::along(Samples::id(1), 'bin', [Key::of(0, Cuboid::of([1, 2, 0.4], [1.2, 1.0, 0.8], 170)), Key::of(4, Cuboid::of([5, 2, 0.4], [1.2, 1.0, 0.8], -150)), Key::of(5, Cuboid::of([5, 2, 0.4], [1.2, 1.0, 0.8], -150), hidden: true)], Places::stretch(0, 5)),
            Mark::along(Samples::id(2), 'post', [Key::of(2, Cuboid::of([1.23456, -2, 1.1], [0.1, 0.1, 2.2], 33.333))], Places::stretch(2, 2)),
        ], frames: $frames);
    }

    /** @return list<ReadLabels|Skipped|Notice> */
    private static function read(string $csv, int $frames = 6): array
    {
        file_put_contents($file = Samples::temporaryFolder().'/labels.csv', $csv);

        return iterator_to_array(Format::Cuboids->reader(self::codebook(), self::ids())->read($file, new KnownPictures([
            new KnownPicture(1, 'north/pass-1', 0, 0, $frames, isCloud: true), new KnownPicture(2, 'north/one.pcd', 0, 0, 1, isCloud: true), new KnownPicture(3, 'a.jpg', 10, 10),
        ])), false);
    }

    private static function ids(): \Closure
    {
        $n = 0;

        return static function () use (&$n): string {
            return Samples::id(100 + ++$n);
        };
    }

    public function test_every_frame_has_its_line_with_what_lies_between_worked_out(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $asked = [];
        $points = static function (DatasetItem $item, int $frame, array $cuboids) use (&$asked): array {
            $asked[] = [$item->path, $frame, count($cuboids)];

            return array_map(static fn (Cuboid $cuboid): int => (int) ($cuboid->size[2] * 100), $cuboids);
        };
        $report = Format::Cuboids->writer(self::codebook(), points: $points)->write(Samples::dataset([self::cloud()], self::codebook()), $folder, false)->toArray();
        $lines = explode("\n", trim($folder->read('cuboids.csv', 1 << 20)));
        self::assertSame('file,frame,track,class,x,y,z,length,width,height,qx,qy,qz,qw,points', $lines[0]);
        self::assertSame('north/pass-1,0,1,Bin,1,2,0.4,1.2,1,0.8,0,0,0.9961947,0.08715574,80', $lines[1]);
        // 190 degrees are -170, half way on
        self::assertSame('north/pass-1,2,1,Bin,3,2,0.4,1.2,1,0.8,0,0,-0.9961947,0.08715574,80', $lines[3]);
        self::assertSame('north/pass-1,2,2,Post,1.2346,-2,1.1,0.1,0.1,2.2,0,0,0.28680045,0.95799035,220', $lines[4]);
        self::assertCount(7, $lines);
        self::assertSame([['north/pass-1', 0, 1], ['north/pass-1', 1, 1], ['north/pass-1', 2, 2], ['north/pass-1', 3, 1], ['north/pass-1', 4, 1]], $asked);
        self::assertSame([['what' => 'frames in which an object is hidden were left out', 'count' => 1]], $report);
    }

    public function test_what_is_written_is_read_the_same_and_an_edition_proves_it(): void
    {
        $nothing = new DatasetItem('north/empty.pcd', 0, 0, str_repeat('c', 64), Labelled::Nothing, [], frames: 1);
        $open = new DatasetItem('north/open.pcd', 0, 0, str_repeat('d', 64), Labelled::Unlabelled, [], frames: 1);
        $picture = new DatasetItem('a.jpg', 10, 10, str_repeat('e', 64), Labelled::Nothing, []);
        $dataset = Samples::dataset([self::cloud(), $nothing, $open, $picture], self::codebook());
        $recipe = Recipe::fromArray([], self::codebook());
        $target = Samples::temporaryFolder().'/out';
        $edition = Edition::write($dataset, $recipe, self::codebook(), Format::Cuboids, false, $target, []);
        self::assertSame([2, []], [$edition['compared']['marks'], $edition['compared']['differences']]);
        self::assertContains('items that are no clouds were left out', array_column($edition['mapping'], 'what'));
        // and whole, in our own
        $whole = Edition::write($dataset, $recipe, self::codebook(), Format::Skeno, false, Samples::temporaryFolder().'/out', []);
        self::assertSame([], $whole['compared']['differences']);
        // a format of pictures says that it has none of them
        $coco = Edition::write($dataset, $recipe, self::codebook(), Format::Coco, false, Samples::temporaryFolder().'/out', []);
        self::assertContains('clouds can not be said in this format and were left out', array_column($coco['mapping'], 'what'));
    }

    /** A dataset of one cloud, with its files. */
    private static function onFile(DatasetItem $item, string $file): Dataset
    {
        return new Dataset('row', self::codebook(), static fn (): array => [$item], static fn (): string => $file);
    }

    /** @return list<array{int, int}> class and object of each point */
    private static function labels(string $file): array
    {
        return array_map(static fn (int $value): array => [$value & 0xFFFF, $value >> 16], array_values(unpack('V*', (string) file_get_contents($file)) ?: []));
    }

    public function test_every_point_is_told_what_it_is_of_in_the_order_of_its_scan(): void
    {
        $clouds = new Clouds;
        // in the bin; in it too; in both, of which the post is smaller; nowhere; no place at all; in the post
        $bytes = Clouds::kitti([[1, 2, 0.5], [1.5, 2, 0.5], [1.4, 2, 0.5], [4, 4, 0], [NAN, 2, 0.5], [1.4, 2, 2.0]]);
        Sequence::make([[$clouds->file($bytes, 'a.bin'), '000007.bin'], [$clouds->file($bytes, 'b.bin'), '000009.bin']], $zip = "{$clouds->folder}/s.zip");
        $item = new DatasetItem('pass', 0, 0, str_repeat('b', 64), Labelled::Objects, [
            Mark::along(Samples::id(1), 'bin', [Key::of(0, Cuboid::of([1, 2, 0.5], [1.2, 1.0, 1.0], 0))], Places::stretch(0, 1)),
            Mark::along(Samples::id(2), 'post', [Key::of(0, Cuboid::of([1.4, 2, 1.1], [0.1, 0.1, 2.2], 0)), Key::of(1, Cuboid::of([1.4, 2, 1.1], [0.1, 0.1, 2.2], 0), hidden: true)], Places::stretch(0, 1)),
        ], frames: 2, rig: new Rig([], ['000007', '000009']));
        $recipe = Recipe::fromArray([], self::codebook());
        $asked = static fn (DatasetItem $item, int $frame, array $cuboids): array => array_fill(0, count($cuboids), 3);
        $edition = Edition::write(self::onFile($item, $zip), $recipe, self::codebook(), Format::Points, true, $out = Samples::temporaryFolder().'/out', [], points: $asked);
        self::assertSame([2, []], [$edition['compared']['marks'], $edition['compared']['differences']]);
        self::assertSame("Bin\nPost\n", file_get_contents("{$out}/labels.txt"));
        self::assertSame([[1, 1], [1, 1], [2, 2], [0, 0], [0, 0], [2, 2]], self::labels("{$out}/pass/000007.label"));
        // where the post is hidden the bin is alone
        self::assertSame([[1, 1], [1, 1], [1, 1], [0, 0], [0, 0], [0, 0]], self::labels("{$out}/pass/000009.label"));
        self::assertStringContainsString('pass,0,2,Post,', (string) file_get_contents("{$out}/cuboids.csv"));
        // the points too, as a PCD that is read by what reads any
        $points = Clouds::all(CloudFile::open("{$out}/pass/000007.pcd", '000007.pcd', new CloudLimits));
        self::assertEqualsWithDelta([1.0, 1.5, 1.4, 4.0], array_slice($points->x, 0, 4), 1e-6);
        self::assertSame([1, 1, 2, 0, 0, 2], $points->class);
        self::assertStringContainsString('FIELDS x y z intensity label object', (string) file_get_contents("{$out}/pass/000007.pcd", length: 200));
        self::assertSame([], glob("{$out}*scans") ?: []);
        self::assertSame([], glob("{$out}/pass/*.part") ?: []);
    }

    public function test_of_a_single_scan_and_of_one_nobody_has_labelled(): void
    {
        $clouds = new Clouds;
        $file = $clouds->file(Clouds::kitti([[1, 2, 0.5], [9, 9, 9]]), '0001.bin');
        $item = static fn (Labelled $labelled, array $marks): DatasetItem => new DatasetItem('row/0001.bin', 0, 0, str_repeat('b', 64), $labelled, $marks, frames: 1);
        $nothing = new Folder(Samples::temporaryFolder());
        Format::Points->writer(self::codebook())->write(self::onFile($item(Labelled::Nothing, []), $file), $nothing, false);
        self::assertSame([[0, 0], [0, 0]], self::labels($nothing->file('row/0001.bin/0001.label')));
        self::assertFalse($nothing->has('row/0001.bin/0001.pcd'));
        $open = new Folder(Samples::temporaryFolder());
        Format::Points->writer(self::codebook())->write(self::onFile($item(Labelled::Unlabelled, []), $file), $open, false);
        self::assertFalse($open->has('row/0001.bin/0001.label'));
    }

    public function test_lines_become_tracks_with_the_keys_that_say_the_same(): void
    {
        $rows = '';
        for ($frame = 0; $frame < 6; $frame++) {
            $rows .= "north/pass-1,{$frame},7,Bin,".(1 + $frame * ($frame > 3 ? 2 : 1)).",2,0.4,1.2,1,0.8,0,0,0,1\n";
        }
        [$read] = self::read(self::HEAD.$rows."north/pass-1,0,8,post,1,1,1,0.1,0.1,2,0,0,0,1\n");
        self::assertInstanceOf(ReadLabels::class, $read);
        self::assertSame([[0, 1, 2, 3, 4, 5], [0]], array_map(static fn (Mark $mark): array => array_values(array_map(static fn (Key $key): int => $key->place, $mark->keys)), $read->marks));
        self::assertSame([0, 3, 4, 5], array_map(static fn (Key $key): int => $key->place, Thinning::same(array_values($read->marks[0]->keys))));
        self::assertSame(['bin', 'post'], array_column($read->marks, 'class'));
        // without frames and tracks each line is a thing of its own
        [$one] = self::read("class,file,x,y,z,length,width,height,qx,qy,qz,qw\nBin,north/one.pcd,1,2,3,1,1,1,0,0,1,0\nBin,north/one.pcd,1,2,3,1,1,1,0,0,0,2\n");
        self::assertInstanceOf(ReadLabels::class, $one);
        self::assertSame([180.0, 0.0], array_map(static fn (Mark $mark): float => $mark->geometry instanceof Cuboid ? $mark->geometry->heading : NAN, $one->marks));
        [$nothing] = self::read(self::HEAD."north/one.pcd,,,,,,,,,,,,,\n");
        self::assertInstanceOf(ReadLabels::class, $nothing);
        self::assertSame(Labelled::Nothing, $nothing->labelled);
    }

    public function test_json_says_what_the_table_says(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $nothing = new DatasetItem('north/one.pcd', 0, 0, str_repeat('c', 64), Labelled::Nothing, [], frames: 1);
        Format::Cuboids->writer(self::codebook(), points: static fn (DatasetItem $item, int $frame, array $cuboids): array => array_fill(0, count($cuboids), 7))->write(Samples::dataset([self::cloud(), $nothing], self::codebook()), $folder, false);
        $data = json_decode($folder->read('cuboids.json'), true);
        self::assertSame('cuboids/1', $data['skeno']);
        self::assertEquals(['file' => 'north/pass-1', 'frame' => 0, 'track' => 1, 'class' => 'Bin', 'center' => [1, 2, 0.4], 'size' => [1.2, 1, 0.8], 'rotation' => [0, 0, 0.9961947, 0.08715574], 'points' => 7], $data['cuboids'][0]);
        self::assertSame(['file' => 'north/one.pcd'], $data['cuboids'][6]);
        $of = static fn (string $file): array => array_map(static fn (ReadLabels|Skipped|Notice $one): array => $one instanceof ReadLabels ? [$one->picture->path, $one->labelled?->value, array_map(static fn (Mark $mark): array => array_diff_key($mark->toArray(), ['id' => 0]), $one->marks)] : [], iterator_to_array(Format::Cuboids->reader(self::codebook(), self::ids())->read($folder->file($file), new KnownPictures([
            new KnownPicture(1, 'north/pass-1', 0, 0, 6, isCloud: true), new KnownPicture(2, 'north/one.pcd', 0, 0, 1, isCloud: true),
        ])), false));
        self::assertSame($of('cuboids.csv'), $of('cuboids.json'));
        // where a folder has no table the JSON is read
        unlink($folder->file('cuboids.csv'));
        self::assertCount(2, $of(''));
    }

    /** @return iterable<string, array{string, string}> */
    public static function brokenJson(): iterable
    {
        $one = ['file' => 'north/pass-1', 'frame' => 0, 'class' => 'Bin', 'center' => [1, 2, 3], 'size' => [1, 1, 1], 'rotation' => [0, 0, 0, 1]];
        $of = static fn (array $change): string => (string) json_encode(['cuboids' => [array_merge($one, $change)]]);
        yield 'a side is missing' => [$of(['size' => [1, 1]]), 'size'];
        yield 'a word for a number' => [$of(['center' => [1, '2', 3]]), 'center[1]'];
        yield 'no quaternion' => [$of(['rotation' => [0, 0, 0, 0]]), 'unit quaternion'];
        yield 'a frame there is not' => [$of(['frame' => 6]), 'a frame from 0 to 5'];
        yield 'a list for a class' => [$of(['class' => ['Bin']]), 'class'];
        yield 'no object' => ['{"cuboids": [7]}', 'cuboid'];
    }

    #[DataProvider('brokenJson')]
    public function test_elements_that_are_broken_are_named(string $json, string $said): void
    {
        file_put_contents($file = Samples::temporaryFolder().'/labels.json', $json);
        $read = iterator_to_array(Format::Cuboids->reader(self::codebook(), self::ids())->read($file, new KnownPictures([new KnownPicture(1, 'north/pass-1', 0, 0, 6, isCloud: true)])), false);
        $skipped = array_values(array_filter($read, static fn (object $one): bool => $one instanceof Skipped));
        self::assertCount(1, $skipped);
        self::assertSame('cuboid 1', $skipped[0]->place);
        self::assertStringContainsString($said, $skipped[0]->reason);
    }

    public function test_json_without_cuboids_is_refused(): void
    {
        foreach (['{"boxes": []}', '{"cuboids": [', ''] as $json) {
            file_put_contents($file = Samples::temporaryFolder().'/labels.json', $json);
            try {
                iterator_to_array(Format::Cuboids->reader(self::codebook(), self::ids())->read($file, new KnownPictures([])), false);
                self::fail("{$json} was taken");
            } catch (UnreadableLabels $e) {
                self::assertStringContainsString('labels.json', $e->getMessage());
            }
        }
    }

    public function test_what_leans_is_held_upright_and_said(): void
    {
        $half = deg2rad(2) / 2;
        $found = self::read(self::HEAD.'north/one.pcd,0,1,Bin,1,2,3,1,1,1,'.sin($half).',0,0,'.cos($half)."\n");
        self::assertInstanceOf(Notice::class, $found[0]);
        self::assertInstanceOf(ReadLabels::class, $found[1]);
    }

    /** @return iterable<string, array{string, string}> */
    public static function broken(): iterable
    {
        yield 'a file nobody knows' => ['north/none,0,1,Bin,1,2,3,1,1,1,0,0,0,1', 'north/none'];
        yield 'a picture' => ['a.jpg,0,1,Bin,1,2,3,1,1,1,0,0,0,1', 'is no cloud'];
        yield 'a class nobody knows' => ['north/pass-1,0,1,Ladder,1,2,3,1,1,1,0,0,0,1', 'Ladder'];
        yield 'a frame there is not' => ['north/pass-1,6,1,Bin,1,2,3,1,1,1,0,0,0,1', '0 to 5'];
        yield 'no frame of several' => ['north/pass-1,,1,Bin,1,2,3,1,1,1,0,0,0,1', '0 to 5'];
        yield 'a word' => ['north/pass-1,0,1,Bin,one,2,3,1,1,1,0,0,0,1', '"one"'];
        yield 'not a number' => ['north/pass-1,0,1,Bin,nan,2,3,1,1,1,0,0,0,1', 'nan'];
        yield 'a negative side' => ['north/pass-1,0,1,Bin,1,2,3,1,-1,1,0,0,0,1', 'size[1]'];
        yield 'no rotation' => ['north/pass-1,0,1,Bin,1,2,3,1,1,1,0,0,0,0', 'unit quaternion'];
        yield 'lying on its side' => ['north/pass-1,0,1,Bin,1,2,3,1,1,1,0.7071,0,0,0.7071', 'leaning by 90'];
        yield 'too short' => ['north/pass-1,0,1,Bin,1,2,3', 'a number'];
        yield 'twice in a frame' => ["north/pass-1,0,1,Bin,1,2,3,1,1,1,0,0,0,1\nnorth/pass-1,0,1,Bin,1,2,3,1,1,1,0,0,0,1", 'in it already'];
        yield 'of two classes' => ["north/pass-1,0,1,Bin,1,2,3,1,1,1,0,0,0,1\nnorth/pass-1,1,1,Post,1,2,3,1,1,1,0,0,0,1", 'as track 1 was before'];
        yield 'a file that comes back' => ["north/pass-1,0,1,Bin,1,2,3,1,1,1,0,0,0,1\nnorth/one.pcd,0,1,Bin,1,2,3,1,1,1,0,0,0,1\nnorth/pass-1,1,1,Bin,1,2,3,1,1,1,0,0,0,1", 'stand together'];
    }

    #[DataProvider('broken')]
    public function test_lines_that_are_broken_are_named(string $lines, string $said): void
    {
        $skipped = array_values(array_filter(self::read(self::HEAD."{$lines}\n"), static fn ($read): bool => $read instanceof Skipped));
        self::assertCount(1, $skipped);
        self::assertStringContainsString($said, $skipped[0]->reason);
    }

    public function test_a_table_without_its_columns_is_refused(): void
    {
        $this->expectException(UnreadableLabels::class);
        $this->expectExceptionMessageMatches('/no column "length"/');
        self::read("file,class,x,y,z\n");
    }

    public function test_the_rules_of_marks_in_space(): void
    {
        $check = new MarkCheck(self::codebook());
        $on = Extent::space(6);
        $cuboid = static fn (float $height): Mark => Mark::along(Samples::id(1), 'bin', [Key::of(0, Cuboid::of([1, 2, 3], [1, 1, $height], 0))], Places::stretch(0, 5));
        $check->admit($cuboid(1), $on);
        self::assertTrue($check->draws($on));
        self::assertSame([], $check->item([$cuboid(1)], $on));
        self::assertSame([['empty', true, 0]], array_map(static fn ($finding): array => [$finding->code, $finding->stops, $finding->place], $check->item([$cuboid(0)], $on)));
        foreach ([[Mark::along(Samples::id(1), 'bin', [Key::of(0, Box::of(1, 1, 2, 2))], Places::stretch(0, 5)), $on], [$cuboid(1), Extent::plane(10, 10, 6)]] as [$mark, $where]) {
            try {
                $check->admit($mark, $where);
                self::fail('it lies where it can not');
            } catch (InvalidValue $e) {
                self::assertStringContainsString('kind', $e->getMessage());
            }
        }
        $this->expectException(InvalidValue::class);
        MarkCheck::mustBeVisible($cuboid(0), $on, 'mark');
    }
}
