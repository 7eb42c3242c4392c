<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** When each frame of a clip is shown. Frame k is the k-th that is decoded from the original, from 0. */
final readonly class FrameTable
{
    /** Times are in ticks of this many a second. */
    public const TICKS = 90_000;

    /**
     * @param  non-empty-list<int>  $times  of the frames from the start of the container, in ticks, growing
     * @param  int  $end  when the last frame has been shown
     * @param  int  $width  of the upright picture in px, its pixels square
     * @param  int  $height  of the upright picture in px
     * @param  string  $fingerprint  SHA-256 over the checksums and time stamps of the decoded original: another decoding of it gives the same
     */
    private function __construct(public array $times, public int $end, public int $width, public int $height, public string $fingerprint)
    {
    }

    /**
     * @param  list<int>  $times
     *
     * @throws InvalidValue
     */
    public static function of(array $times, int $width, int $height, string $fingerprint): self
    {
        if ($times === []) {
            throw InvalidValue::at('times', $times, 'at least one frame');
        }
        foreach ($times as $k => $time) {
            if ($k > 0 && $time <= $times[$k - 1]) {
                throw InvalidValue::at("times[{$k}]", $time, "a time after {$times[$k - 1]}");
            }
        }
        $last = count($times) - 1;
        // the last is shown as long as a frame is on the whole
        $step = $last > 0 ? max(1, (int) round(($times[$last] - $times[0]) / $last)) : intdiv(self::TICKS, 25);

        return new self($times, $times[$last] + $step, $width, $height, $fingerprint);
    }

    public function count(): int
    {
        return count($this->times);
    }

    /** @return float seconds from the start of the container @throws InvalidValue */
    public function seconds(int $frame): float
    {
        return ($this->times[$frame] ?? throw InvalidValue::at('frame', $frame, 'a frame from 0 to '.($this->count() - 1))) / self::TICKS;
    }

    /** The frame that is shown at a time: the last that has begun, the first before that. */
    public function at(float $seconds): int
    {
        $ticks = (int) floor($seconds * self::TICKS + 0.5);
        [$low, $high] = [0, $this->count()];
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            $this->times[$middle] <= $ticks ? $low = $middle + 1 : $high = $middle;
        }

        return max(0, $low - 1);
    }

    /** Frames a second on the whole. */
    public function rate(): float
    {
        return $this->count() * self::TICKS / ($this->end - $this->times[0]);
    }

    /** Seconds from the first frame to the end of the last. */
    public function duration(): float
    {
        return ($this->end - $this->times[0]) / self::TICKS;
    }

    /** Whether frames are shown for different times, by more than what rounding makes. */
    public function isVariable(): bool
    {
        $step = ($this->end - $this->times[0]) / $this->count();
        foreach ($this->times as $k => $time) {
            if (abs($time - $this->times[0] - $k * $step) > max(0.6 * $step, 180)) {
                return true;
            }
        }

        return false;
    }

    /** @return array{width: int, height: int, times: non-empty-list<int>, end: int, fingerprint: string} */
    public function toArray(): array
    {
        return ['width' => $this->width, 'height' => $this->height, 'times' => $this->times, 'end' => $this->end, 'fingerprint' => $this->fingerprint];
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'frames'): self
    {
        $fields = Fields::of($data, $path);
        $times = [];
        foreach ($fields->list('times') as $k => $time) {
            $times[] = is_int($time) ? $time : throw InvalidValue::at("{$path}.times[{$k}]", $time, 'ticks');
        }

        return self::of($times, $fields->int('width', 1, 1_000_000), $fields->int('height', 1, 1_000_000), $fields->string('fingerprint', 64));
    }
}
