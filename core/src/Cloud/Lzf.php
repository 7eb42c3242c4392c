<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Unpacks LZF, as PCD packs its points (format of M. Lehmann's liblzf): literals, and copies of what came up to 8 kB before. */
final class Lzf
{
    /**
     * @param  int  $size  bytes it has to come to
     *
     * @throws RefusedCloud when it does not
     */
    public static function unpack(string $packed, int $size): string
    {
        $out = '';
        $at = 0;
        $end = strlen($packed);
        while ($at < $end) {
            $control = ord($packed[$at++]);
            if ($control < 32) {
                // so many bytes as they are, and one more
                $out .= substr($packed, $at, $control + 1);
                $at += $control + 1;
                if ($at > $end) {
                    throw RefusedCloud::because('its packed points are damaged');
                }

                continue;
            }
            $length = $control >> 5;
            if ($length === 7) {
                $length += $at < $end ? ord($packed[$at++]) : throw RefusedCloud::because('its packed points are damaged');
            }
            if ($at >= $end) {
                throw RefusedCloud::because('its packed points are damaged');
            }
            $back = (($control & 31) << 8 | ord($packed[$at++])) + 1;
            $length += 2;
            $have = strlen($out);
            if ($back > $have || $have + $length > $size) {
                throw RefusedCloud::because('its packed points are damaged');
            }
            // what is copied may reach into what it makes: then it repeats
            $piece = substr($out, $have - $back, min($back, $length));
            $out .= $back >= $length ? $piece : substr(str_repeat($piece, intdiv($length, $back) + 1), 0, $length);
        }

        return strlen($out) === $size ? $out : throw RefusedCloud::because('its packed points come to '.number_format(strlen($out)).' bytes, not to '.number_format($size));
    }
}
