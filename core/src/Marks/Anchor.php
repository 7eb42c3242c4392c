<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Ulid;

/**
 * Where a pin or a finding sits on an item: `{place?, mark?, point?: [x, y], offset?, space?: [x, y, z]}`. The place is on the item's axis;
 * of point (on a plane, px), offset (in a text, code points) and space (in a cloud, metres) there is at most one.
 */
final readonly class Anchor
{
    /**
     * @param  array{float, float}|null  $point
     * @param  array{float, float, float}|null  $space
     */
    private function __construct(public ?int $place, public ?string $mark, public ?array $point, public ?int $offset, public ?array $space)
    {
    }

    public static function onPlane(float $x, float $y, ?int $place = null, ?string $mark = null): self
    {
        return new self($place, $mark, [$x, $y], null, null);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'anchor'): self
    {
        $fields = Fields::of($data, $path);
        $given = array_values(array_filter(['point', 'offset', 'space'], $fields->has(...)));
        if (count($given) > 1) {
            throw InvalidValue::at($fields->path($given[1]), $fields->raw($given[1]), "nothing, since there is a {$given[0]} already");
        }
        $point = self::numbers($fields, 'point', 2);
        $space = self::numbers($fields, 'space', 3);

        return new self(
            $fields->optionalInt('place', 0),
            $fields->has('mark') ? Ulid::check($fields->raw('mark'), $fields->path('mark')) : null,
            $point === null ? null : [$point[0], $point[1]],
            $fields->optionalInt('offset', 0),
            $space === null ? null : [$space[0], $space[1], $space[2]],
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return array_filter(['place' => $this->place, 'mark' => $this->mark, 'point' => $this->point, 'offset' => $this->offset, 'space' => $this->space], static fn (mixed $value): bool => $value !== null);
    }

    /** @return list<float>|null */
    private static function numbers(Fields $fields, string $key, int $count): ?array
    {
        if (! $fields->has($key)) {
            return null;
        }
        $numbers = [];
        foreach ($fields->list($key) as $i => $number) {
            $numbers[] = (is_int($number) || is_float($number)) && is_finite((float) $number) ? (float) $number : throw InvalidValue::at($fields->path($key)."[{$i}]", $number, 'a number');
        }

        return count($numbers) === $count ? $numbers : throw InvalidValue::at($fields->path($key), $fields->raw($key), "{$count} numbers");
    }
}
