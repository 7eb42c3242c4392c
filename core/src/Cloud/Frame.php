<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use RuntimeException;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * A frame of a cloud as it was made for the bench: a record a point, little end first, of three floats of 32 bits (metres from the cloud's
 * origin) and four bytes (intensity 0 to 255, class, 1 for ground, nothing), then four more (red, green, blue, nothing) where the points have
 * colours. Every beginning of the file is an even choice of all its points.
 */
final readonly class Frame
{
    public const RECORD = 16;

    public const COLOURED = 20;

    /** Metres of a cell of the ground. */
    private const CELL = 0.25;

    /** Bytes that are looked at, at a time. */
    private const ROOM = 1 << 20;

    /**
     * @param  array{float, float, float}  $origin  of the cloud: what its points are told from
     * @param  int  $record  bytes of a point
     * @param  int  $points  how many can be seen: those whose place is no number are not among them
     * @param  array{array{float, float, float}, array{float, float, float}}  $bounds  in the cloud's axes, both ends
     */
    private function __construct(private string $file, public array $origin, private int $record, public int $points, public array $bounds)
    {
    }

    /**
     * @param  string  $folder  that `Making` has filled
     *
     * @throws InvalidValue when there is no such frame
     */
    public static function open(string $folder, int $frame): self
    {
        $index = json_decode((string) @file_get_contents("{$folder}/index.json"), true);
        if (! is_array($index)) {
            throw new RuntimeException('what was made of this cloud is gone');
        }
        $in = Fields::of($index);
        $frames = $in->list('frames');
        $own = $frames[$frame] ?? throw InvalidValue::at('frame', $frame, 'a frame from 0 to '.(count($frames) - 1));
        $own = Fields::of(is_array($own) ? $own : []);

        return new self("{$folder}/{$frame}.bin", Made::three($in, 'origin'), $in->int('record', self::RECORD, self::COLOURED), $own->int('points', 0), [Made::three($own, 'least'), Made::three($own, 'most')]);
    }

    /**
     * Its points some at a time, by columns, in the cloud's axes.
     *
     * @return iterable<array{x: list<float>, y: list<float>, z: list<float>}>
     */
    public function points(): iterable
    {
        [$ox, $oy, $oz] = $this->origin;
        foreach ($this->records() as [$floats, , $wide]) {
            $x = $y = $z = [];
            for ($i = 1, $end = count($floats); $i <= $end; $i += $wide) {
                $x[] = $floats[$i] + $ox;
                $y[] = $floats[$i + 1] + $oy;
                $z[] = $floats[$i + 2] + $oz;
            }
            yield ['x' => $x, 'y' => $y, 'z' => $z];
        }
    }

    /**
     * Its points some at a time as they lie in the file, for those who go through all of them to find a few.
     *
     * @return iterable<array{array<int, float>, string, int}> floats counted from 1, of which each point has x, y, z from the cloud's origin first; its bytes; how many floats a point takes
     */
    public function records(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw new RuntimeException('what was made of this cloud is gone');
        try {
            $some = intdiv(self::ROOM, $this->record);
            for ($read = 0; $read < $this->points; $read += $some) {
                $length = min($some, $this->points - $read) * $this->record;
                $bytes = (string) stream_get_contents($in, $length);
                if (strlen($bytes) !== $length) {
                    throw new RuntimeException('what was made of this cloud is broken: it ends before its points do');
                }
                /** @var array<int, float> $floats */
                $floats = unpack('g*', $bytes);
                yield [$floats, $bytes, intdiv($this->record, 4)];
            }
        } finally {
            fclose($in);
        }
    }

    /**
     * Those that lie over a part of the ground.
     *
     * @param  array{float, float, float, float}  $part  least x and y, most x and y
     */
    public function over(array $part): Near
    {
        [$ox, $oy, $oz] = $this->origin;
        [$x0, $y0, $x1, $y1] = [$part[0] - $ox, $part[1] - $oy, $part[2] - $ox, $part[3] - $oy];
        $xs = $ys = $zs = $ground = [];
        foreach ($this->records() as [$floats, $bytes, $wide]) {
            for ($i = 1, $end = count($floats); $i <= $end; $i += $wide) {
                $x = $floats[$i];
                if ($x < $x0 || $x > $x1 || $floats[$i + 1] < $y0 || $floats[$i + 1] > $y1) {
                    continue;
                }
                [$y, $z] = [$floats[$i + 1], $floats[$i + 2]];
                if ($bytes[4 * $i + 10] === "\1") {
                    // (at the foot of a wall there are many points that are nearly ground, and each would count)
                    $cell = (int) floor($x / self::CELL) << 30 ^ (int) floor($y / self::CELL);
                    $ground[$cell] = min($ground[$cell] ?? INF, $z + $oz);
                } else {
                    $xs[] = $x + $ox;
                    $ys[] = $y + $oy;
                    $zs[] = $z + $oz;
                }
            }
        }

        return new Near($xs, $ys, $zs, array_values($ground));
    }
}
