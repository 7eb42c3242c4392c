<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What a model takes for a million tokens that it reads, and for a million that it writes; in whatever money its owner counts. */
final readonly class Price
{
    private const MOST = 1_000_000.0;

    private function __construct(public float $in, public float $out)
    {
    }

    /** @throws InvalidValue */
    public static function of(float $in, float $out, string $path = 'price'): self
    {
        foreach (['in' => $in, 'out' => $out] as $name => $price) {
            if (! is_finite($price) || $price < 0 || $price > self::MOST) {
                throw InvalidValue::at("{$path}.{$name}", $price, 'a price from 0 to '.number_format(self::MOST));
            }
        }

        return new self($in, $out);
    }

    /**
     * Reads `{in, out}`.
     *
     * @throws InvalidValue
     */
    public static function fromFields(Fields $in, string $path = 'price'): self
    {
        return self::of($in->number('in'), $in->number('out'), $path);
    }

    /** @return array{in: float, out: float} */
    public function toArray(): array
    {
        return ['in' => $this->in, 'out' => $this->out];
    }

    /** Of what was said; null when the server has not counted, for a cost that is guessed is none. */
    public function cost(Said $said): ?float
    {
        return $said->in === null || $said->out === null ? null : ($said->in * $this->in + $said->out * $this->out) / 1e6;
    }
}
