<?php

declare(strict_types=1);

namespace Skeno\Core\Raster;

use Skeno\Core\InvalidValue;

/**
 * COCO's compressed run lengths: each count, from the fourth on less the one two before it, as a signed number of base 32, lowest digit
 * first, one printable character a digit (48 + digit, plus 32 while more follow). Source: the COCO mask format as published.
 */
final class CompressedRuns
{
    /** @param  list<int>  $counts */
    public static function encode(array $counts): string
    {
        $text = '';
        foreach ($counts as $i => $count) {
            $value = $i > 2 ? $count - $counts[$i - 2] : $count;
            do {
                $digit = $value & 0x1F;
                $value >>= 5;
                // done when what is left is only the sign that the digit's own top bit already says
                $more = ($digit & 0x10) !== 0 ? $value !== -1 : $value !== 0;
                $text .= chr(48 + ($more ? $digit | 0x20 : $digit));
            } while ($more);
        }

        return $text;
    }

    /**
     * @return list<int>
     *
     * @throws InvalidValue when a character is none of them, a number does not end or is too large
     */
    public static function decode(string $text, string $path = 'counts'): array
    {
        /** @var list<int> $counts */
        $counts = [];
        $n = 0;
        $value = $shift = 0;
        $length = strlen($text);
        for ($p = 0; $p < $length; $p++) {
            $char = ord($text[$p]) - 48;
            if ($char < 0 || $char > 63) {
                throw InvalidValue::at($path, $text[$p], "a character from \"0\" to \"o\" at place {$p}");
            }
            $value |= ($char & 0x1F) << $shift;
            $shift += 5;
            if ($shift > 40) {
                throw InvalidValue::at($path, "a number of more than 40 bits at place {$p}", 'run lengths of a picture');
            }
            if (($char & 0x20) !== 0) {
                continue;
            }
            if (($char & 0x10) !== 0) {
                $value |= -1 << $shift;
            }
            if ($n > 2) {
                $value += $counts[$n - 2];
            }
            $counts[] = $value;
            $n++;
            $value = $shift = 0;
        }
        if ($shift !== 0) {
            throw InvalidValue::at($path, 'a number that does not end', 'whole run lengths');
        }

        return $counts;
    }
}
