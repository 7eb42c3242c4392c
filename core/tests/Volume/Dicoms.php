<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Volume;

/** Small DICOM files, written element by element as PS3.5 has them, beside the code that reads them. */
final class Dicoms
{
    /**
     * A slice of 4 × 3 pixels: across is to the left, down is to the back, slices go up.
     *
     * @param  list<int>  $pixels
     * @param  array<int, array{string, string}>  $more  kind and value by group and element, over what is usual
     * @param  list<int>  $without  elements left out
     */
    public static function slice(string $file, float $z, array $pixels, array $more = [], array $without = [], bool $explicit = true): string
    {
        $elements = $more + [
            0x0008_0016 => ['UI', '1.2.840.10008.5.1.4.1.1.2'], 0x0008_0018 => ['UI', '1.2.3.'.(int) round(1000 + $z * 10)], 0x0008_0060 => ['CS', 'CT'], 0x0010_0010 => ['PN', 'DOE^JOHN'], 0x0010_0030 => ['DA', '19700101'],
            0x0018_0050 => ['DS', '2.5'], 0x0020_000D => ['UI', '1.2.3.4'], 0x0020_000E => ['UI', '1.2.3.5'], 0x0020_0013 => ['IS', (string) (int) round($z)], 0x0020_0032 => ['DS', "-10\\-20\\{$z}"], 0x0020_0037 => ['DS', '1\\0\\0\\0\\1\\0'],
            0x0028_0002 => ['US', pack('v', 1)], 0x0028_0004 => ['CS', 'MONOCHROME2'], 0x0028_0010 => ['US', pack('v', 3)], 0x0028_0011 => ['US', pack('v', 4)], 0x0028_0030 => ['DS', '0.8\\0.5'], 0x0028_0100 => ['US', pack('v', 16)],
            0x0028_0101 => ['US', pack('v', 12)], 0x0028_0102 => ['US', pack('v', 11)], 0x0028_0103 => ['US', pack('v', 0)], 0x0028_1050 => ['DS', '40'], 0x0028_1051 => ['DS', '400'], 0x0028_1052 => ['DS', '-1024'], 0x0028_1053 => ['DS', '1'],
            0x7FE0_0010 => ['OW', pack('v*', ...$pixels)],
        ];
        ksort($elements);
        $body = '';
        foreach (array_diff_key($elements, array_flip($without)) as $at => [$kind, $value]) {
            $body .= self::element($at, $kind, $value, $explicit);
        }
        $meta = self::element(0x0002_0001, 'OB', "\0\1").self::element(0x0002_0002, 'UI', '1.2.840.10008.5.1.4.1.1.2').self::element(0x0002_0003, 'UI', '1.2.3.'.(int) round(1000 + $z * 10)).self::element(0x0002_0010, 'UI', $explicit ? '1.2.840.10008.1.2.1' : '1.2.840.10008.1.2').self::element(0x0002_0012, 'UI', '1.2.3');
        file_put_contents($file, str_repeat("\0", 128).'DICM'.self::element(0x0002_0000, 'UL', pack('V', strlen($meta))).$meta.$body);

        return $file;
    }

    /** A sequence of one item that does not say how long it is, with an element inside. */
    public static function sequence(string $inside): string
    {
        return pack('vvV', 0xFFFE, 0xE000, 0xFFFF_FFFF).$inside.pack('vvV', 0xFFFE, 0xE00D, 0).pack('vvV', 0xFFFE, 0xE0DD, 0);
    }

    public static function element(int $at, string $kind, string $value, bool $explicit = true): string
    {
        $tag = pack('vv', $at >> 16, $at & 0xFFFF);
        if ($kind === 'SQ?') {
            // of unknown length
            return $tag.($explicit ? 'SQ'."\0\0" : '').pack('V', 0xFFFF_FFFF).$value;
        }
        $value = strlen($value) % 2 === 0 ? $value : $value.($kind === 'UI' || $kind === 'OB' ? "\0" : ' ');
        if (! $explicit) {
            return $tag.pack('V', strlen($value)).$value;
        }

        return $tag.$kind.(in_array($kind, ['OB', 'OW', 'SQ', 'UN', 'UT'], true) ? "\0\0".pack('V', strlen($value)) : pack('v', strlen($value))).$value;
    }
}
