<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\InvalidValue;

/**
 * A calibration as KITTI has it: `P2` (3 × 4), `R0_rect` (3 × 3) and `Tr_velo_to_cam` (3 × 4), each a line of its name and its numbers.
 *
 * Source: A. Geiger, P. Lenz, R. Urtasun, "Are we ready for autonomous driving? The KITTI vision benchmark suite", CVPR (2012); its development kit.
 */
final class KittiCalibration
{
    private const MOST = 65_536;

    /**
     * The camera whose pictures are labelled.
     *
     * @param  ?array{int, int}  $size  px of its pictures; null: nobody has one, and what it looks along is thought to be in their middle
     *
     * @throws InvalidValue
     */
    public static function read(string $text, string $name, ?array $size): Camera
    {
        if (strlen($text) > self::MOST) {
            throw InvalidValue::at('calibration', strlen($text).' bytes', 'at most '.self::MOST);
        }
        $lines = [];
        foreach (preg_split('/\R/', $text) ?: [] as $line) {
            if (preg_match('/^\s*(\w+)\s*:?\s+(.+)$/', $line, $m) === 1) {
                $words = preg_split('/\s+/', trim($m[2])) ?: [];
                $lines[$m[1]] = array_map(static fn (string $word): float => is_numeric($word) ? (float) $word : NAN, $words);
            }
        }
        $of = static function (int $count, string ...$names) use ($lines): array {
            foreach ($names as $name) {
                if (isset($lines[$name])) {
                    return count($lines[$name]) === $count && ! in_array(false, array_map(is_finite(...), $lines[$name]), true) ? $lines[$name] : throw InvalidValue::at($name, count($lines[$name]).' words', "{$count} numbers");
                }
            }
            throw InvalidValue::at($names[0], null, 'a line of the calibration');
        };
        $rect = isset($lines['R0_rect']) || isset($lines['R_rect']) ? $of(9, 'R0_rect', 'R_rect') : [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0];
        $velo = $of(12, 'Tr_velo_to_cam', 'Tr_velo_cam', 'Tr');
        $to = [];
        for ($row = 0; $row < 3; $row++) {
            for ($column = 0; $column < 4; $column++) {
                $to[] = $rect[3 * $row] * $velo[$column] + $rect[3 * $row + 1] * $velo[4 + $column] + $rect[3 * $row + 2] * $velo[8 + $column];
            }
        }

        $projection = $of(12, 'P2', 'P_rect_02');
        [$width, $height] = $size ?? [(int) round(2 * $projection[2]), (int) round(2 * $projection[6])];
        if ($width < 1 || $height < 1 || $width > Camera::MOST_SIDE || $height > Camera::MOST_SIDE) {
            throw InvalidValue::at('P2', "{$projection[2]}, {$projection[6]}", 'the middle of a picture in px');
        }

        return Camera::of($name, $width, $height, $to, $projection, 'calibration');
    }

    /** As such a file says it: what rectifies is in `Tr_velo_to_cam` already. */
    public static function write(Camera $camera): string
    {
        $one = [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0];

        return implode('', array_map(static fn (int $n): string => self::line("P{$n}", $camera->projection), [0, 1, 2, 3])).self::line('R0_rect', $one).self::line('Tr_velo_to_cam', $camera->toCamera).self::line('Tr_imu_to_velo', [1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0]);
    }

    /** @param  list<float>  $numbers */
    private static function line(string $name, array $numbers): string
    {
        return "{$name}: ".implode(' ', array_map(static fn (float $number): string => sprintf('%.12e', $number), $numbers))."\n";
    }
}
