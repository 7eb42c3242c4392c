<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Closure;
use RuntimeException;
use Skeno\Core\Json\Lines;

/**
 * Makes of the frames of a cloud what the bench needs: `0.bin`, `1.bin` … as `Frame` says, and `index.json`. The points of a frame are put into
 * levels by a number drawn from their place in the file, each level twice as many as all before it: whoever has read a part of the file has
 * points from everywhere, and no order of a scanner shows in it. Never more than a few thousand points are held at a time.
 */
final class Making
{
    /** Levels: the first is one point of so many. */
    private const LEVELS = 8;

    /** A cloud that lies farther from zero than this is told from a place in its midst, since a float of 32 bits has seven digits. */
    private const FAR = 4_096.0;

    /** Bytes of a point on the way: x, y, z, intensity as floats of 64 bits, class and colour as whole numbers. */
    private const RAW = 40;

    /**
     * @param  non-empty-list<Source>  $frames
     * @param  string  $folder  empty
     * @param  ?Closure(int, int): void  $progress  told how many steps are done, of how many; may throw to stop
     *
     * @throws RefusedCloud when a file turns out to be none, or a frame has nothing that can be seen
     */
    public function make(array $frames, string $folder, ?Closure $progress = null): Made
    {
        $steps = 3 * count($frames);
        $done = 0;
        $told = static function () use (&$done, $steps, $progress): void {
            $done++;
            if ($progress !== null) {
                $progress($done, $steps);
            }
        };
        $raw = [];
        foreach ($frames as $n => $source) {
            try {
                $raw[] = $this->read($source, "{$folder}/{$n}.raw");
            } catch (RefusedCloud $e) {
                throw count($frames) > 1 ? RefusedCloud::because('frame '.($n + 1).': '.$e->getMessage()) : $e;
            }
            $told();
        }
        $least = $raw[0]->least;
        $most = $raw[0]->most;
        foreach ($raw as $frame) {
            for ($axis = 0; $axis < 3; $axis++) {
                $least[$axis] = min($least[$axis], $frame->least[$axis]);
                $most[$axis] = max($most[$axis], $frame->most[$axis]);
            }
        }
        $origin = [0.0, 0.0, 0.0];
        for ($axis = 0; $axis < 3; $axis++) {
            if (max(abs($least[$axis]), abs($most[$axis])) > self::FAR) {
                $origin[$axis] = round(($least[$axis] + $most[$axis]) / 2);
            }
        }
        $intensities = array_values(array_filter(array_map(static fn (Raw $frame): ?array => $frame->intensity, $raw)));
        $intensity = $intensities === [] ? null : [min(array_column($intensities, 0)), max(array_column($intensities, 1))];
        $hasColour = in_array(true, array_column($raw, 'hasColour'), true);
        $hasClass = in_array(true, array_column($raw, 'hasClass'), true);
        $index = [];
        foreach ($raw as $n => $frame) {
            $ground = Ground::under([$frame->least[0], $frame->least[1]], [$frame->most[0], $frame->most[1]], (static function () use ($frame): iterable {
                foreach ($frame->points() as $some) {
                    yield [$some['x'], $some['y'], $some['z']];
                }
            })());
            $told();
            $levels = $this->lay($frame, $ground, $origin, $intensity, $hasColour, "{$folder}/{$n}");
            @unlink("{$folder}/{$n}.raw");
            $index[] = ['points' => $frame->seen, 'unseen' => $frame->count - $frame->seen, 'levels' => $levels, 'least' => $frame->least, 'most' => $frame->most];
            $told();
        }
        $made = new Made(array_column($index, 'points'), $least, $most);
        self::put("{$folder}/index.json", Lines::encode([
            'origin' => $origin, 'record' => $hasColour ? Frame::COLOURED : Frame::RECORD, 'intensity' => $intensity, 'has_class' => $hasClass, 'has_colour' => $hasColour,
            'least' => $least, 'most' => $most, 'frames' => $index,
        ]));

        return $made;
    }

