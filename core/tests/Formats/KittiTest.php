<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\Camera;
use Skeno\Core\Cloud\KittiCalibration;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Kitti\KittiLine;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Cloud\CameraTest;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/** KITTI's labels out and back in, by the camera a sequence came with. */
final class KittiTest extends TestCase
{
    private static function codebook(): Codebook
    {
        return Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'bin', 'name' => 'Fruit bin', 'shapes' => ['cuboid']],
            ['key' => 'post', 'name' => 'Post', 'shapes' => ['cuboid']],
        ]]);
    }

    private static function rig(?Camera $camera = null): Rig
    {
        return new Rig([$camera ?? CameraTest::ahead()], ['000010', '000011', '000012']);
    }

    /** @param  list<Mark>|null  $marks */
    private static function cloud(?Rig $rig, ?array $marks = null): DatasetItem
    {
        return new DatasetItem('north/pass-1', 0, 0, str_repeat('b', 64), Labelled::Objects, $marks ?? [
            Mark::along(Samples::id(1), 'bin', [Key::of(0, Cuboid::of([10, 2, 0.4], [1.2, 1.0, 0.8], 0)), Key::of(2, Cuboid::of([12, 2, 0.4], [1.2, 1.0, 0.8], 90), hidden: true)], Places::stretch(0, 2)),
            // stands behind the camera
            Mark::along(Samples::id(2), 'post', [Key::of(1, Cuboid::of([-6, 0, 1.1], [0.1, 0.1, 2.2], 33.3))], Places::stretch(1, 1)),
        ], frames: 3, rig: $rig);
    }

    /** @return list<ReadLabels|Skipped|Notice> */
    private static function read(string $folder, ?Rig $rig): array
    {
        $n = 0;

        return iterator_to_array(Format::Kitti->reader(self::codebook(), static function () use (&$n): string {
            return Samples::id(100 + ++$n);
        })->read($folder, new KnownPictures([
            new KnownPicture(1, 'north/pass-1', 0, 0, 3, isCloud: true, rig: $rig), new KnownPicture(2, 'a.jpg', 10, 10),
        ])), false);
    }

    /** @param  array<string, string>  $files */
    private static function folder(array $files): string
    {
        $folder = Samples::temporaryFolder();
        foreach ($files as $name => $text) {
            @mkdir(dirname("{$folder}/{$name}"), 0o777, true);
            file_put_contents("{$folder}/{$name}", $text);
        }

        return $folder;
    }

    public function test_a_line_says_a_cuboid_as_the_camera_has_it(): void
    {
        $camera = CameraTest::ahead();
        $cuboid = Cuboid::of([10, 2, 0.5], [2, 1, 1], 0);
        // its near face is 9 m away, its far one 11: 240 - 400 * 2.5 / 9 to 240 - 400 * 1.5 / 11, 160 + 400 * 0.5 / 11 to 160 + 400 * 1.5 / 9
        // 2 m to the left of the camera and 1.5 m under it; it looks away: a quarter turn from the camera's x to its z
        self::assertSame(
            '0.00 0 -1.3734 128.89 178.18 185.45 226.67 1.0000 1.0000 2.0000 -2.0000 1.5000 10.0000 -1.570796',
            implode(' ', KittiLine::write($cuboid, $camera, $camera->around($cuboid) ?? self::fail('it is on the picture'), false)),
        );
        // what faces to the camera's right has no angle
        $right = Cuboid::of([10, 0, 0.5], [2, 1, 1], -90);
        self::assertSame('0.000000', KittiLine::write($right, $camera, $camera->around($right) ?? self::fail('it is on the picture'), true)[13]);
    }

    public function test_an_edition_holds_what_is_on_the_pictures_and_proves_it(): void
    {
        $out = Samples::temporaryFolder().'/set';
        $said = Edition::write(Samples::dataset([self::cloud(self::rig())], self::codebook()), Recipe::fromArray([], self::codebook()), self::codebook(), Format::Kitti, false, $out, []);
        self::assertSame([], $said['compared']['differences']);
        self::assertStringContainsString('on no picture', (string) json_encode($said['mapping']));
        self::assertFileEquals("{$out}/north/pass-1/calib/000010.txt", "{$out}/north/pass-1/calib/000012.txt");
        self::assertEqualsWithDelta(CameraTest::ahead()->toCamera, KittiCalibration::read((string) file_get_contents("{$out}/north/pass-1/calib/000010.txt"), 'a', [480, 320])->toCamera, 1e-9);

        $read = self::read($out, self::rig());
        self::assertCount(1, $read);
        self::assertInstanceOf(ReadLabels::class, $read[0]);
        self::assertSame(['bin', 'bin', 'bin'], array_map(static fn (Mark $mark): string => $mark->class, $read[0]->marks));
        self::assertEquals([10.0, 2.0, 0.4], $read[0]->marks[0]->keys[0]->geometry->center ?? null);
        self::assertSame([0, 1, 2], array_map(static fn (Mark $mark): int => $mark->keys[0]->place, $read[0]->marks));
        self::assertSame([false, false, true], array_map(static fn (Mark $mark): bool => $mark->keys[0]->hidden, $read[0]->marks));
    }

    public function test_without_a_camera_nothing_is_written_and_it_is_said_why(): void
    {
        foreach ([null, new Rig([], []), self::rig(Camera::of('down', 480, 320, [0, -1, 0, 0, -0.5, 0, -0.8660254, 1.5, 0.8660254, 0, -0.5, 0], [400, 0, 240, 0, 0, 400, 160, 0, 0, 0, 1, 0]))] as $rig) {
            self::assertFalse(Format::Kitti->isFor(self::cloud($rig)));
        }
        self::assertTrue(Format::Kitti->isFor(self::cloud(self::rig())));
        $out = Samples::temporaryFolder().'/set';
        $said = Edition::write(Samples::dataset([self::cloud(null)], self::codebook()), Recipe::fromArray([], self::codebook()), self::codebook(), Format::Kitti, false, $out, []);
        self::assertStringContainsString('nobody knows where a camera is', (string) json_encode($said['mapping']));
        self::assertDirectoryDoesNotExist("{$out}/north");
    }

    public function test_labels_without_a_camera_are_passed_over_with_the_reason(): void
    {
        $folder = self::folder(['north/pass-1/label_2/000010.txt' => "Post 0 0 0 0 0 9 9 1 1 1 0 0 9 0\n", 'south/label_2/1.txt' => '', 'a.jpg/label_2/1.txt' => '']);
        foreach ([[self::rig(), 0], [null, 1]] as [$rig, $count]) {
            $read = self::read($folder, $rig);
            $said = array_map(static fn (ReadLabels|Skipped|Notice $one): string => $one instanceof Skipped ? "{$one->file}: {$one->reason}" : '', $read);
            self::assertCount($count, array_filter($said, static fn (string $one): bool => str_contains($one, 'nobody knows where a camera')), implode("\n", $said));
            self::assertStringContainsString('is no cloud', implode("\n", $said));
        }
    }

    /** @return iterable<string, array{string, string}> */
    public static function broken(): iterable
    {
        yield 'too short' => ['Post 0 0 0 0 0 9 9 1 1 1 0 0', '15 values'];
        yield 'a class nobody knows' => ['Tractor 0 0 0 0 0 9 9 1 1 1 0 0 9 0', 'a class of the codebook'];
        yield 'a word' => ['Post 0 0 0 0 0 9 9 1 wide 1 0 0 9 0', 'width'];
        yield 'infinite' => ['Post 0 0 0 0 0 9 9 1 1 1 0 0 1e999 0', 'z'];
        yield 'flat' => ['Post 0 0 0 0 0 9 9 0 1 1 0 0 9 0', 'more than 0 m'];
        yield 'no size, as regions have it' => ['Post -1 -1 -10 0 0 9 9 -1 -1 -1 -1000 -1000 -1000 -10', 'more than 0 m'];
    }

    #[DataProvider('broken')]
    public function test_lines_that_are_broken_are_named(string $line, string $said): void
    {
        $read = self::read(self::folder(['north/pass-1/label_2/000011.txt' => "Fruit_bin 0 0 0 0 0 9 9 1 1 1 0 0 9 0\n{$line}\n"]), self::rig());
        self::assertCount(2, $read);
        self::assertInstanceOf(Skipped::class, $read[0]);
        self::assertSame('north/pass-1/label_2/000011.txt', $read[0]->file);
        self::assertSame('line 2', $read[0]->place);
        self::assertStringContainsString($said, $read[0]->reason);
        self::assertInstanceOf(ReadLabels::class, $read[1]);
        self::assertCount(1, $read[1]->marks);
    }

    public function test_regions_nobody_should_care_for_and_files_of_no_frame(): void
    {
        $read = self::read(self::folder(['north/pass-1/label_2/000012.txt' => 'DontCare -1 -1 -10 0 0 9 9 -1 -1 -1 -1000 -1000 -1000 -10', 'north/pass-1/label_2/99.txt' => '']), self::rig());
        self::assertInstanceOf(Notice::class, $read[0]);
        self::assertInstanceOf(Skipped::class, $read[1]);
        self::assertStringContainsString('no frame', $read[1]->reason);
        self::assertInstanceOf(ReadLabels::class, $read[2]);
        self::assertSame(Labelled::Nothing, $read[2]->labelled);
    }

    public function test_a_folder_without_labels_is_refused(): void
    {
        $this->expectException(UnreadableLabels::class);
        $this->expectExceptionMessage('label_2');
        self::read(self::folder(['north/pass-1/calib/1.txt' => '']), self::rig());
    }
}
