<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Mark;

/** An object of a cloud as a small picture: from above in the upper half, its front to the right, from its side below, at one scale; its own points are bright. */
final class Portrait
{
    /** Metres around it that are shown too, and the share of its size. */
    private const AROUND = 0.25;

    private const SHARE = 0.35;

    /** Of a mark that is a cuboid. */
    public static function ofMark(Frame $frame, Mark $mark, int $side): string
    {
        return self::bitmap($frame, $mark->geometry instanceof Cuboid ? $mark->geometry : throw InvalidValue::at('geometry', $mark->id, 'a cuboid'), $side);
    }

    /** As a Windows bitmap of 8 bits, which every program that reads pictures reads. */
    public static function bitmap(Frame $frame, Cuboid $cuboid, int $side): string
    {
        $half = intdiv($side, 2);
        [$c, $s] = [cos(deg2rad($cuboid->heading)), sin(deg2rad($cuboid->heading))];
        $reach = array_map(static fn (float $of): float => $of / 2 * (1 + self::SHARE) + self::AROUND, $cuboid->size);
        $scale = min($half / $reach[0], $half / 2 / $reach[1], $half / 2 / $reach[2]);
        $greys = array_fill(0, $side * $side, 22);
        $put = static function (float $along, float $up, bool $below, int $grey) use (&$greys, $side, $half, $scale): void {
            $column = (int) round($half + $along * $scale);
            $row = (int) round(($below ? $half + $half / 2 : $half / 2) - $up * $scale);
            if ($column >= 0 && $column < $side && $row >= ($below ? $half : 0) && $row < ($below ? $side : $half)) {
                $greys[$row * $side + $column] = max($greys[$row * $side + $column], $grey);
            }
        };
        // as far as the picture shows, whatever way it is turned
        $far = $half / $scale * 1.5;
        foreach ($frame->points() as ['x' => $xs, 'y' => $ys, 'z' => $zs]) {
            foreach ($xs as $i => $x) {
                [$dx, $dy] = [$x - $cuboid->center[0], $ys[$i] - $cuboid->center[1]];
                if (abs($dx) > $far || abs($dy) > $far) {
                    continue;
                }
                [$u, $v, $w] = [$dx * $c + $dy * $s, $dy * $c - $dx * $s, $zs[$i] - $cuboid->center[2]];
                $grey = abs($u) <= $cuboid->size[0] / 2 && abs($v) <= $cuboid->size[1] / 2 && abs($w) <= $cuboid->size[2] / 2 ? 235 : 105;
                // what is over it would hide it, and beside it what stands before it
                if ($w <= $reach[2]) {
                    $put($u, $v, false, $grey);
                }
                if (abs($v) <= $reach[1]) {
                    $put($u, $w, true, $grey);
                }
            }
        }
        foreach ([[false, $cuboid->size[1]], [true, $cuboid->size[2]]] as [$below, $height]) {
            for ($t = -1.0; $t <= 1.0; $t += 2 / $side) {
                foreach ([-1, 1] as $end) {
                    $put($t * $cuboid->size[0] / 2, $end * $height / 2, $below, 175);
                    $put($end * $cuboid->size[0] / 2, $t * $height / 2, $below, 175);
                }
                // its front is drawn twice as wide
                $put($cuboid->size[0] / 2 + 1.2 / $scale, $t * $height / 2, $below, 255);
            }
        }
        $pad = str_repeat("\0", (4 - $side % 4) % 4);
        $body = implode('', array_map(static fn (array $row): string => implode('', array_map(chr(...), $row)).$pad, array_reverse(array_chunk($greys, max(1, $side)))));
        $palette = '';
        for ($grey = 0; $grey < 256; $grey++) {
            $palette .= chr($grey).chr($grey).chr($grey)."\0";
        }

        return 'BM'.pack('VvvV', 1078 + strlen($body), 0, 0, 1078).pack('VVVvvVVVVVV', 40, $side, $side, 1, 8, 0, strlen($body), 2835, 2835, 256, 0).$palette.$body;
    }
}
