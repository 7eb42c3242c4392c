<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Clip;

use RuntimeException;
use Symfony\Component\Process\Process;

/** Clips whose pixels say the number of their frame: a row of blocks, one for each bit, and under it the same the other way round. */
final class NumberedClip
{
    public const WIDTH = 320;

    public const HEIGHT = 180;

    private const BITS = 12;

    private const BLOCK = 20;

    /**
     * @param  list<string>  $out  how ffmpeg writes it: codec, rate, container
     * @param  list<string>  $in  what comes before its input
     */
    public static function write(string $file, int $frames, array $out, bool $sound = false, array $in = ['-framerate', '25']): void
    {
        $raw = $file.'.raw';
        $to = fopen($raw, 'w') ?: throw new RuntimeException($raw);
        for ($n = 0; $n < $frames; $n++) {
            fwrite($to, self::frame($n));
        }
        fclose($to);
        $tone = $sound ? ['-f', 'lavfi', '-i', 'sine=frequency=440', '-shortest'] : [];
        self::run(['ffmpeg', '-nostdin', '-y', '-v', 'error', '-f', 'rawvideo', '-pix_fmt', 'gray', '-video_size', self::WIDTH.'x'.self::HEIGHT, ...$in, '-i', $raw, ...$tone, ...$out, $file]);
        unlink($raw);
    }

    /** @param  list<string>  $command */
    public static function run(array $command): void
    {
        (new Process($command, timeout: 120))->mustRun();
    }

    /** @return list<float> the outline of the bar on a frame */
    public static function bar(int $n): array
    {
        $x = (float) (($n * 7) % (self::WIDTH - 24));

        return [$x, 60.0, $x + 24, 60.0, $x + 24, 160.0, $x, 160.0];
    }

    /** A frame in gray: its number in blocks at the top left, below a bar of 24 × 100 px, from row 60 on, that moves 7 px a frame. */
    private static function frame(int $n): string
    {
        $bits = $other = '';
        for ($bit = self::BITS - 1; $bit >= 0; $bit--) {
            $on = ($n >> $bit & 1) === 1;
            $bits .= str_repeat($on ? "\xEB" : "\x10", self::BLOCK);
            $other .= str_repeat($on ? "\x10" : "\xEB", self::BLOCK);
        }
        $rest = str_repeat("\x60", self::WIDTH - self::BITS * self::BLOCK);
        $ground = str_repeat("\x60", self::WIDTH);
        // in three parts, so that one can tell where along it one is
        $bar = static fn (string $tone): string => substr_replace($ground, str_repeat($tone, 24), ($n * 7) % (self::WIDTH - 24), 24);

        return str_repeat($bits.$rest, self::BLOCK).str_repeat($other.$rest, self::BLOCK).str_repeat($ground, 20).str_repeat($bar("\xC8"), 24).str_repeat($bar("\x20"), 8).str_repeat($bar("\xA8"), 68).str_repeat($ground, self::HEIGHT - 160);
    }

    /** The number a picture shows; -1 when its two rows do not agree. */
    public static function read(string $picture, int $turned = 0): int
    {
        $image = imagecreatefromstring((string) file_get_contents($picture)) ?: throw new RuntimeException("no picture: {$picture}");
        if ($turned !== 0) {
            $image = imagerotate($image, $turned, 0) ?: throw new RuntimeException('not turned');
        }
        $number = 0;
        for ($bit = 0; $bit < self::BITS; $bit++) {
            $x = $bit * self::BLOCK + intdiv(self::BLOCK, 2);
            $light = static fn (int $y): bool => ((int) imagecolorat($image, $x, $y) & 0xFF) > 120;
            $one = $light(intdiv(self::BLOCK, 2));
            if ($one === $light(self::BLOCK + intdiv(self::BLOCK, 2))) {
                return -1;
            }
            $number = $number << 1 | ($one ? 1 : 0);
        }

        return $number;
    }
}
