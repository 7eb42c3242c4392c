<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * An answer to a question: a value or one of the ways of having none. A question nobody looked at, or whose default nobody
 * touched, has no Answer at all. In JSON: `{"value": …}` or `{"no_value": "none"|"not_visible"|"unsure"}`.
 */
final readonly class Answer
{
    /** @param  string|bool|int|float|list<string>|null  $value option key, option keys, yes/no, number or text; null beside $noValue */
    private function __construct(public string|bool|int|float|array|null $value, public ?NoValue $noValue)
    {
    }

    /** @param  string|bool|int|float|list<string>  $value */
    public static function of(string|bool|int|float|array $value): self
    {
        return new self($value, null);
    }

    public static function none(NoValue $noValue): self
    {
        return new self(null, $noValue);
    }

    /** @throws InvalidValue when it is neither a value nor a known way of having none */
    public static function fromArray(mixed $data, string $path): self
    {
        $fields = Fields::of($data, $path);
        if ($fields->has('no_value') === $fields->has('value')) {
            throw InvalidValue::at($path, $data, 'either "value" or "no_value"');
        }
        if ($fields->has('no_value')) {
            $word = $fields->string('no_value', 40);

            return new self(null, NoValue::tryFrom($word) ?? throw InvalidValue::at($fields->path('no_value'), $word, 'none, not_visible or unsure'));
        }
        $value = $fields->raw('value');
        if (is_array($value)) {
            $value = $fields->strings('value');
        } elseif (is_float($value) && ! is_finite($value)) {
            throw InvalidValue::at($fields->path('value'), $value, 'a finite number');
        } elseif (! is_string($value) && ! is_bool($value) && ! is_int($value) && ! is_float($value)) {
            throw InvalidValue::at($fields->path('value'), $value, 'text, a number, true or false, or a list of keys');
        }

        return new self($value, null);
    }

    /** @return array{value: string|bool|int|float|list<string>|null}|array{no_value: string} */
    public function toArray(): array
    {
        return $this->noValue !== null ? ['no_value' => $this->noValue->value] : ['value' => $this->value];
    }

    public function equals(self $other): bool
    {
        return $this->toArray() === $other->toArray();
    }
}
