<?php

declare(strict_types=1);

namespace Skeno\Core\Assist;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Margin;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/** What the bench asks to be worked out for the shape in hand; nothing is stored by it. */
final readonly class Computation
{
    /** Picture looked at around a box, in px. */
    private const AROUND = 48;

    /**
     * @param  int  $width  of the picture
     * @param  int  $height  of the picture
     * @param  Closure(int, int, int, int): Plane  $brightness  of the part of the picture at x, y with this width and height
     */
    public function __construct(private Codebook $codebook, private int $width, private int $height, private Closure $brightness)
    {
    }

    /**
     * Reads `{op, kind, geometry, n?, class?}`: `outline` (mask to polygon, n px tolerance), `fill` (region to mask), `mend` (mask, n px),
     * `tight` (box of a class: the air around its object).
     *
     * @return array{kind: string, geometry: array<string, mixed>, changed: int, air: array<string, array{air: ?float, verdict: string}>|null}
     *
     * @throws InvalidValue
     */
    public function run(Fields $in): array
    {
        $shape = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $geometry = $shape->geometry($in->object('geometry'), 'geometry');
        $n = $in->optionalNumber('n') ?? 0.0;
        if ($geometry instanceof Mask && ($geometry->width !== $this->width || $geometry->height !== $this->height)) {
            throw InvalidValue::at('geometry.size', "{$geometry->width} × {$geometry->height}", "{$this->width} × {$this->height}, the size of the picture");
        }

        return match ($in->string('op', 20)) {
            'outline' => self::shown(Conversion::outline(self::mask($geometry), $n)),
            'fill' => self::shown(Conversion::fill($geometry, $this->width, $this->height)),
            'mend' => self::mended(self::mask($geometry), $n),
            'tight' => self::shown($geometry, 0, $this->air($geometry, $in->optionalString('class', 64) ?? '')),
            default => throw InvalidValue::at('op', $in->raw('op'), 'outline, fill, mend or tight'),
        };
    }

    /** @return array<string, array{air: ?float, verdict: string}> */
    private function air(Geometry $geometry, string $class): array
    {
        if (! $geometry instanceof Box) {
            throw InvalidValue::at('kind', Shape::of($geometry)->value, 'a box');
        }
        if ($geometry->isEmpty() || $geometry->liesOutside($this->width, $this->height)) {
            throw InvalidValue::at('geometry', 'a box without size or outside', 'a box on the picture');
        }
        $x = max(0, min($this->width - 1, (int) $geometry->x - self::AROUND));
        $y = max(0, min($this->height - 1, (int) $geometry->y - self::AROUND));
        $plane = ($this->brightness)($x, $y, min($this->width, (int) $geometry->width + 2 * self::AROUND), min($this->height, (int) $geometry->height + 2 * self::AROUND));

        return Tightness::of($plane, $geometry, $this->codebook->class($class)->margin ?? new Margin(0.0, 2.0, false), $x, $y);
    }

    private static function mask(Geometry $geometry): Mask
    {
        return $geometry instanceof Mask ? $geometry : throw InvalidValue::at('kind', Shape::of($geometry)->value, 'a mask');
    }

    /** @return array{kind: string, geometry: array<string, mixed>, changed: int, air: null} */
    private static function mended(Mask $mask, float $n): array
    {
        $mended = Conversion::mend($mask, $n);

        return ['air' => null] + self::shown($mended, Conversion::changed($mask, $mended));
    }

    /**
     * @param  array<string, array{air: ?float, verdict: string}>|null  $air
     * @return array{kind: string, geometry: array<string, mixed>, changed: int, air: array<string, array{air: ?float, verdict: string}>|null}
     */
    private static function shown(Geometry $geometry, int $changed = 0, ?array $air = null): array
    {
        return ['kind' => Shape::of($geometry)->value, 'geometry' => $geometry->toArray(), 'changed' => $changed, 'air' => $air];
    }
}
