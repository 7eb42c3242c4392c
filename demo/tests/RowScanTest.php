<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Cloud\Camera;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Making;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Demo\Chance;
use Skeno\Demo\RowScan;

final class RowScanTest extends TestCase
{
    private static string $folder;

    /** @var list<array{class: string, track: string, frames: array<int, array{center: array{float, float, float}, size: array{float, float, float}, heading: float, points: int}>}> */
    private static array $truth;

    private static Camera $camera;

    public static function setUpBeforeClass(): void
    {
        self::$folder = sys_get_temp_dir().'/skeno-row-'.bin2hex(random_bytes(6));
        mkdir(self::$folder);
        self::$truth = (new RowScan(new Chance('a test')))->write(self::$folder);
        [self::$camera] = Rig::cameras(Fields::of(json_decode((string) file_get_contents(self::$folder.'/cameras.json'), true), 'cameras.json'));
        mkdir($made = self::$folder.'/made');
        (new Making)->make(array_map(static fn (int $n): \Skeno\Core\Cloud\Source => CloudFile::open(self::$folder."/000{$n}.pcd", "000{$n}.pcd", new CloudLimits), [1, 6]), $made);
    }

    public static function tearDownAfterClass(): void
    {
        exec('rm -rf '.escapeshellarg(self::$folder));
    }

    /** @return iterable<array{class: string, frame: int, cuboid: Cuboid, points: int}> */
    private static function seen(string ...$classes): iterable
    {
        foreach (self::$truth as $track) {
            foreach ($track['frames'] as $frame => $seen) {
                if (in_array($track['class'], $classes, true)) {
                    yield ['class' => $track['class'], 'frame' => $frame, 'cuboid' => Cuboid::of($seen['center'], $seen['size'], $seen['heading']), 'points' => $seen['points']];
                }
            }
        }
    }

    public function test_what_is_there_holds_the_points_that_are_of_it(): void
    {
        $counted = 0;
        foreach ([0 => 0, 5 => 1] as $frame => $made) {
            foreach (self::seen('bin', 'cart') as $thing) {
                if ($thing['frame'] === $frame) {
                    $wide = Cuboid::of($thing['cuboid']->center, array_map(static fn (float $side): float => $side + 0.03, $thing['cuboid']->size), $thing['cuboid']->heading);
                    $inside = (new Inside([$wide]))->count(Frame::open(self::$folder.'/made', $made))[0];
                    // grass reaches into it from below
                    self::assertGreaterThanOrEqual(0.98 * $thing['points'], $inside);
                    self::assertLessThan(1.2 * $thing['points'] + 40, $inside);
                    $counted++;
                }
            }
        }
        self::assertGreaterThan(8, $counted);
    }

    public function test_bins_stand_still_in_the_row_and_the_cart_drives_ahead(): void
    {
        foreach (self::$truth as $track) {
            $frames = array_keys($track['frames']);
            for ($i = 1; $i < count($frames); $i++) {
                [$a, $b] = [$track['frames'][$frames[$i - 1]], $track['frames'][$frames[$i]]];
                $step = ($b['center'][0] - $a['center'][0]) / ($frames[$i] - $frames[$i - 1]);
                $track['class'] === 'cart' ? self::assertGreaterThan(0.3, $step) : self::assertEqualsWithDelta(-1.1, $step, 0.001);
                self::assertSame($a['size'], $b['size']);
            }
        }
    }

    /** The camera and the scanner see the same: where the calibration puts a bin its picture has the colours of one. */
    public function test_the_pictures_show_things_where_the_calibration_says(): void
    {
        $right = $all = 0;
        foreach (self::seen('bin') as $thing) {
            $at = self::$camera->project(...$thing['cuboid']->center);
            if ($at === null || $thing['points'] < 400 || $at[0] < 2 || $at[1] < 2 || $at[0] > self::$camera->width - 3 || $at[1] > self::$camera->height - 3) {
                continue;
            }
            $image = imagecreatefromjpeg(sprintf('%s/camera/%04d.jpg', self::$folder, $thing['frame'] + 1));
            self::assertInstanceOf(\GdImage::class, $image);
            self::assertSame([self::$camera->width, self::$camera->height], [imagesx($image), imagesy($image)]);
            $colour = imagecolorsforindex($image, (int) imagecolorat($image, (int) $at[0], (int) $at[1]));
            // wood and fruit are red before green before blue; grass and leaves are not
            $right += $colour['red'] > $colour['green'] + 15 && $colour['green'] >= $colour['blue'] - 20 ? 1 : 0;
            $all++;
        }
        self::assertGreaterThan(8, $all);
        self::assertGreaterThan(0.75 * $all, $right, 'another thing may stand before one');
    }
}
