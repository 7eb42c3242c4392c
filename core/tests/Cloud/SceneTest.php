<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\RefusedCloud;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Cloud\Scene;
use Skeno\Core\Cloud\Sequence;
use ZipArchive;

final class SceneTest extends TestCase
{
    /** @return array<string, Scene> */
    private static function scenes(string ...$paths): array
    {
        $scenes = [];
        foreach (Scene::all(array_values($paths)) as $scene) {
            $scenes[$scene->name] = $scene;
        }

        return $scenes;
    }

    public function test_the_scans_of_a_folder_are_its_frames_in_the_order_people_count(): void
    {
        $scenes = self::scenes('b/10.pcd', 'b/9.pcd', 'a/deep/x.ply', 'alone.pcd', 'b/notes.txt');
        self::assertSame(['a/deep', 'b'], array_keys($scenes));
        self::assertSame(['b/9.pcd', 'b/10.pcd'], $scenes['b']->frames);
        self::assertNull($scenes['b']->calibration);
        self::assertSame(['b/9.pcd', 'b/10.pcd'], $scenes['b']->files());
    }

    public function test_folders_called_by_numbers(): void
    {
        $scenes = Scene::all(['10/1.pcd', '9/1.pcd', '10/2.pcd']);
        self::assertSame([['10', ['10/1.pcd', '10/2.pcd']], ['9', ['9/1.pcd']]], array_map(static fn (Scene $scene): array => [$scene->name, $scene->frames], $scenes));
    }

    public function test_pictures_and_calibrations_as_kitti_lays_them_out(): void
    {
        ['drive' => $scene] = self::scenes(
            'drive/velodyne/000000.bin', 'drive/velodyne/000001.bin',
            'drive/image_2/000000.png', 'drive/image_2/000001.png', 'drive/image_2/000002.png', 'drive/image_3/000001.png',
            'drive/calib/000000.txt', 'drive/calib/000001.txt', 'drive/calib/000009.txt',
            'other/000000.png',
        );
        self::assertSame(['image_2' => [0 => 'drive/image_2/000000.png', 1 => 'drive/image_2/000001.png'], 'image_3' => [1 => 'drive/image_3/000001.png']], $scene->pictures);
        self::assertSame('drive/calib/000000.txt', $scene->calibration);
        self::assertSame(['drive/calib/000001.txt'], $scene->beside);
        $files = $scene->files();
        sort($files);
        self::assertSame([
            'drive/calib/000000.txt', 'drive/calib/000001.txt', 'drive/image_2/000000.png', 'drive/image_2/000001.png', 'drive/image_3/000001.png',
            'drive/velodyne/000000.bin', 'drive/velodyne/000001.bin',
        ], $files);
    }

    public function test_pictures_beside_the_scans_and_without_a_calibration(): void
    {
        ['pass' => $scene] = self::scenes('pass/1.pcd', 'pass/1.jpg', 'pass/2.jpg', 'pass/cameras.json', 'pass/calib.txt');
        self::assertSame(['camera' => [0 => 'pass/1.jpg']], $scene->pictures);
        self::assertSame('pass/cameras.json', $scene->calibration, 'what says more comes first');
        self::assertSame(['pass/calib.txt'], $scene->beside);
        // nothing says where the camera was: the picture is none of the sequence, and comes in by itself
        self::assertSame(['pass/1.pcd'], self::scenes('pass/1.pcd', 'pass/1.jpg')['pass']->files());
    }

    public function test_what_says_where_the_scanner_was_is_of_the_sequence(): void
    {
        ['pass' => $scene] = self::scenes('pass/1.pcd', 'pass/poses.json', 'pass/poses.txt', 'poses.txt');
        self::assertSame('pass/poses.json', $scene->poses);
        $files = $scene->files();
        sort($files);
        self::assertSame(['pass/1.pcd', 'pass/poses.json', 'pass/poses.txt'], $files);
        self::assertTrue(Scene::mayHold('pass/poses.txt'));
        self::assertFalse(Scene::mayHold('pass/notes.txt'));
    }

    public function test_a_whole_upload_may_be_one_sequence(): void
    {
        ['velodyne' => $scene] = self::scenes('velodyne/0.bin', 'image_2/0.png', 'calib/0.txt');
        self::assertSame(['image_2' => [0 => 'image_2/0.png']], $scene->pictures);
        self::assertSame('calib/0.txt', $scene->calibration);
    }

    public function test_a_sequence_holds_what_came_beside_its_scans(): void
    {
        $clouds = new Clouds;
        $scan = $clouds->file(Clouds::kitti([[1, 2, 3, 0.5]]), '1.bin');
        $picture = $clouds->file('not looked at here', '1.jpg');
        $rig = new Rig([CameraTest::ahead()], ['000000', '000004'], [['', 'jpg']]);
        Sequence::make([[$scan, '000000.bin'], [$scan, '000004.bin']], $zip = "{$clouds->folder}/a.zip", $rig, [[1 => [$picture, 'jpg']]]);
        Sequence::make([[$scan, '000000.bin'], [$scan, '000004.bin']], $again = "{$clouds->folder}/b.zip", $rig, [[1 => [$picture, 'jpg']]]);
        self::assertFileEquals($zip, $again);
        self::assertCount(2, Sequence::open($zip, $clouds->room(), new CloudLimits));
        self::assertEquals($rig, Sequence::rig($zip, $room = $clouds->room(), new CloudLimits));
        self::assertFileEquals($picture, "{$room}/1-0.jpg");

        // one that was made before there were any
        Sequence::make([[$scan, '1.bin']], $bare = "{$clouds->folder}/bare.zip");
        self::assertNull(Sequence::rig($bare, $clouds->room(), new CloudLimits));
    }

    public function test_a_rig_that_lies_is_refused_by_what_is_wrong(): void
    {
        $clouds = new Clouds;
        $zip = new ZipArchive;
        $zip->open($file = "{$clouds->folder}/a.zip", ZipArchive::CREATE);
        $zip->addFromString('0000.bin', Clouds::kitti([[1, 2, 3, 0.5]]));
        $zip->addFromString('rig.json', '{"cameras": [{"name": "front", "width": "wide"}]}');
        $zip->close();
        $this->expectException(RefusedCloud::class);
        $this->expectExceptionMessage('rig.cameras[0]');
        Sequence::rig($file, $clouds->room(), new CloudLimits);
    }
}
