<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** The row of places an item has beside its plane: the frames of a clip. Places count from 0. */
final readonly class Axis
{
    /**
     * @param  int  $places  how many there are
     * @param  float  $rate  frames a second, on the whole
     * @param  ?list<float>  $times  of the places in seconds from the start of the clip; null: they follow each other at the rate
     */
    private function __construct(public int $places, public float $rate, public ?array $times)
    {
    }

    /**
     * @param  ?list<float>  $times
     *
     * @throws InvalidValue
     */
    public static function frames(int $places, float $rate, ?array $times = null): self
    {
        if ($places < 1) {
            throw InvalidValue::at('axis.frames', $places, 'at least one frame');
        }
        if (! ($rate > 0) || ! is_finite($rate)) {
            throw InvalidValue::at('axis.rate', $rate, 'frames a second, more than 0');
        }
        if ($times !== null && count($times) !== $places) {
            throw InvalidValue::at('axis.times', count($times), "a time for each of {$places} frames");
        }

        return new self($places, $rate, $times);
    }

    /** When a place is shown, in seconds; of the one after the last, when that has been shown. */
    public function seconds(int $place): float
    {
        return $this->times === null ? $place / $this->rate : ($this->times[$place] ?? $this->times[$this->places - 1] + ($place - $this->places + 1) / $this->rate);
    }

    /** @return array{frames: int, rate: float, times?: list<float>} */
    public function toArray(): array
    {
        return ['frames' => $this->places, 'rate' => $this->rate] + ($this->times === null ? [] : ['times' => $this->times]);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'axis'): self
    {
        $fields = Fields::of($data, $path);
        $times = null;
        if ($fields->has('times')) {
            $times = [];
            foreach ($fields->list('times') as $i => $time) {
                $times[] = is_int($time) || is_float($time) ? (float) $time : throw InvalidValue::at("{$path}.times[{$i}]", $time, 'seconds');
            }
        }

        return self::frames($fields->int('frames', 1, 10_000_000), $fields->number('rate'), $times);
    }
}
