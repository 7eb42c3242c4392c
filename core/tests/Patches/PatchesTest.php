<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Patches;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;
use Skeno\Core\Patches\Patches;
use Skeno\Core\Tests\Cutout\Scene;

final class PatchesTest extends TestCase
{
    /** @return iterable<string, array{int, int, int}> */
    public static function sizes(): iterable
    {
        yield 'small ones at full size' => [97, 61, 8];
        yield 'larger ones, reduced first' => [211, 150, 24];
        yield 'one patch' => [12, 9, 60];
        yield 'a line of pixels' => [40, 1, 6];
    }

    #[DataProvider('sizes')]
    public function test_every_patch_hangs_together(int $width, int $height, int $side): void
    {
        $patches = Patches::of(Scene::of($width, $height, Scene::disc($width / 2, $height / 2, $height / 3), grain: 40), $side);
        self::assertCount($width * $height, $patches->labels);
        $seen = $parts = [];
        foreach ($patches->labels as $begin => $label) {
            if (isset($seen[$begin])) {
                continue;
            }
            $parts[$label] = ($parts[$label] ?? 0) + 1;
            $stack = [$begin];
            $seen[$begin] = true;
            while ($stack !== []) {
                $at = array_pop($stack);
                $x = $at % $width;
                foreach ([$x > 0 ? $at - 1 : -1, $x + 1 < $width ? $at + 1 : -1, $at - $width, $at + $width] as $to) {
                    if (($patches->labels[$to] ?? null) === $label && ! isset($seen[$to])) {
                        $seen[$to] = true;
                        $stack[] = $to;
                    }
                }
            }
        }
        self::assertSame([], array_filter($parts, static fn (int $n): bool => $n !== 1), 'patches in more than one part');
        self::assertCount($patches->count, $parts, 'each number is a patch');
    }

    public function test_borders_follow_the_edges_of_what_is_seen(): void
    {
        [$width, $height] = [240, 180];
        $patches = Patches::of(Scene::of($width, $height, Scene::disc(118, 93, 50)), 20);
        $truth = Scene::truth($width, $height, 118, 93, 50);
        $in = array_fill(0, $patches->count, 0);
        $all = $in;
        foreach ($patches->labels as $at => $label) {
            $all[$label]++;
            $in[$label] += $truth->has($at % $width, intdiv($at, $width)) ? 1 : 0;
        }
        $wrong = array_sum(array_map(static fn (int $in, int $all): int => min($in, $all - $in), $in, $all));
        // a grid of squares would have about 900 px on the wrong side
        self::assertLessThan(120, $wrong);
    }

    public function test_what_is_sent_says_every_pixel(): void
    {
        $patches = Patches::of(Scene::of(70, 45, Scene::disc(30, 20, 15)), 9);
        $bytes = $patches->bytes();
        self::assertSame(['SKP1', 70, 45, $patches->count], [substr($bytes, 0, 4), ...array_values(unpack('V3', $bytes, 4) ?: [])]);
        $runs = array_values(unpack('v*', $bytes, 16) ?: []);
        $labels = [];
        for ($i = 0; $i < count($runs); $i += 2) {
            array_push($labels, ...array_fill(0, $runs[$i + 1], $runs[$i]));
        }
        self::assertSame($patches->labels, $labels);
    }

    public function test_what_is_too_large_or_too_small_is_refused(): void
    {
        $picture = Colours::of(10, 10, str_repeat("\0", 300));
        foreach ([3, 401] as $side) {
            try {
                Patches::of($picture, $side);
                self::fail("patches of {$side} px");
            } catch (InvalidValue $e) {
                self::assertSame('side', $e->field);
            }
        }
        $this->expectExceptionMessage('part');
        Patches::of(Colours::of(2000, 1000, str_repeat("\0", 6_000_000)), 20);
    }
}
