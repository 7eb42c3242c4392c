<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Codebook;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Palette;

/** Colour computation after WCAG 2 (contrast) and CIE 1976 (difference); deficiencies by Viénot, Brettel and Mollon 1999. */
final class PaletteTest extends TestCase
{
    public function test_light_step_stands_out_on_the_dusk_surround_and_deep_step_on_paper(): void
    {
        foreach (Palette::COLORS as $color) {
            self::assertGreaterThanOrEqual(3.0, self::contrast($color['light'], '#171b1a'), $color['light']);
            self::assertGreaterThanOrEqual(3.0, self::contrast($color['deep'], '#fbf8f1'), $color['deep']);
        }
    }

    public function test_any_two_light_colours_differ_under_normal_sight(): void
    {
        foreach (Palette::COLORS as $i => $a) {
            foreach (array_slice(Palette::COLORS, $i + 1) as $b) {
                self::assertGreaterThan(12.0, self::difference(self::linear($a['light']), self::linear($b['light'])), "{$a['light']} and {$b['light']}");
            }
        }
    }

    /** Twelve colours can't all differ under a deficiency; the first six must, and beyond them the marker (eight) tells. */
    public function test_the_first_six_differ_under_red_and_green_blindness(): void
    {
        foreach (['protan' => [0.11238, 0.88762, 0.0, 0.11238, 0.88762, 0.0, 0.00401, -0.00401, 1.0], 'deutan' => [0.29275, 0.70725, 0.0, 0.29275, 0.70725, 0.0, -0.02234, 0.02234, 1.0]] as $kind => $m) {
            $seen = array_map(static function (array $color) use ($m): array {
                [$r, $g, $b] = self::linear($color['light']);

                return [$m[0] * $r + $m[1] * $g + $m[2] * $b, $m[3] * $r + $m[4] * $g + $m[5] * $b, $m[6] * $r + $m[7] * $g + $m[8] * $b];
            }, array_slice(Palette::COLORS, 0, 6));
            foreach ($seen as $i => $a) {
                foreach (array_slice($seen, $i + 1, null, true) as $j => $b) {
                    self::assertGreaterThan(8.0, self::difference($a, $b), "{$kind}: colours {$i} and {$j}");
                }
            }
        }
    }

    /** @return array{float, float, float} */
    private static function linear(string $hex): array
    {
        $channel = static function (int $at) use ($hex): float {
            $c = hexdec(substr($hex, $at, 2)) / 255;

            return $c <= 0.04045 ? $c / 12.92 : (($c + 0.055) / 1.055) ** 2.4;
        };

        return [$channel(1), $channel(3), $channel(5)];
    }

    private static function contrast(string $a, string $b): float
    {
        $light = static function (string $hex): float {
            [$r, $g, $b] = self::linear($hex);

            return 0.2126 * $r + 0.7152 * $g + 0.0722 * $b;
        };
        [$x, $y] = [$light($a), $light($b)];

        return (max($x, $y) + 0.05) / (min($x, $y) + 0.05);
    }

    /**
     * @param  array<int, float>  $a
     * @param  array<int, float>  $b
     */
    private static function difference(array $a, array $b): float
    {
        $lab = static function (array $c): array {
            $f = static fn (float $t): float => $t > 0.008856 ? $t ** (1 / 3) : 7.787 * $t + 16 / 116;
            $x = $f((0.4124 * $c[0] + 0.3576 * $c[1] + 0.1805 * $c[2]) / 0.95047);
            $y = $f(0.2126 * $c[0] + 0.7152 * $c[1] + 0.0722 * $c[2]);
            $z = $f((0.0193 * $c[0] + 0.1192 * $c[1] + 0.9505 * $c[2]) / 1.08883);

            return [116 * $y - 16, 500 * ($x - $y), 200 * ($y - $z)];
        };
        [$p, $q] = [$lab($a), $lab($b)];

        return sqrt(($p[0] - $q[0]) ** 2 + ($p[1] - $q[1]) ** 2 + ($p[2] - $q[2]) ** 2);
    }
}
