<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** One or more points that belong together, in the order they were set: `{points: [x, y, …]}`. */
final readonly class PointSet implements Flat
{
    /** As many as a class may ask for. */
    public const MOST = 1000;

    /** @param  non-empty-list<float>  $points */
    private function __construct(public array $points)
    {
    }

    /** @throws InvalidValue */
    public static function of(mixed $points, string $path = 'points'): self
    {
        /** @var non-empty-list<float> $checked one point at least */
        $checked = Coordinates::check($points, $path, 1, self::MOST);

        return new self($checked);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->raw('points'), "{$path}.points");
    }

    public function count(): int
    {
        return intdiv(count($this->points), 2);
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
        return false;
    }

    /** @return array{points: non-empty-list<float>} */
    public function toArray(): array
    {
        return ['points' => $this->points];
    }
}
