<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

use Skeno\Core\Assist\Conversion;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/** What a hand wants to have cut out, and as what. */
final readonly class Wish
{
    /** Clicks and strokes for one object. */
    public const MOST_STROKES = 200;

    /** Nats the dial goes up and down. */
    public const LOOSEST = 4.0;

    /** @param  list<Stroke>  $strokes  in px of the picture, in the order they were made */
    private function __construct(public Box $box, public array $strokes, public float $loose, public Shape $as, public float $tolerance)
    {
    }

    /**
     * Reads `{box: {x, y, width, height}, strokes: [{adds, points}], loose: -4 to 4, as: polygon or mask, tolerance: px}`.
     *
     * @throws InvalidValue
     */
    public static function fromFields(Fields $in): self
    {
        $strokes = [];
        foreach ($in->has('strokes') ? $in->objects('strokes') : [] as $i => $stroke) {
            if ($i >= self::MOST_STROKES) {
                throw InvalidValue::at('strokes', $i + 1, 'at most '.self::MOST_STROKES);
            }
            $strokes[] = Stroke::fromFields($stroke, "strokes[{$i}]");
        }
        $loose = $in->optionalNumber('loose') ?? 0.0;
        if (abs($loose) > self::LOOSEST) {
            throw InvalidValue::at('loose', $loose, -self::LOOSEST.' to '.self::LOOSEST);
        }
        $as = Shape::tryFrom($in->string('as', 40));
        if ($as !== Shape::Polygon && $as !== Shape::Mask) {
            throw InvalidValue::at('as', $in->raw('as'), 'polygon or mask');
        }
        $tolerance = $in->optionalNumber('tolerance') ?? 1.0;
        if ($tolerance < 0 || $tolerance > 20) {
            throw InvalidValue::at('tolerance', $tolerance, '0 to 20 px');
        }

        return new self(Box::fromFields($in->object('box'), 'box'), $strokes, $loose, $as, $tolerance);
    }

    public function window(int $width, int $height): Window
    {
        return Window::round($this->box, $this->strokes, $width, $height);
    }

    /**
     * What was found, in the picture.
     *
     * @return array{kind: string, geometry: ?array<string, mixed>, area: int, touches: list<'left'|'top'|'right'|'bottom'>, alike: float} no geometry: nothing stands out from its ground; touches: sides of the box it runs along; alike: how much object and ground have in common, 0 to 1
     */
    public function answer(Cutout $cutout, Window $window): array
    {
        $mask = $window->out($this->loose === 0.0 ? $cutout->mask() : $cutout->dialled($this->loose));

        return [
            'kind' => $this->as->value, 'geometry' => $mask->isEmpty() ? null : $this->shape($mask), 'area' => (int) $mask->area(),
            'touches' => $cutout->touches(), 'alike' => round($cutout->alike(), 3),
        ];
    }

    /** @return array<string, mixed> */
    private function shape(Mask $mask): array
    {
        return $this->as === Shape::Mask ? $mask->toArray() : Conversion::outline($mask, $this->tolerance)->toArray();
    }
}
