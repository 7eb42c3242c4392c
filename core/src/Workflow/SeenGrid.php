<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use Skeno\Core\InvalidValue;

/**
 * Which parts of a picture somebody has had on the screen at working zoom: a grid of square cells, the last of a row or column cut by
 * the picture's edge. The bench keeps the same grid; both pass core/tests/vectors/seen.json.
 */
final readonly class SeenGrid
{
    private const SMALLEST = 64;

    private const MOST = 32;

    /** @param  string  $cells  1 or 0 for each, row by row */
    private function __construct(public int $columns, public int $rows, public string $cells)
    {
    }

    /** Nothing seen yet of a picture, its size in px. */
    public static function of(int $width, int $height): self
    {
        $cell = max(self::SMALLEST, intdiv(max($width, $height) + self::MOST - 1, self::MOST));
        $columns = intdiv($width + $cell - 1, $cell);
        $rows = intdiv($height + $cell - 1, $cell);

        return new self($columns, $rows, str_repeat('0', $columns * $rows));
    }

    /**
     * With these cells seen as well.
     *
     * @throws InvalidValue when they are not of this grid
     */
    public function with(string $cells): self
    {
        if (strlen($cells) !== strlen($this->cells) || strspn($cells, '01') !== strlen($cells)) {
            throw InvalidValue::at('cells', mb_strimwidth($cells, 0, 40, '…'), strlen($this->cells).' times 0 or 1');
        }

        // '0' | '1' is '1' in ASCII too
        return new self($this->columns, $this->rows, $this->cells | $cells);
    }

    public function isAll(): bool
    {
        return ! str_contains($this->cells, '0');
    }

    /** Share that has been seen, 0 to 1. */
    public function share(): float
    {
        return substr_count($this->cells, '1') / strlen($this->cells);
    }
}
