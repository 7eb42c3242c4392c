<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/** What a voxel is written as: the scalar types of NIfTI that PHP can read, by its codes. */
enum Scalar: int
{
    case UInt8 = 2;
    case Int16 = 4;
    case Int32 = 8;
    case Float32 = 16;
    case Float64 = 64;
    case Int8 = 256;
    case UInt16 = 512;
    case UInt32 = 768;
    case Int64 = 1024;
    case UInt64 = 1280;

    public function bytes(): int
    {
        return match ($this) {
            self::UInt8, self::Int8 => 1,
            self::Int16, self::UInt16 => 2,
            self::Int32, self::UInt32, self::Float32 => 4,
            self::Float64, self::Int64, self::UInt64 => 8,
        };
    }

    /** Whether all its values fit into 16 bits; then what is added to one, so that it counts from 0. */
    public function offset(): ?int
    {
        return match ($this) {
            self::UInt8, self::UInt16 => 0,
            self::Int8, self::Int16 => 32_768,
            default => null,
        };
    }

    /**
     * @param  string  $bytes  of whole voxels
     * @return list<int|float>
     */
    public function read(string $bytes, bool $little): array
    {
        $code = match ($this) {
            self::UInt8 => 'C*',
            self::Int8 => 'c*',
            self::Int16, self::UInt16 => $little ? 'v*' : 'n*',
            self::Int32, self::UInt32 => $little ? 'V*' : 'N*',
            self::Int64, self::UInt64 => $little ? 'P*' : 'J*',
            self::Float32 => $little ? 'g*' : 'G*',
            self::Float64 => $little ? 'e*' : 'E*',
        };
        /** @var array<int, int|float>|false $read */
        $read = unpack($code, $bytes);
        $values = $read === false ? [] : array_values($read);

        return match ($this) {
            self::Int16 => self::signed($values, 1 << 16),
            self::Int32 => self::signed($values, 1 << 32),
            // PHP has no whole number as large: what it reads as less than 0 is past the middle of the range
            self::UInt64 => array_map(static fn (int|float $value): int|float => $value < 0 ? $value + 18446744073709551616.0 : $value, $values),
            default => $values,
        };
    }

    /**
     * @param  list<int|float>  $values
     * @return list<int|float>
     */
    private static function signed(array $values, int $range): array
    {
        $half = $range >> 1;
        $signed = [];
        foreach ($values as $value) {
            $signed[] = $value >= $half ? $value - $range : $value;
        }

        return $signed;
    }
}
