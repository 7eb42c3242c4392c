<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\Camera;
use Skeno\Core\Cloud\KittiCalibration;
use Skeno\Core\Cloud\Poses;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Cloud\Rigid;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

final class CameraTest extends TestCase
{
    /** 1.5 m over the origin, looking along x. */
    public static function ahead(): Camera
    {
        return Camera::of('front', 480, 320, [0, -1, 0, 0, 0, 0, -1, 1.5, 1, 0, 0, 0], [400, 0, 240, 0, 0, 400, 160, 0, 0, 0, 1, 0]);
    }

    public function test_places_are_where_a_pinhole_has_them(): void
    {
        $camera = self::ahead();
        self::assertSame([240.0, 160.0], $camera->project(10, 0, 1.5));
        // a metre to the right at ten metres is 40 px; a metre lower too
        self::assertSame([280.0, 160.0], $camera->project(10, -1, 1.5));
        self::assertSame([240.0, 200.0], $camera->project(10, 0, 0.5));
        self::assertNull($camera->project(-10, 0, 1.5), 'behind');
        self::assertNull($camera->project(0.05, 0, 1.5), 'too near');
        self::assertSame([1.0, 0.5, 10.0], $camera->seen(10, -1, 1));
        self::assertSame([10.0, -1.0, 1.0], $camera->placed(1, 0.5, 10));
        // there and back, with rows that are rounded to three digits
        $leaning = Camera::of('side', 480, 320, [0.5, -0.866, 0, 2.5, 0.087, 0.05, -0.995, 1.2, 0.862, 0.498, 0.1, -0.3], [400, 0, 240, 0, 0, 400, 160, 0, 0, 0, 1, 0]);
        self::assertEqualsWithDelta([33.0, -41.0, 1.7], $leaning->placed(...$leaning->seen(33, -41, 1.7)), 1e-9);
    }

    /** @return iterable<string, array{Cuboid}> */
    public static function cuboids(): iterable
    {
        yield 'ahead' => [Cuboid::of([12, 1, 0.5], [2, 1, 1], 30)];
        yield 'partly beside the picture' => [Cuboid::of([6, 3.6, 0.5], [3, 1, 1], -50)];
        yield 'partly behind' => [Cuboid::of([0.5, 1.2, 1], [4, 0.6, 1.2], 5)];
        yield 'all round the camera' => [Cuboid::of([0, 0, 1.5], [3, 3, 3], 0)];
    }

    /** Held against a grid over its faces, each point by itself. */
    #[DataProvider('cuboids')]
    public function test_the_box_around_a_cuboid_is_that_of_all_its_faces(Cuboid $cuboid): void
    {
        $camera = self::ahead();
        [$c, $s] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
        $u = $v = [];
        $steps = 120;
        for ($axis = 0; $axis < 3; $axis++) {
            foreach ([-0.5, 0.5] as $face) {
                for ($i = 0; $i <= $steps; $i++) {
                    for ($j = 0; $j <= $steps; $j++) {
                        $at = [$i / $steps - 0.5, $j / $steps - 0.5];
                        array_splice($at, $axis, 0, [$face]);
                        [$x, $y, $z] = [$at[0] * $cuboid->size[0], $at[1] * $cuboid->size[1], $at[2] * $cuboid->size[2]];
                        $seen = $camera->project($cuboid->center[0] + $x * $c - $y * $s, $cuboid->center[1] + $x * $s + $y * $c, $cuboid->center[2] + $z);
                        if ($seen !== null) {
                            $u[] = max(0, min(480, $seen[0]));
                            $v[] = max(0, min(320, $seen[1]));
                        }
                    }
                }
            }
        }
        self::assertNotSame([], $u);
        self::assertNotSame([], $v);
        [$box, $outside] = $camera->around($cuboid) ?? self::fail('it is on the picture');
        foreach ([[min($u), $box->x], [max($u), $box->x + $box->width], [min($v), $box->y], [max($v), $box->y + $box->height]] as [$brute, $said]) {
            // what lies between two points of the grid
            self::assertEqualsWithDelta($brute, $said, 12.0);
        }
        self::assertGreaterThanOrEqual(0.0, $outside);
        self::assertLessThan(1.0, $outside);
    }

