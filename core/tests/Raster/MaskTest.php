<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Raster;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Components;
use Skeno\Core\Raster\CompressedRuns;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\Mend;
use Skeno\Core\Raster\ScanConversion;

final class MaskTest extends TestCase
{
    /** A 3x2 picture, column-major: the first column outside, then one pixel each at (1,0) and (2,1). */
    public function test_reads_runs_down_the_columns(): void
    {
        $mask = Mask::ofCounts(3, 2, [2, 1, 2, 1]);
        self::assertSame(['.#.', '..#'], Pixels::rows($mask));
        self::assertSame(2.0, $mask->area());
        self::assertEquals(Box::of(1, 0, 2, 2), $mask->bounds());
        self::assertSame([2, 1, 2, 1], $mask->counts());
        self::assertSame([6], Mask::none(3, 2)->counts());
        self::assertSame([0, 6], Mask::ofCounts(3, 2, [0, 6])->counts());
        self::assertSame([0, 6], Mask::ofCounts(3, 2, [0, 2, 0, 4, 0])->counts(), 'runs of nothing between are joined');
    }

    /** Worked out by hand: 6 = 00110 fits one digit, so "6"; 40 = 01000 then 1: first digit with more (8|32 = 40 -> "X"), then "1". */
    public function test_compressed_runs_known_answers(): void
    {
        self::assertSame('6X1', CompressedRuns::encode([6, 40]));
        self::assertSame([6, 40], CompressedRuns::decode('6X1'));
        // the fourth count is kept as the difference to the second: 3 - 40 = -37 = 27 - 2·32: digit 27 with more (59 -> "k"), then -2 (30 -> "N")
        self::assertSame([6, 40, 5, 3], CompressedRuns::decode(CompressedRuns::encode([6, 40, 5, 3])));
        self::assertSame('6X15kN', CompressedRuns::encode([6, 40, 5, 3]));
    }

    /** @return iterable<string, array{mixed, string}> */
    public static function hostile(): iterable
    {
        yield 'sums up to less' => [['size' => [2, 3], 'counts' => [5]], 'mask.counts'];
        yield 'sums up to more' => [['size' => [2, 3], 'counts' => [2, 9]], 'mask.counts[1]'];
        yield 'overflows' => [['size' => [2, 3], 'counts' => [2, PHP_INT_MAX, 9]], 'mask.counts[1]'];
        yield 'negative' => [['size' => [2, 3], 'counts' => [7, -1]], 'mask.counts[0]'];
        yield 'negative run' => [['size' => [2, 3], 'counts' => [2, -1, 5]], 'mask.counts[1]'];
        yield 'not a number' => [['size' => [2, 3], 'counts' => ['6']], 'mask.counts[0]'];
        yield 'half a pixel' => [['size' => [2, 3], 'counts' => [5.5, 0.5]], 'mask.counts[0]'];
        yield 'NaN' => [['size' => [2, 3], 'counts' => [NAN]], 'mask.counts[0]'];
        yield 'no size' => [['counts' => [6]], 'mask.size'];
        yield 'size of zero' => [['size' => [0, 3], 'counts' => []], 'mask.size'];
        yield 'huge size' => [['size' => [1 << 40, 1 << 40], 'counts' => []], 'mask.size'];
        yield 'bad character' => [['size' => [2, 3], 'counts' => "6\x01"], 'mask.counts'];
        yield 'a number that goes on' => [['size' => [2, 3], 'counts' => 'ooo'], 'mask.counts'];
        yield 'a number without end' => [['size' => [2, 3], 'counts' => str_repeat('o', 60)], 'mask.counts'];
        yield 'counts of another kind' => [['size' => [2, 3], 'counts' => ['a' => 6]], 'mask.counts'];
    }

    #[DataProvider('hostile')]
    public function test_refuses_what_is_no_mask(mixed $data, string $field): void
    {
        try {
            Mask::fromFields(Fields::of($data), 'mask');
            self::fail('taken');
        } catch (InvalidValue $e) {
            self::assertSame($field, $e->field);
        }
    }

