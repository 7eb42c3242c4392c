<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** What a value of a point is written as. */
enum Number: string
{
    case Int8 = 'int8';
    case UInt8 = 'uint8';
    case Int16 = 'int16';
    case UInt16 = 'uint16';
    case Int32 = 'int32';
    case UInt32 = 'uint32';
    case Float32 = 'float32';
    case Float64 = 'float64';

    public function bytes(): int
    {
        return match ($this) {
            self::Int8, self::UInt8 => 1,
            self::Int16, self::UInt16 => 2,
            self::Int32, self::UInt32, self::Float32 => 4,
            self::Float64 => 8,
        };
    }

    /**
     * @param  string  $bytes  of whole values
     * @return list<int|float>
     */
    public function read(string $bytes, bool $little = true): array
    {
        $code = match ($this) {
            self::Int8 => 'c*',
            self::UInt8 => 'C*',
            self::Int16, self::UInt16 => $little ? 'v*' : 'n*',
            self::Int32, self::UInt32 => $little ? 'V*' : 'N*',
            self::Float32 => $little ? 'g*' : 'G*',
            self::Float64 => $little ? 'e*' : 'E*',
        };
        /** @var array<int, int|float>|false $read */
        $read = unpack($code, $bytes);
        $values = $read === false ? [] : array_values($read);
        $range = match ($this) {
            self::Int16 => 1 << 16,
            self::Int32 => 1 << 32,
            default => 0,
        };

        return $range === 0 ? $values : array_map(static fn (int|float $value): int|float => $value >= $range / 2 ? $value - $range : $value, $values);
    }
}
