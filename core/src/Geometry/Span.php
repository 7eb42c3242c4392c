<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** A stretch of a text: `{start, end}` in Unicode code points over the text as stored, start included, end not; never empty. */
final readonly class Span implements Geometry
{
    /** No text is longer. */
    public const LIMIT = 100_000_000;

    private function __construct(public int $start, public int $end)
    {
    }

    /** @throws InvalidValue */
    public static function of(int $start, int $end, string $path = 'span'): self
    {
        if ($start < 0 || $start > self::LIMIT) {
            throw InvalidValue::at("{$path}.start", $start, 'an offset from 0');
        }
        if ($end <= $start || $end > self::LIMIT) {
            throw InvalidValue::at("{$path}.end", $end, "an offset after its start, {$start}");
        }

        return new self($start, $end);
    }

    /** @throws InvalidValue */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of($fields->int('start', PHP_INT_MIN), $fields->int('end', PHP_INT_MIN), $path);
    }

    /** Code points it covers. */
    public function length(): int
    {
        return $this->end - $this->start;
    }

    public function overlaps(self $other): bool
    {
        return $this->start < $other->end && $other->start < $this->end;
    }

    /** The words of a text that it covers. */
    public function in(string $text): string
    {
        return mb_substr($text, $this->start, $this->length(), 'UTF-8');
    }

    public function isEmpty(): bool
    {
        return false;
    }

    /** @return array{start: int, end: int} */
    public function toArray(): array
    {
        return ['start' => $this->start, 'end' => $this->end];
    }
}