    public function test_a_box_of_known_size(): void
    {
        // its near face is at 10 m: 2 m wide and 1 m high are 80 px and 40 px
        [$box, $outside] = self::ahead()->around(Cuboid::of([11, 0, 1.5], [2, 2, 1], 0)) ?? self::fail('it is on the picture');
        self::assertEqualsWithDelta([200.0, 140.0, 80.0, 40.0, 0.0], [$box->x, $box->y, $box->width, $box->height, $outside], 1e-9);
        // half of it is beyond the left edge: the middle of its near face is at u = 0
        [$box, $outside] = self::ahead()->around(Cuboid::of([11, 6, 1.5], [2, 2, 1], 0)) ?? self::fail('it is on the picture');
        self::assertEqualsWithDelta(0.0, $box->x, 1e-9);
        self::assertEqualsWithDelta(1 - $box->width / (240 - 400 * 5 / 12 - (240 - 400 * 7 / 10)), $outside, 1e-9);
        self::assertNull(self::ahead()->around(Cuboid::of([-5, 0, 1], [1, 1, 1], 0)), 'behind');
        self::assertNull(self::ahead()->around(Cuboid::of([5, 40, 1], [1, 1, 1], 0)), 'beside');
    }

    public function test_a_calibration_rectifies_after_it_has_turned(): void
    {
        // turned by a degree about the camera's y once it is in its axes
        [$c, $s] = [cos(deg2rad(1)), sin(deg2rad(1))];
        $text = "P0: 1 0 0 0 0 1 0 0 0 0 1 0\nP2: 400 0 240 20 0 400 160 0 0 0 1 0.002\nR0_rect: {$c} 0 {$s} 0 1 0 -{$s} 0 {$c}\nTr_velo_to_cam: 0 -1 0 0.1 0 0 -1 1.5 1 0 0 -0.2\n";
        $camera = KittiCalibration::read($text, 'image_2', [480, 320]);
        [$x, $y, $z] = [0.1 + 1, 1.5 - 1, 10 - 0.2];
        [$x, $z] = [$c * $x + $s * $z, -$s * $x + $c * $z];
        self::assertEqualsWithDelta([$x, $y, $z], $camera->seen(10, -1, 1), 1e-9);
        self::assertEqualsWithDelta([(400 * $x + 240 * $z + 20) / ($z + 0.002), (400 * $y + 160 * $z) / ($z + 0.002)], $camera->project(10, -1, 1), 1e-9);
        // without a picture it is as large as what it looks along says
        self::assertSame([480, 320], [KittiCalibration::read($text, 'image_2', null)->width, KittiCalibration::read($text, 'image_2', null)->height]);
        // written, it says the same by other lines
        $again = KittiCalibration::read(KittiCalibration::write($camera), 'image_2', [480, 320]);
        self::assertEqualsWithDelta($camera->toCamera, $again->toCamera, 1e-9);
        self::assertEqualsWithDelta($camera->projection, $again->projection, 1e-9);
    }

    /** @return iterable<string, array{string, string}> */
    public static function broken(): iterable
    {
        $velo = "Tr_velo_to_cam: 0 -1 0 0 0 0 -1 1.5 1 0 0 0\n";
        $p2 = "P2: 400 0 240 0 0 400 160 0 0 0 1 0\n";
        yield 'nothing' => ['', 'Tr_velo_to_cam'];
        yield 'no projection' => [$velo, 'P2'];
        yield 'a number is missing' => [$velo.'P2: 400 0 240 0 0 400 160 0 0 0 1', 'P2'];
        yield 'words' => [$velo.'P2: 400 zero 240 0 0 400 160 0 0 0 1 0', 'P2'];
        yield 'infinite' => [$velo.'P2: 1e999 0 240 0 0 400 160 0 0 0 1 0', 'P2'];
        yield 'no focal length' => [$velo.'P2: 0 0 240 0 0 400 160 0 0 0 1 0', 'focal'];
        yield 'no rotation' => [$p2.'Tr_velo_to_cam: 0 0 0 0 0 0 -1 1.5 1 0 0 0', 'length 1'];
        yield 'a mirror' => [$p2.'Tr_velo_to_cam: 0 1 0 0 0 0 -1 1.5 1 0 0 0', 'mirror'];
        yield 'rows that are none of a rotation' => [$p2.'Tr_velo_to_cam: 0 -2 0 0 0 0 -0.5 1.5 1 0 0 0', 'length 1'];
        yield 'far too long' => [str_repeat("a: 1\n", 20_000), 'bytes'];
    }

    #[DataProvider('broken')]
    public function test_what_is_broken_is_named(string $text, string $said): void
    {
        try {
            KittiCalibration::read($text, 'camera', [480, 320]);
            self::fail('it was taken');
        } catch (InvalidValue $e) {
            self::assertStringContainsString($said, $e->getMessage());
        }
    }