    /** Every operation on random masks against the same on plain pixels. */
    public function test_operations_agree_with_pixels(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(3));
        for ($round = 0; $round < 150; $round++) {
            $width = $random->getInt(1, 14);
            $height = $random->getInt(1, 11);
            $a = Pixels::random($random, $width, $height);
            $b = Pixels::random($random, $width, $height);
            $pair = static fn (callable $rule): array => Pixels::each($width, $height, static fn (int $x, int $y): bool => $rule($a->has($x, $y), $b->has($x, $y)));
            self::assertSame($pair(static fn (bool $p, bool $q): bool => $p || $q), Pixels::rows($a->union($b)));
            self::assertSame($pair(static fn (bool $p, bool $q): bool => $p && $q), Pixels::rows($a->intersection($b)));
            self::assertSame($pair(static fn (bool $p, bool $q): bool => $p && ! $q), Pixels::rows($a->without($b)));
            self::assertSame($pair(static fn (bool $p): bool => ! $p), Pixels::rows($a->complement()));
            self::assertSame((float) substr_count(implode('', Pixels::rows($a)), '#'), $a->area());
            self::assertEquals($a, Mask::fromFields(Fields::of($a->toArray())));
            self::assertEquals($a, Mask::ofCounts($width, $height, $a->counts()));
            self::assertEquals($a, Mask::ofColumns($width, $height, $a->columns()));
            self::assertEquals(Pixels::bounds($a), $a->bounds());
            self::assertEquals($a, ScanConversion::mask(Contours::rings($a), $width, $height), 'outlines give the same pixels back');
            foreach ([false, true] as $diagonal) {
                self::assertSame(Pixels::components($a, $diagonal), array_map(Pixels::rows(...), Components::of($a, $diagonal)));
            }
            $n = $random->getInt(1, 3);
            self::assertSame(Pixels::closed($a, $n), Pixels::rows(Mend::closed($a, $n)));
        }
    }

    /** A ring of pixels round a hole: one outline clockwise, the hole the other way, areas by the shoelace formula. */
    public function test_contours_tell_holes_from_parts(): void
    {
        $mask = Pixels::of(['###..', '#.#..', '###..', '....#']);
        $rings = Contours::rings($mask);
        self::assertSame([[0.0, 3.0, 0.0, 0.0, 3.0, 0.0, 3.0, 3.0], [1.0, 1.0, 1.0, 2.0, 2.0, 2.0, 2.0, 1.0], [4.0, 4.0, 4.0, 3.0, 5.0, 3.0, 5.0, 4.0]], $rings);
        self::assertSame([9.0, -1.0, 1.0], array_map(\Skeno\Core\Geometry\Coordinates::signedArea(...), $rings));
    }

    /** A diagonal touch separates two parts; the outlines do not run into each other. */
    public function test_diagonal_pixels_are_two_parts(): void
    {
        self::assertCount(2, Contours::rings(Pixels::of(['#.', '.#'])));
        self::assertCount(2, Contours::rings(Pixels::of(['.#', '#.'])));
        self::assertCount(2, Components::of(Pixels::of(['#.', '.#'])));
        self::assertCount(1, Components::of(Pixels::of(['.#', '#.']), diagonal: true));
    }

    public function test_mends_pinholes_slits_and_specks_at_once(): void
    {
        $torn = Pixels::of([
            '............',
            '.######.###.',
            '.##.###.###.',
            '.######.###.',
            '.######.###.',
            '............',
            '#...........',
            '............',
        ]);
        self::assertSame([
            '............',
            '.##########.',
            '.##########.',
            '.##########.',
            '.##########.',
            '............',
            '............',
            '............',
        ], Pixels::rows(Mend::mask($torn, 1)));
        $speck = Pixels::of(['...', '.#.', '...']);
        self::assertEquals($speck, Mend::mask($speck, 2), 'a mask that is nothing but a speck stays');
        $hole = Pixels::of(['#####', '#...#', '#...#', '#...#', '#####']);
        self::assertEquals($hole, Mend::mask($hole, 2), 'a hole of three is no pinhole of two');
        self::assertSame(25.0, Mend::mask($hole, 3)->area());
        $this->expectException(InvalidValue::class);
        Mend::mask($speck, 0);
    }

    public function test_masks_of_two_sizes_do_not_mix(): void
    {
        $this->expectException(InvalidValue::class);
        Mask::none(3, 4)->union(Mask::none(4, 3));
    }
}
