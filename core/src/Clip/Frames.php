<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Closure;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\InvalidValue;

/** Single frames of a clip as pictures: exact ones decoded from the original, or quick ones from what was made of it. */
final readonly class Frames
{
    /** Stretches of frames picked in one decoding. */
    private const AT_ONCE = 500;

    private Program $program;

    public function __construct(ClipLimits $limits)
    {
        $this->program = new Program($limits);
    }

    /**
     * Writes frames of the original as PNG, upright and with square pixels, named by their number: `000017.png`.
     *
     * @param  list<int>  $frames  in any order
     * @param  int  $count  how many frames the clip has
     * @param  int  $width  of its upright picture
     * @param  int  $height  of its upright picture
     * @param  string  $folder  where they are written, nothing else in it
     * @return array<int, string> the files by frame, in order
     *
     * @throws RefusedClip when the original does not give them
     */
    public function write(string $file, ClipFormat $format, array $frames, int $count, int $width, int $height, string $folder): array
    {
        $frames = array_values(array_unique($frames));
        sort($frames);
        foreach ($frames as $frame) {
            if ($frame < 0 || $frame >= $count) {
                throw InvalidValue::at('frames', $frame, 'frames from 0 to '.($count - 1));
            }
        }
        $written = [];
        foreach (array_chunk(self::stretches($frames), self::AT_ONCE) as $some) {
            $wanted = array_merge(...array_map(static fn (array $stretch): array => range($stretch[0], $stretch[1]), $some));
            $picked = implode('+', array_map(static fn (array $stretch): string => "between(n,{$stretch[0]},{$stretch[1]})", $some));
            $this->program->ffmpeg([...Program::input($file, $format->demuxer()), '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', "select='{$picked}',scale=w={$width}:h={$height},setsar=1", '-frames:v', (string) count($wanted), '-f', 'image2', '-start_number', '0', "{$folder}/part-%06d.png"]);
            foreach ($wanted as $i => $frame) {
                $from = sprintf('%s/part-%06d.png', $folder, $i);
                if (! is_file($from)) {
                    throw RefusedClip::because("frame {$frame} could not be decoded");
                }
                rename($from, $written[$frame] = sprintf('%s/%06d.png', $folder, $frame));
            }
        }

        return $written;
    }

    /**
     * One frame as JPEG from a file that was made for the screen, decoding only its group.
     *
     * @throws RefusedClip
     */
    public function quick(string $made, FrameTable $table, int $frame, string $target): void
    {
        $time = $table->seconds($frame);
        // in the middle between it and the frame before: the first one past that is it
        $from = $frame === 0 ? 0.0 : ($time + $table->seconds($frame - 1)) / 2;
        $this->program->ffmpeg([...($frame === 0 ? [] : ['-seek_timestamp', '1', '-ss', sprintf('%.6F', $from)]), ...Program::input($made, 'mov'), '-map', '0:v:0', '-frames:v', '1', '-q:v', '3', '-f', 'image2', '-update', '1', $target]);
        if (! is_file($target)) {
            throw RefusedClip::because("frame {$frame} could not be decoded");
        }
    }

    /**
     * The brightness of frames one after the other, from a file that was made for the screen.
     *
     * @param  Closure(Plane, int): bool  $each  gets a frame and its number; says whether it wants the next one
     *
     * @throws RefusedClip
     */
    public function planes(string $made, FrameTable $table, int $first, int $count, int $width, int $height, Closure $each): void
    {
        $time = $table->seconds($first);
        $from = $first === 0 ? 0.0 : ($time + $table->seconds($first - 1)) / 2;
        $rest = '';
        $frame = $first;
        $enough = false;
        try {
            $this->program->ffmpeg([...($first === 0 ? [] : ['-seek_timestamp', '1', '-ss', sprintf('%.6F', $from)]), ...Program::input($made, 'mov'), '-map', '0:v:0', '-fps_mode', 'passthrough', '-frames:v', (string) $count, '-pix_fmt', 'gray', '-f', 'rawvideo', 'pipe:1'], static function (string $bytes) use (&$rest, &$frame, &$enough, $width, $height, $each): void {
                $rest .= $bytes;
                $size = $width * $height;
                $at = 0;
                while (strlen($rest) - $at >= $size) {
                    if (! $each(Plane::of($width, $height, substr($rest, $at, $size)), $frame++)) {
                        $enough = true;
                        throw new Enough;
                    }
                    $at += $size;
                }
                $rest = substr($rest, $at);
            });
        } catch (Enough) {
            // what is not wanted is not decoded
        }
        if (! $enough && $frame < $first + $count) {
            throw RefusedClip::because("frame {$frame} could not be decoded");
        }
    }

    /**
     * Every so manyth frame brought to the size of a swatch, from a file that was made for the screen; none is kept.
     *
     * @param  int  $every  from 1
     * @param  Closure(Swatch, int): void  $each  gets a frame and its number; may throw to stop
     *
     * @throws RefusedClip
     */
    public function swatches(string $made, int $every, Closure $each): void
    {
        $side = Swatch::SIDE;
        $size = 3 * $side * $side;
        $rest = '';
        $frame = 0;
        $this->program->ffmpeg([...Program::input($made, 'mov'), '-map', '0:v:0', '-fps_mode', 'passthrough', '-vf', "select=not(mod(n\\,{$every})),scale={$side}:{$side}:flags=area", '-pix_fmt', 'rgb24', '-f', 'rawvideo', 'pipe:1'], static function (string $bytes) use (&$rest, &$frame, $size, $every, $each): void {
            $rest .= $bytes;
            $at = 0;
            for (; strlen($rest) - $at >= $size; $at += $size) {
                /** @var list<int> */
                $values = array_values(unpack('C*', substr($rest, $at, $size)) ?: []);
                $each(Swatch::of($values), $frame);
                $frame += $every;
            }
            $rest = substr($rest, $at);
        });
    }

    /**
     * @param  list<int>  $frames  in order
     * @return list<array{int, int}>
     */
    private static function stretches(array $frames): array
    {
        $stretches = [];
        $open = null;
        foreach ($frames as $frame) {
            if ($open !== null && $open[1] === $frame - 1) {
                $open = [$open[0], $frame];

                continue;
            }
            if ($open !== null) {
                $stretches[] = $open;
            }
            $open = [$frame, $frame];
        }

        return $open === null ? [] : [...$stretches, $open];
    }
}