    public function test_where_the_scanner_was(): void
    {
        // a quarter turn to the left and 2 m on
        $pose = [0, -1, 0, 2, 1, 0, 0, 0, 0, 0, 1, 0.4];
        $poses = Poses::json((string) json_encode(['poses' => [$pose, $pose]]), 2, 'poses.json');
        self::assertEqualsWithDelta([2.0, 3.0, 0.4], $poses[1]->place(3, 0, 0), 1e-9);
        self::assertEqualsWithDelta([3.0, 0.0, 0.0], $poses[1]->back(2, 3, 0.4), 1e-9);
        // the same in the axes of a camera that looks along x and is 1.5 m up: z is ahead, x is to the right
        $kitti = "0 0 -1 0 0 1 0 -0.4 1 0 0 2\n1 0 0 0 0 1 0 0 0 0 1 0\n";
        [$first, $second] = Poses::kitti($kitti, 2, self::ahead(), 'poses.txt');
        self::assertEqualsWithDelta($poses[0]->numbers, $first->numbers, 1e-9);
        self::assertEqualsWithDelta([1, 2, 3], $second->place(1, 2, 3), 1e-9);
        foreach ([
            '1 poses' => static fn (): array => Poses::json((string) json_encode(['poses' => [$pose]]), 2, 'poses.json'),
            'JSON' => static fn (): array => Poses::json('[', 2, 'poses.json'),
            'poses.json[1]' => static fn (): array => Poses::json((string) json_encode(['poses' => [$pose, 7]]), 2, 'poses.json'),
            'poses.json[1][3]' => static fn (): array => Poses::json((string) json_encode(['poses' => [$pose, [...array_slice($pose, 0, 3), 'far', ...array_slice($pose, 4)]]]), 2, 'poses.json'),
            'poses.txt[0][2]' => static fn (): array => Poses::kitti("0 0 x 0 0 1 0 -0.4 1 0 0 2\n", 1, self::ahead(), 'poses.txt'),
            'mirror' => static fn (): array => Poses::json((string) json_encode(['poses' => [[0, 1, 0, 2, 1, 0, 0, 0, 0, 0, 1, 0.4]]]), 1, 'poses.json'),
        ] as $said => $read) {
            try {
                $read();
                self::fail("{$said} was taken");
            } catch (InvalidValue $e) {
                self::assertStringContainsString($said, $e->getMessage());
            }
        }
    }

    public function test_cameras_as_json(): void
    {
        $one = ['name' => 'front', 'width' => 480, 'height' => 320, 'to_camera' => [0, -1, 0, 0, 0, 0, -1, 1.5, 1, 0, 0, 0], 'intrinsics' => [400, 400, 240, 160]];
        [$camera] = Rig::cameras(Fields::of(['cameras' => [$one]], 'cameras.json'));
        self::assertEquals(self::ahead(), $camera);
        $rig = new Rig([$camera], ['000000', '000007'], [['jpg', '']], [Rigid::of([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], 'a'), Rigid::of([0, -1, 0, 2, 1, 0, 0, 0, 0, 0, 1, 0], 'b')]);
        self::assertArrayNotHasKey('poses', $rig->facts());
        self::assertEquals($rig, Rig::fromArray(json_decode((string) json_encode($rig->toArray()), true)));
        self::assertSame([1, null], [$rig->frame('000007'), $rig->frame('7')]);

        foreach ([
            'cameras.json.cameras[1].name' => [$one, $one],
            'cameras.json.cameras[0].intrinsics' => [['intrinsics' => [1, 2, 3]] + $one],
            'cameras.json.cameras[0].to_camera[3]' => [['to_camera' => [0, -1, 0, '0', 0, 0, -1, 1.5, 1, 0, 0, 0]] + $one],
            'cameras.json.cameras[0].width' => [['width' => 0] + $one],
            'cameras.json.cameras[0].name' => [['name' => '../up'] + $one],
            'at most 16 cameras' => array_map(static fn (int $n): array => ['name' => "c{$n}"] + $one, range(0, 16)),
        ] as $said => $cameras) {
            try {
                Rig::cameras(Fields::of(['cameras' => $cameras], 'cameras.json'));
                self::fail("{$said} was taken");
            } catch (InvalidValue $e) {
                self::assertStringContainsString($said, $e->getMessage());
            }
        }
    }
}
