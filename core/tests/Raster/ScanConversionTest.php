<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Raster;

use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Raster\Simplification;

final class ScanConversionTest extends TestCase
{
    /** The same vectors are read by the browser's painting. */
    public function test_vectors(): void
    {
        $vectors = json_decode((string) file_get_contents(__DIR__.'/../vectors/scan.json'), true, 512, JSON_THROW_ON_ERROR);
        self::assertIsArray($vectors);
        self::assertGreaterThan(40, count($vectors));
        foreach ($vectors as $vector) {
            $mask = ScanConversion::mask($vector['rings'], $vector['width'], $vector['height']);
            self::assertSame($vector['counts'], $mask->counts(), $vector['name']);
            self::assertSame($vector['compressed'], $mask->toArray()['counts'], $vector['name']);
        }
    }

    /** A square over pixel corners covers its pixels; one shifted by half a pixel covers those whose centres it holds on its left and top. */
    public function test_known_answers(): void
    {
        self::assertSame(['....', '.##.', '.##.', '....'], Pixels::rows(ScanConversion::mask([[1, 1, 3, 1, 3, 3, 1, 3]], 4, 4)));
        self::assertSame(['....', '.##.', '.##.', '....'], Pixels::rows(ScanConversion::mask([[1.5, 1.5, 3.5, 1.5, 3.5, 3.5, 1.5, 3.5]], 4, 4)), 'a centre on the left or upper edge is in, on the right or lower out');
        self::assertSame(['####', '#..#', '#..#', '####'], Pixels::rows(ScanConversion::mask([[-5, -5, 9, -5, 9, 9, -5, 9], [1, 1, 3, 1, 3, 3, 1, 3]], 4, 4)), 'a hole, and a ring that reaches out of the picture');
        self::assertTrue(ScanConversion::mask([[0.6, 0.6, 0.9, 0.6, 0.9, 0.9]], 4, 4)->isEmpty(), 'too thin to hold a centre');
    }

    public function test_agrees_with_a_test_of_every_centre(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(11));
        for ($round = 0; $round < 300; $round++) {
            $rings = [];
            for ($r = $random->getInt(1, 3); $r > 0; $r--) {
                $ring = [];
                for ($i = $random->getInt(3, 9); $i > 0; $i--) {
                    // half of them on the grid of quarters, so that edges do run through centres
                    array_push($ring, ...($round % 2 === 0 ? [$random->getInt(-8, 60) / 4, $random->getInt(-8, 60) / 4] : [$random->getInt(-200000, 1500000) / 100000, $random->getInt(-200000, 1500000) / 100000]));
                }
                $rings[] = $ring;
            }
            $expected = Pixels::each(13, 12, static fn (int $x, int $y): bool => self::inside($x + 0.5, $y + 0.5, $rings));
            self::assertSame($expected, Pixels::rows(ScanConversion::mask($rings, 13, 12)));
        }
    }

    /** Two regions on both sides of one line, given in either direction, share no pixel and leave none out. */
    public function test_a_common_edge_leaves_no_gap_and_no_overlap(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(5));
        for ($round = 0; $round < 100; $round++) {
            $line = [];
            for ($y = 0; $y <= 40; $y += 4) {
                array_push($line, $random->getInt(200, 2800) / 100, (float) $y);
            }
            $back = [];
            for ($i = count($line) - 2; $i >= 0; $i -= 2) {
                array_push($back, $line[$i], $line[$i + 1]);
            }
            $left = ScanConversion::mask([[...$line, 0.0, 40.0, 0.0, 0.0]], 30, 40);
            $right = ScanConversion::mask([[...$back, 30.0, 0.0, 30.0, 40.0]], 30, 40);
            self::assertTrue($left->intersection($right)->isEmpty());
            self::assertSame(1200.0, $left->union($right)->area());
        }
    }

    public function test_simplified_outlines_stay_within_the_tolerance(): void
    {
        $disc = Mask::ofColumns(60, 60, array_combine(range(5, 54), array_map(static function (int $x): array {
            $half = (int) round(sqrt(25.5 ** 2 - ($x + 0.5 - 30) ** 2));

            return [30 - $half, 30 + $half];
        }, range(5, 54))));
        $exact = Contours::rings($disc)[0];
        $simple = Simplification::ring($exact, 1.0);
        self::assertLessThan(count($exact) / 4, count($simple));
        self::assertGreaterThan(0.97, ScanConversion::mask([$simple], 60, 60)->iou($disc));
        foreach (array_chunk($exact, 2) as [$x, $y]) {
            $nearest = INF;
            for ($i = 0; $i < count($simple); $i += 2) {
                $j = ($i + 2) % count($simple);
                $nearest = min($nearest, self::distance($x, $y, $simple[$i], $simple[$i + 1], $simple[$j], $simple[$j + 1]));
            }
            self::assertLessThanOrEqual(1.0 + 1e-9, $nearest);
        }
        self::assertSame([0.0, 0.0, 9.0, 0.0, 9.0, 9.0, 0.0, 9.0], Simplification::ring([0.0, 0.0, 5.0, 0.0, 9.0, 0.0, 9.0, 9.0, 0.0, 9.0], 0.0), 'points on a straight line go');
    }

    /**
     * Counts, for a ray to the left, the edges that cross it; on an edge the point belongs to what lies right of it or below.
     *
     * @param  list<list<float>>  $rings
     */
    private static function inside(float $x, float $y, array $rings): bool
    {
        $above = 0;
        foreach ($rings as $ring) {
            $n = count($ring);
            for ($i = 0; $i < $n; $i += 2) {
                [$ax, $ay, $bx, $by] = [$ring[$i], $ring[$i + 1], $ring[($i + 2) % $n], $ring[($i + 3) % $n]];
                if ($ax > $bx) {
                    [$ax, $ay, $bx, $by] = [$bx, $by, $ax, $ay];
                }
                if ($ax <= $x && $x < $bx && $ay + ($x - $ax) * (($by - $ay) / ($bx - $ax)) <= $y) {
                    $above++;
                }
            }
        }

        return $above % 2 === 1;
    }

    private static function distance(float $x, float $y, float $ax, float $ay, float $bx, float $by): float
    {
        $length = ($bx - $ax) ** 2 + ($by - $ay) ** 2;
        $t = $length > 0 ? max(0.0, min(1.0, (($x - $ax) * ($bx - $ax) + ($y - $ay) * ($by - $ay)) / $length)) : 0.0;

        return hypot($x - $ax - $t * ($bx - $ax), $y - $ay - $t * ($by - $ay));
    }
}
