<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Geometry;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\BoxIndex;
use Skeno\Core\InvalidValue;

final class BoxTest extends TestCase
{
    public function test_iou_of_known_boxes(): void
    {
        $a = Box::of(0, 0, 10, 10);
        self::assertSame(1.0, $a->iou($a));
        self::assertSame(50 / 150, $a->iou(Box::of(5, 0, 10, 10)));
        self::assertSame(0.0, $a->iou(Box::of(10, 0, 10, 10)), 'touching boxes share no area');
        self::assertSame(0.25, $a->iou(Box::of(0, 0, 5, 5)));
    }

    /** Integer boxes have whole pixels, so the IoU can be counted. */
    public function test_iou_agrees_with_counted_pixels(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(7));
        for ($run = 0; $run < 200; $run++) {
            $boxes = [];
            $pixels = [[], []];
            foreach ([0, 1] as $k) {
                [$x, $y, $w, $h] = [$random->getInt(0, 8), $random->getInt(0, 8), $random->getInt(1, 6), $random->getInt(1, 6)];
                $boxes[] = Box::of($x, $y, $w, $h);
                for ($i = 0; $i < $w; $i++) {
                    for ($j = 0; $j < $h; $j++) {
                        $pixels[$k][($x + $i).'/'.($y + $j)] = true;
                    }
                }
            }
            $expected = count(array_intersect_key($pixels[0], $pixels[1])) / count($pixels[0] + $pixels[1]);
            self::assertEqualsWithDelta($expected, $boxes[0]->iou($boxes[1]), 1e-12);
            self::assertSame($boxes[0]->iou($boxes[1]), $boxes[1]->iou($boxes[0]));
        }
    }

    public function test_corners_in_any_order_give_the_same_box(): void
    {
        self::assertEquals(Box::of(2, 3, 5, 4), Box::fromCorners(7, 3, 2, 7));
    }

    public function test_overhang_and_outside(): void
    {
        self::assertSame(0.0, Box::of(0, 0, 40, 30)->overhang(40, 30));
        self::assertSame(2.5, Box::of(-2.5, 0, 10, 31)->overhang(40, 30));
        self::assertTrue(Box::of(40, 0, 5, 5)->liesOutside(40, 30));
        self::assertFalse(Box::of(39.9, 0, 5, 5)->liesOutside(40, 30));
    }

    /** @return iterable<string, array{float, float, float, float, string}> */
    public static function impossible(): iterable
    {
        yield 'not a number' => [NAN, 0, 1, 1, 'box.x is not a number'];
        yield 'endless' => [0, INF, 1, 1, 'box.y'];
        yield 'negative width' => [0, 0, -1, 1, 'box.width is -1'];
        yield 'beyond any picture' => [0, 0, 1, 2e6, 'box.height'];
    }

    #[DataProvider('impossible')]
    public function test_impossible_boxes_are_refused_by_name(float $x, float $y, float $w, float $h, string $message): void
    {
        $this->expectException(InvalidValue::class);
        $this->expectExceptionMessage($message);
        Box::of($x, $y, $w, $h);
    }

    public function test_coinciding_boxes_are_those_of_brute_force(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(11));
        $boxes = [];
        for ($i = 0; $i < 120; $i++) {
            $boxes["m{$i}"] = Box::of($random->getInt(0, 12), $random->getInt(0, 12), $random->getInt(0, 5), $random->getInt(1, 5));
        }
        $expected = [];
        $keys = array_keys($boxes);
        foreach ($keys as $i => $a) {
            foreach (array_slice($keys, $i + 1) as $b) {
                if ($boxes[$a]->iou($boxes[$b]) >= 0.6) {
                    $expected[] = [$a, $b, $boxes[$a]->iou($boxes[$b])];
                }
            }
        }
        self::assertNotEmpty($expected);
        self::assertSame($expected, BoxIndex::coinciding($boxes, 0.6));
    }
}
