<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What part of the measured range is shown from black to white: a level in its middle, and its width, in the units of the scan. */
final readonly class Window
{
    private function __construct(public string $name, public float $level, public float $width)
    {
    }

    /** @throws InvalidValue */
    public static function of(string $name, float $level, float $width, string $path = 'window'): self
    {
        if (! is_finite($level) || ! is_finite($width) || ! ($width > 0)) {
            throw InvalidValue::at($path, is_finite($level) ? $width : $level, 'a level, and a width of more than 0');
        }

        return new self($name, $level, $width);
    }

    public static function between(string $name, float $low, float $high): self
    {
        return self::of($name, ($low + $high) / 2, max($high - $low, 1e-9 * max(1.0, abs($high))));
    }

    /** How bright a measured value is shown, 0 to 255. */
    public function grey(float $value): int
    {
        return (int) round(255 * min(1.0, max(0.0, ($value - $this->level) / $this->width + 0.5)));
    }

    /** @return array{name: string, level: float, width: float} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'level' => $this->level, 'width' => $this->width];
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'window'): self
    {
        $fields = Fields::of($data, $path);

        return self::of($fields->string('name', 60), $fields->number('level'), $fields->number('width'), $path);
    }
}
