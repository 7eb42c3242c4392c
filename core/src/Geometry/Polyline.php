<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** An open line: `{points: [x, y, x, y, …]}`, two points or more. It may cross itself. */
final readonly class Polyline implements Flat
{
    /** @param  non-empty-list<float>  $points */
    private function __construct(public array $points)
    {
    }

    /** @throws InvalidValue */
    public static function of(mixed $points, string $path = 'points'): self
    {
        /** @var non-empty-list<float> $checked two points at least */
        $checked = Coordinates::check($points, $path, 2);

        return new self($checked);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->raw('points'), "{$path}.points");
    }

    /** In px. */
    public function length(): float
    {
        $length = 0.0;
        for ($i = 2; $i < count($this->points); $i += 2) {
            $length += hypot($this->points[$i] - $this->points[$i - 2], $this->points[$i + 1] - $this->points[$i - 1]);
        }

        return $length;
    }

    public function bounds(): Box
    {
        return Coordinates::bounds($this->points);
    }

    public function area(): float
    {
        return 0.0;
    }

    public function isEmpty(): bool
    {
        return $this->length() <= 0.0;
    }

    /** @return array{points: non-empty-list<float>} */
    public function toArray(): array
    {
        return ['points' => $this->points];
    }
}
