<?php

declare(strict_types=1);

namespace Skeno\Core;

/**
 * Typed reading of one decoded JSON object. Every reader names the path of what it did not find or could not take, so that
 * an error leads to its place.
 */
final readonly class Fields
{
    /** @param  array<array-key, mixed>  $data */
    private function __construct(private array $data, private string $path)
    {
    }

    /** @throws InvalidValue when it is not an object */
    public static function of(mixed $data, string $path = ''): self
    {
        if (! is_array($data)) {
            throw InvalidValue::at($path, $data, 'an object');
        }

        return new self($data, $path);
    }

    public function path(string $key): string
    {
        return $this->path === '' ? $key : "{$this->path}.{$key}";
    }

    public function has(string $key): bool
    {
        return isset($this->data[$key]);
    }

    public function raw(string $key): mixed
    {
        return $this->data[$key] ?? null;
    }

    public function string(string $key, int $max = 4000): string
    {
        $value = $this->raw($key);
        if (! is_string($value) || ! mb_check_encoding($value, 'UTF-8') || mb_strlen($value) > $max) {
            throw InvalidValue::at($this->path($key), $value, "text of at most {$max} characters");
        }

        return $value;
    }

    public function optionalString(string $key, int $max = 4000): ?string
    {
        return $this->has($key) ? $this->string($key, $max) : null;
    }

    public function int(string $key, int $min = PHP_INT_MIN, int $max = PHP_INT_MAX): int
    {
        $value = $this->raw($key);
        if (is_float($value) && floor($value) === $value && abs($value) < 2 ** 53) {
            $value = (int) $value;
        }
        if (! is_int($value) || $value < $min || $value > $max) {
            throw InvalidValue::at($this->path($key), $value, $min === PHP_INT_MIN ? 'a whole number' : "a whole number from {$min} to {$max}");
        }

        return $value;
    }

    public function optionalInt(string $key, int $min = PHP_INT_MIN, int $max = PHP_INT_MAX): ?int
    {
        return $this->has($key) ? $this->int($key, $min, $max) : null;
    }

    /** A finite number; text that is one (as other writers produce) is taken too when $lenient. */
    public function number(string $key, bool $lenient = false): float
    {
        $value = $this->raw($key);
        if ($lenient && is_string($value) && is_numeric(trim($value))) {
            $value = (float) $value;
        }
        if ((! is_int($value) && ! is_float($value)) || ! is_finite((float) $value)) {
            throw InvalidValue::at($this->path($key), $value, 'a number');
        }

        return (float) $value;
    }

    public function optionalNumber(string $key): ?float
    {
        return $this->has($key) ? $this->number($key) : null;
    }

    public function bool(string $key, bool $default = false): bool
    {
        $value = $this->raw($key) ?? $default;
        if (! is_bool($value)) {
            throw InvalidValue::at($this->path($key), $value, 'true or false');
        }

        return $value;
    }

    public function object(string $key): self
    {
        return self::of($this->raw($key), $this->path($key));
    }

    /** @return list<mixed> empty when the key is absent */
    public function list(string $key): array
    {
        $value = $this->raw($key) ?? [];
        if (! is_array($value) || ! array_is_list($value)) {
            throw InvalidValue::at($this->path($key), $value, 'a list');
        }

        return $value;
    }

    /** @return list<self> */
    public function objects(string $key): array
    {
        $objects = [];
        foreach ($this->list($key) as $i => $value) {
            $objects[] = self::of($value, $this->path($key)."[{$i}]");
        }

        return $objects;
    }

    /** @return list<string> */
    public function strings(string $key): array
    {
        $strings = [];
        foreach ($this->list($key) as $i => $value) {
            if (! is_string($value)) {
                throw InvalidValue::at($this->path($key)."[{$i}]", $value, 'text');
            }
            $strings[] = $value;
        }

        return $strings;
    }

    /** @return array<string, mixed> the object under a key, empty when absent */
    public function map(string $key): array
    {
        $value = $this->raw($key) ?? [];
        if (! is_array($value)) {
            throw InvalidValue::at($this->path($key), $value, 'an object');
        }
        $map = [];
        foreach ($value as $name => $entry) {
            $map[(string) $name] = $entry;
        }

        return $map;
    }

    /** @return array<array-key, mixed> */
    public function all(): array
    {
        return $this->data;
    }
}
