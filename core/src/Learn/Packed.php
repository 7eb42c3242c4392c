<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Skeno\Core\InvalidValue;

/** Reads numbers and texts off a packed model, and refuses what ends too early or goes on after its end. */
final class Packed
{
    private const SIZES = ['C' => 1, 'v' => 2, 'V' => 4];

    private int $at = 0;

    public function __construct(private readonly string $bytes)
    {
    }

    /**
     * @param  'C'|'v'|'V'  $form  1, 2 or 4 bytes, little endian, without sign
     * @return list<int>
     *
     * @throws InvalidValue
     */
    public function ints(string $form, int $count): array
    {
        /** @var array<int, int> $values */
        $values = $count === 0 ? [] : unpack("{$form}{$count}", $this->take(self::SIZES[$form] * $count));

        return array_values($values);
    }

    /**
     * @return list<float>
     *
     * @throws InvalidValue
     */
    public function floats(int $count): array
    {
        /** @var array<int, float> $values */
        $values = $count === 0 ? [] : unpack("g{$count}", $this->take(4 * $count));

        return array_values($values);
    }

    /** A text with its length before it. @throws InvalidValue */
    public function text(): string
    {
        return $this->take($this->ints('V', 1)[0]);
    }

    public static function ofText(string $text): string
    {
        return pack('V', strlen($text)).$text;
    }

    /** @throws InvalidValue */
    public function end(): void
    {
        if ($this->at !== strlen($this->bytes)) {
            throw InvalidValue::at('model', strlen($this->bytes).' bytes', "{$this->at} bytes");
        }
    }

    /** @throws InvalidValue */
    private function take(int $length): string
    {
        if ($length > strlen($this->bytes) - $this->at) {
            throw InvalidValue::at('model', strlen($this->bytes).' bytes', 'a model as packed by this version');
        }
        $this->at += $length;

        return substr($this->bytes, $this->at - $length, $length);
    }
}
