<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Some points of a cloud, in the order of their file: a list for each thing that is known of them, all of one length. */
final readonly class Points
{
    /** Points that are read at a time. */
    public const SOME = 16_384;

    /**
     * @param  list<float>  $x  metres, or whatever unit the file has; may be no number, where a scanner saw nothing
     * @param  list<float>  $y
     * @param  list<float>  $z
     * @param  ?list<float>  $intensity  as the file has it; null: it has none
     * @param  ?list<int>  $class  the number of a class each point came with; null: none
     * @param  ?list<int>  $colour  red, green and blue as 0xRRGGBB; null: none
     */
    public function __construct(public array $x, public array $y, public array $z, public ?array $intensity = null, public ?array $class = null, public ?array $colour = null)
    {
    }

    public function count(): int
    {
        return count($this->x);
    }

    /**
     * Of the columns of a file those that are known by their names.
     *
     * @param  array<string, list<int|float>>  $columns  by name, lower case
     *
     * @throws RefusedCloud when x, y or z is missing
     */
    public static function ofColumns(array $columns): self
    {
        foreach (['x', 'y', 'z'] as $name) {
            if (! isset($columns[$name])) {
                throw RefusedCloud::because("its points have no {$name}");
            }
        }
        $first = static function (string ...$names) use ($columns): ?array {
            foreach ($names as $name) {
                if (isset($columns[$name])) {
                    return $columns[$name];
                }
            }

            return null;
        };
        $class = $first('class', 'classification', 'label', 'semantic');
        [$r, $g, $b] = [$first('r', 'red', 'diffuse_red'), $first('g', 'green', 'diffuse_green'), $first('b', 'blue', 'diffuse_blue')];
        $colour = null;
        if ($r !== null && $g !== null && $b !== null) {
            $byte = static fn (int|float $value): int => max(0, min(255, is_finite((float) $value) ? (int) $value : 0));
            $colour = array_values(array_map(static fn (int|float $red, int|float $green, int|float $blue): int => $byte($red) << 16 | $byte($green) << 8 | $byte($blue), $r, $g, $b));
        } elseif (isset($columns['rgb'])) {
            $colour = array_values(array_map(static fn (int|float $packed): int => (int) $packed & 0xFFFFFF, $columns['rgb']));
        }

        return new self(
            self::floats($columns['x']),
            self::floats($columns['y']),
            self::floats($columns['z']),
            self::floats($first('intensity', 'i', 'reflectance', 'reflectivity', 'remission', 'scalar_intensity')),
            $class === null ? null : array_values(array_map(static fn (int|float $value): int => is_finite((float) $value) ? (int) $value : 0, $class)),
            $colour,
        );
    }

    /**
     * @param  ?list<int|float>  $of
     * @return ($of is null ? null : list<float>)
     */
    private static function floats(?array $of): ?array
    {
        return $of === null ? null : array_map(static fn (int|float $value): float => (float) $value, $of);
    }
}
