<?php

declare(strict_types=1);

namespace Skeno\Core;

use InvalidArgumentException;

/** A value that can't be: says which field, which value, and what was expected there. */
final class InvalidValue extends InvalidArgumentException
{
    private function __construct(
        public readonly string $field,
        public readonly mixed $value,
        public readonly string $expected,
    ) {
        parent::__construct(sprintf('%s is %s; expected %s', $field === '' ? 'the value' : $field, self::show($value), $expected));
    }

    public static function at(string $field, mixed $value, string $expected): self
    {
        return new self($field, $value, $expected);
    }

    /** A value as one short word or two for a message; never longer than 60 characters. */
    public static function show(mixed $value): string
    {
        $text = match (true) {
            $value === null => 'missing',
            is_bool($value) => $value ? 'true' : 'false',
            is_float($value) && is_nan($value) => 'not a number',
            is_int($value), is_float($value) => (string) $value,
            is_string($value) => '"'.mb_scrub($value).'"',
            is_array($value) => array_is_list($value) ? 'a list of '.count($value) : 'an object',
            default => get_debug_type($value),
        };

        return mb_strlen($text) > 60 ? mb_substr($text, 0, 57).'…' : $text;
    }
}
