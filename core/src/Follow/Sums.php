<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Imaging\Plane;

/** Sums of brightness over every upper left part of a plane, by which the mean of any box is known at once (F. C. Crow, "Summed-area tables", 1984). */
final readonly class Sums
{
    /** @param  list<int>  $at  row by row, one column and one row more than the plane has: `at[y * (width + 1) + x]` is the sum of what lies left of x and above y */
    private function __construct(public int $width, public int $height, public array $at)
    {
    }

    public static function of(Plane $plane): self
    {
        $across = $plane->width + 1;
        $at = array_fill(0, $across, 0);
        /** @var list<int> $values */
        $values = array_values(unpack('C*', $plane->bytes) ?: []);
        $i = 0;
        for ($y = 0; $y < $plane->height; $y++) {
            $row = 0;
            $above = $y * $across;
            $at[] = 0;
            for ($x = 1; $x < $across; $x++) {
                $row += $values[$i++];
                $at[] = $at[$above + $x] + $row;
            }
        }

        return new self($plane->width, $plane->height, $at);
    }
}
