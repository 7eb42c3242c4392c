<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/**
 * A LAS file, 1.0 to 1.4, not packed: point formats 0 to 10.
 *
 * Source: ASPRS, LAS specification 1.4 - R15 (2019).
 */
final readonly class Las implements Source
{
    /** Bytes of a point at least, by its format. */
    private const LEAST = [20, 28, 26, 34, 57, 63, 30, 36, 38, 59, 67];

    /** Where red begins in a point, by its format. */
    private const RED = [2 => 20, 3 => 28, 5 => 28, 7 => 30, 8 => 30, 10 => 30];

    /**
     * @param  list<float>  $scale  of x, y, z
     * @param  list<float>  $offset
     */
    private function __construct(private string $file, private int $format, private int $length, private int $count, private int $begins, private array $scale, private array $offset)
    {
    }

    public static function isOne(string $head): bool
    {
        return str_starts_with($head, 'LASF');
    }

    /** @throws RefusedCloud */
    public static function open(string $file, CloudLimits $limits): self
    {
        $limits->mustWeigh((int) @filesize($file));
        $head = (string) @file_get_contents($file, false, null, 0, 375);
        if (! self::isOne($head) || strlen($head) < 227) {
            throw RefusedCloud::because('it is no LAS file, or its header is cut off');
        }
        $short = static fn (int $at): int => (int) Number::UInt16->read(substr($head, $at, 2))[0];
        $long = static fn (int $at): int => (int) Number::UInt32->read(substr($head, $at, 4))[0];
        $format = ord($head[104]);
        if (($format & 0xC0) !== 0) {
            throw RefusedCloud::because('its points are packed (LAZ); write it as LAS');
        }
        $length = $short(105);
        if (! isset(self::LEAST[$format]) || $length < self::LEAST[$format] || $length > 4_096) {
            throw RefusedCloud::because("its points are of format {$format} with {$length} bytes, which nobody knows");
        }
        // since 1.4 there may be more than 32 bits can count
        $count = ord($head[24]) === 1 && ord($head[25]) >= 4 && strlen($head) >= 255 ? $long(247) + ($long(251) << 32) : $long(107);
        if ($count < 0) {
            throw RefusedCloud::because('it says it has a number of points that no file can hold');
        }
        $limits->mustHold($count);
        $numbers = static fn (int $at): array => array_map(floatval(...), Number::Float64->read(substr($head, $at, 24)));
        [$scale, $offset] = [$numbers(131), $numbers(155)];
        foreach ([...$scale, ...$offset] as $number) {
            if (! is_finite($number)) {
                throw RefusedCloud::because('what its coordinates are scaled by is no number');
            }
        }

        return new self($file, $format, $length, $count, $long(96), $scale, $offset);
    }

    public function count(): int
    {
        return $this->count;
    }

    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw RefusedCloud::because("the file can't be read");
        $fields = ['x' => [0, Number::Int32], 'y' => [4, Number::Int32], 'z' => [8, Number::Int32], 'intensity' => [12, Number::UInt16], 'class' => [$this->format < 6 ? 15 : 16, Number::UInt8]];
        $red = self::RED[$this->format] ?? null;
        if ($red !== null) {
            $fields += ['r' => [$red, Number::UInt16], 'g' => [$red + 2, Number::UInt16], 'b' => [$red + 4, Number::UInt16]];
        }
        try {
            fseek($in, $this->begins);
            foreach ((new Records($fields, $this->length))->columns($in, $this->count) as $columns) {
                foreach (['x', 'y', 'z'] as $axis => $name) {
                    [$scale, $offset] = [$this->scale[$axis], $this->offset[$axis]];
                    $columns[$name] = array_map(static fn (int|float $value): float => $value * $scale + $offset, $columns[$name]);
                }
                if ($this->format < 6) {
                    // of the byte five bits are the class
                    $columns['class'] = array_map(static fn (int|float $value): int => (int) $value & 31, $columns['class']);
                }
                foreach ($red === null ? [] : ['r', 'g', 'b'] as $name) {
                    $columns[$name] = array_map(static fn (int|float $value): int => (int) $value >> 8, $columns[$name]);
                }
                yield Points::ofColumns($columns);
            }
        } finally {
            fclose($in);
        }
    }
}