    /** Reads a frame once, into records of its own. @throws RefusedCloud */
    private function read(Source $source, string $file): Raw
    {
        $out = @fopen($file, 'wb') ?: throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
        try {
            $count = $seen = 0;
            $least = [INF, INF, INF];
            $most = [-INF, -INF, -INF];
            $intensity = null;
            $hasClass = $hasColour = false;
            foreach ($source->points() as $points) {
                $bytes = '';
                foreach ($points->x as $i => $x) {
                    [$y, $z] = [$points->y[$i], $points->z[$i]];
                    $count++;
                    // nothing was seen there, or nobody could ever reach it
                    if (! (abs($x) <= 1e8 && abs($y) <= 1e8 && abs($z) <= 1e8)) {
                        continue;
                    }
                    $seen++;
                    $least = [min($least[0], $x), min($least[1], $y), min($least[2], $z)];
                    $most = [max($most[0], $x), max($most[1], $y), max($most[2], $z)];
                    $strong = $points->intensity[$i] ?? NAN;
                    if (is_finite($strong)) {
                        $intensity = $intensity === null ? [$strong, $strong] : [min($intensity[0], $strong), max($intensity[1], $strong)];
                    }
                    $bytes .= pack('eeeeVV', $x, $y, $z, $strong, ($points->class[$i] ?? 0) & 0xFFFFFFFF, $points->colour[$i] ?? 0);
                }
                $hasClass = $hasClass || $points->class !== null;
                $hasColour = $hasColour || $points->colour !== null;
                if (fwrite($out, $bytes) !== strlen($bytes)) {
                    throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
                }
            }
        } finally {
            fclose($out);
        }
        if ($seen === 0) {
            throw RefusedCloud::because($count === 0 ? 'it has no points' : 'none of its points lies at a place that is a number');
        }

        return new Raw($file, self::RAW, $count, $seen, $least, $most, $intensity, $hasClass, $hasColour);
    }

    /**
     * Writes the points of a frame, level by level.
     *
     * @param  array{float, float, float}  $origin
     * @param  ?array{float, float}  $intensity
     * @return list<int> how many points there are up to the end of each level
     */
    private function lay(Raw $frame, Ground $ground, array $origin, ?array $intensity, bool $hasColour, string $name): array
    {
        $files = $counts = [];
        for ($n = 0; $n < self::LEVELS; $n++) {
            $files[] = @fopen($n === 0 ? "{$name}.bin" : "{$name}.level{$n}", 'w+b') ?: throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
            $counts[] = 0;
        }
        [$ox, $oy, $oz] = $origin;
        $span = $intensity === null || $intensity[1] <= $intensity[0] ? 0.0 : 255.0 / ($intensity[1] - $intensity[0]);
        $n = 0;
        foreach ($frame->points() as $some) {
            $bytes = array_fill(0, self::LEVELS, '');
            foreach ($some['x'] as $i => $x) {
                [$y, $z, $strong] = [$some['y'][$i], $some['z'][$i], $some['intensity'][$i]];
                $level = self::level($n++);
                $counts[$level]++;
                $grey = $intensity !== null && is_finite($strong) ? (int) round(($strong - $intensity[0]) * $span) : 0;
                $bytes[$level] .= pack('gggCCCC', $x - $ox, $y - $oy, $z - $oz, $grey, min(255, $some['class'][$i]), $ground->has($x, $y, $z) ? 1 : 0, 0);
                if ($hasColour) {
                    $colour = $some['colour'][$i];
                    $bytes[$level] .= chr($colour >> 16 & 255).chr($colour >> 8 & 255).chr($colour & 255)."\0";
                }
            }
            foreach ($bytes as $of => $own) {
                if (fwrite($files[$of], $own) !== strlen($own)) {
                    throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
                }
            }
        }
        foreach (array_slice($files, 1) as $above => $file) {
            rewind($file);
            stream_copy_to_stream($file, $files[0]);
            fclose($file);
            @unlink("{$name}.level".($above + 1));
        }
        $size = (int) ftell($files[0]);
        fclose($files[0]);
        if ($size !== $frame->seen * ($hasColour ? Frame::COLOURED : Frame::RECORD)) {
            throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
        }
        $up = 0;
        $levels = [];
        foreach ($counts as $count) {
            $levels[] = $up += $count;
        }

        return $levels;
    }

    /** Of the n-th point: half are of the last level, a quarter of the one before, and so on. (Multiplied as Knuth has it, The Art of Computer Programming 3, 6.4.) */
    private static function level(int $n): int
    {
        $drawn = ($n * 2_654_435_761 & 0xFFFFFFFF) >> 24;
        $level = self::LEVELS - 1;
        while ($level > 0 && $drawn < 128) {
            $drawn = $drawn << 1 | 1;
            $level--;
        }

        return $level;
    }

    private static function put(string $file, string $bytes): void
    {
        if (@file_put_contents($file, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('what the bench needs of this cloud could not be written: is the disk full?');
        }
    }
}
