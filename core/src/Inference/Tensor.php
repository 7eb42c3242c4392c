<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\InvalidValue;

/** Numbers in a row with a shape: `values` go with the last axis first. */
final readonly class Tensor
{
    /** Numbers one tensor may have: a mask of a picture for each of a hundred things. */
    public const MOST = 40_000_000;

    /**
     * @param  list<int>  $shape
     * @param  list<int|float>  $values
     */
    private function __construct(public string $name, public DataType $type, public array $shape, public array $values)
    {
    }

    /**
     * @param  list<int>  $shape
     * @param  list<int|float>  $values
     *
     * @throws InvalidValue when there are not as many numbers as the shape says, or one is none
     */
    public static function of(string $name, DataType $type, array $shape, array $values): self
    {
        $wanted = self::count($name, $shape);
        if (count($values) !== $wanted) {
            throw InvalidValue::at($name, count($values).' numbers', "{$wanted}, as its shape [".implode(', ', $shape).'] says');
        }
        foreach ($values as $i => $value) {
            if (! is_finite($value)) {
                throw InvalidValue::at("{$name}[{$i}]", is_nan($value) ? NAN : 'infinite', 'a number');
            }
        }

        return new self($name, $type, $shape, $values);
    }

    /** @param  list<int>  $shape @throws InvalidValue */
    public static function ofBytes(string $name, DataType $type, array $shape, string $bytes): self
    {
        $wanted = self::count($name, $shape) * $type->size();
        if (strlen($bytes) !== $wanted) {
            throw InvalidValue::at($name, strlen($bytes).' bytes', "{$wanted}, as its shape [".implode(', ', $shape)."] of {$type->value} says");
        }

        return self::of($name, $type, $shape, $type->unpack($bytes));
    }

    /**
     * How many numbers a shape has.
     *
     * @param  list<int>  $shape
     *
     * @throws InvalidValue before anything of that size is made
     */
    public static function count(string $name, array $shape): int
    {
        $count = 1;
        foreach ($shape as $n) {
            if ($n < 0 || ($n > 0 && $count > intdiv(self::MOST, $n))) {
                throw InvalidValue::at("{$name}.shape", '['.implode(', ', $shape).']', 'sides of 0 or more and at most '.self::MOST.' numbers in all');
            }
            $count *= $n;
        }

        return $count;
    }

    /**
     * Without leading axes of one, which a batch of one picture has.
     *
     * @param  int  $rank  axes wanted
     *
     * @throws InvalidValue when it has another number of axes even so
     */
    public function ranked(int $rank): self
    {
        $shape = $this->shape;
        while (count($shape) > $rank && $shape[0] === 1) {
            array_shift($shape);
        }
        if (count($shape) !== $rank) {
            throw InvalidValue::at("{$this->name}.shape", '['.implode(', ', $this->shape).']', "{$rank} axes, after those of one picture");
        }

        return new self($this->name, $this->type, $shape, $this->values);
    }
}
