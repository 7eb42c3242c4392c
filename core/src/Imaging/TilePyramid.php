<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use Skeno\Core\InvalidValue;

/**
 * A large picture in square tiles at several sizes, so that who looks at a part of it has to load that part only. Level 0 has every pixel;
 * each level has half the sides of the one before, rounded up; the last one is the smallest that is still larger than the copy for the screen.
 */
final readonly class TilePyramid
{
    /** Sides of a tile in px; those at the right and lower edge may be smaller. */
    public const SIDE = 512;

    /** Longest side of the copy for the screen, which stands for all smaller levels. */
    private const SCREEN = 2048;

    /** Pictures of fewer pixels are loaded whole. */
    public const FROM_PIXELS = 16_000_000;

    /** @param  list<array{int, int}>  $levels  width and height of each, in px */
    private function __construct(public array $levels)
    {
    }

    /** @return ?self null for a picture that is shown whole */
    public static function of(int $width, int $height): ?self
    {
        if ($width < 1 || $height < 1) {
            throw InvalidValue::at('size', "{$width} × {$height}", 'at least one pixel');
        }
        if ($width * $height < self::FROM_PIXELS || max($width, $height) <= self::SCREEN) {
            return null;
        }
        $levels = [];
        while (max($width, $height) > self::SCREEN) {
            $levels[] = [$width, $height];
            [$width, $height] = [intdiv($width + 1, 2), intdiv($height + 1, 2)];
        }

        return new self($levels);
    }

    public function columns(int $level): int
    {
        return intdiv($this->levels[$level][0] + self::SIDE - 1, self::SIDE);
    }

    public function rows(int $level): int
    {
        return intdiv($this->levels[$level][1] + self::SIDE - 1, self::SIDE);
    }

    /** The smallest level with a pixel for each that is wanted. @param  float  $step  px of the picture for a px wanted */
    public function levelFor(float $step): int
    {
        $level = 0;
        while (isset($this->levels[$level + 1]) && 2 ** ($level + 1) <= $step) {
            $level++;
        }

        return $level;
    }

    public function has(int $level, int $column, int $row): bool
    {
        return isset($this->levels[$level]) && $column >= 0 && $row >= 0 && $column < $this->columns($level) && $row < $this->rows($level);
    }

    /**
     * Where a tile lies on its level, in px.
     *
     * @return array{x: int, y: int, width: int, height: int}
     *
     * @throws InvalidValue
     */
    public function tile(int $level, int $column, int $row): array
    {
        if (! $this->has($level, $column, $row)) {
            throw InvalidValue::at('tile', "{$level}/{$column}/{$row}", 'a tile of the picture');
        }
        [$x, $y] = [$column * self::SIDE, $row * self::SIDE];

        return ['x' => $x, 'y' => $y, 'width' => min(self::SIDE, $this->levels[$level][0] - $x), 'height' => min(self::SIDE, $this->levels[$level][1] - $y)];
    }

    public static function name(int $level, int $column, int $row): string
    {
        return "{$level}-{$column}-{$row}.jpg";
    }
}
