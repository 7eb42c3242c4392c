<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

/** Kinds of numbers in tensors of the Open Inference Protocol that Skeno reads and writes. */
enum DataType: string
{
    case Bool = 'BOOL';
    case Uint8 = 'UINT8';
    case Uint16 = 'UINT16';
    case Uint32 = 'UINT32';
    case Uint64 = 'UINT64';
    case Int8 = 'INT8';
    case Int16 = 'INT16';
    case Int32 = 'INT32';
    case Int64 = 'INT64';
    case Fp32 = 'FP32';
    case Fp64 = 'FP64';

    /** Bytes of one number. */
    public function size(): int
    {
        return match ($this) {
            self::Bool, self::Uint8, self::Int8 => 1,
            self::Uint16, self::Int16 => 2,
            self::Uint32, self::Int32, self::Fp32 => 4,
            self::Uint64, self::Int64, self::Fp64 => 8,
        };
    }

    public function isWhole(): bool
    {
        return $this !== self::Fp32 && $this !== self::Fp64;
    }

    /** @return list<int|float> of little-endian bytes, as the protocol sends them */
    public function unpack(string $bytes): array
    {
        /** @var list<int|float> $numbers */
        $numbers = array_values(unpack(match ($this) {
            self::Bool, self::Uint8 => 'C*',
            self::Int8 => 'c*',
            self::Uint16, self::Int16 => 'v*',
            self::Uint32, self::Int32 => 'V*',
            self::Uint64, self::Int64 => 'P*',
            self::Fp32 => 'g*',
            self::Fp64 => 'e*',
        }, $bytes) ?: []);
        // there are no signed little-endian formats but the machine's own
        $over = match ($this) {
            self::Int16 => 1 << 15,
            self::Int32 => 1 << 31,
            default => null,
        };

        return $over === null ? $numbers : array_map(static fn (int|float $n): int|float => $n >= $over ? $n - 2 * $over : $n, $numbers);
    }

    /** @param  list<int|float>  $numbers */
    public function pack(array $numbers): string
    {
        return pack(match ($this) {
            self::Bool, self::Uint8, self::Int8 => 'C*',
            self::Uint16, self::Int16 => 'v*',
            self::Uint32, self::Int32 => 'V*',
            self::Uint64, self::Int64 => 'P*',
            self::Fp32 => 'g*',
            self::Fp64 => 'e*',
        }, ...($this->isWhole() ? array_map(intval(...), $numbers) : $numbers));
    }
}
