<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** A frame as seen from above: lighter where points are higher, so that one knows a scan again in a list. */
final class TopView
{
    /** Of the points at each end of an axis so many are left out of sight: a few strays would make all else small. */
    private const STRAYS = 0.01;

    /** A picture as a Windows bitmap of 8 bits, which every program that reads pictures reads. x goes to the right, y up. */
    public static function bitmap(Frame $frame, int $width, int $height): string
    {
        $xs = $ys = $zs = [];
        foreach ($frame->points() as ['x' => $x, 'y' => $y, 'z' => $z]) {
            array_push($xs, ...$x);
            array_push($ys, ...$y);
            array_push($zs, ...$z);
            // every beginning is a choice of all
            if (count($xs) > 120_000) {
                break;
            }
        }
        [$x0, $x1] = self::most($xs);
        [$y0, $y1] = self::most($ys);
        [$z0, $z1] = self::most($zs);
        $scale = min(($width - 4) / max(0.1, $x1 - $x0), ($height - 4) / max(0.1, $y1 - $y0));
        $greys = array_fill(0, $width * $height, 22);
        foreach ($xs as $i => $x) {
            $column = (int) round($width / 2 + ($x - ($x0 + $x1) / 2) * $scale);
            $row = (int) round($height / 2 + ($ys[$i] - ($y0 + $y1) / 2) * $scale);
            if ($column >= 0 && $column < $width && $row >= 0 && $row < $height) {
                $grey = 60 + (int) (195 * max(0.0, min(1.0, ($zs[$i] - $z0) / max(0.1, $z1 - $z0))));
                $greys[$row * $width + $column] = max($greys[$row * $width + $column], $grey);
            }
        }
        $pad = str_repeat("\0", (4 - $width % 4) % 4);
        $body = '';
        // (a bitmap begins with its lowest row, as y does)
        foreach (array_chunk($greys, max(1, $width)) as $row) {
            $body .= implode('', array_map(chr(...), $row)).$pad;
        }
        $palette = '';
        for ($grey = 0; $grey < 256; $grey++) {
            $palette .= chr($grey).chr($grey).chr($grey)."\0";
        }

        return 'BM'.pack('VvvV', 1078 + strlen($body), 0, 0, 1078).pack('VVVvvVVVVVV', 40, $width, $height, 1, 8, 0, strlen($body), 2835, 2835, 256, 0).$palette.$body;
    }

    /**
     * @param  list<float>  $places
     * @return array{float, float}
     */
    private static function most(array $places): array
    {
        sort($places);
        $out = (int) (count($places) * self::STRAYS);

        return $places === [] ? [0.0, 1.0] : [$places[$out], $places[count($places) - 1 - $out]];
    }
}
