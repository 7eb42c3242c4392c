<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;

/**
 * How a person differs from the truth, known and repeatable: Mei is careful, Ravi leaves air round everything and takes turning for
 * ripe now and then, Aoife drifts down and to the right and overlooks hidden fruit.
 */
enum Labeller: string
{
    case Mei = 'Mei Castellan';
    case Ravi = 'Ravi Sørby';
    case Aoife = 'Aoife Duarte';

    /**
     * The marks this person would make of what is there.
     *
     * @param  list<Fruit>  $truth
     * @param  bool  $masks  apples are painted instead of boxed
     * @return list<array{class: string, kind: string, geometry: array<string, mixed>, answers: array<string, array<string, mixed>>}>
     */
    public function marks(array $truth, Chance $chance, bool $masks = false): array
    {
        $marks = [];
        foreach ($truth as $fruit) {
            if ($this === self::Aoife && $fruit->visible < 0.55 && $chance->yes(0.45)) {
                continue;
            }
            $answers = $fruit->answers;
            $class = $fruit->class;
            if ($this === self::Ravi && ($answers['ripeness']['value'] ?? null) === 'turning' && $chance->yes(0.3)) {
                $answers['ripeness'] = ['value' => 'ripe'];
            }
            if ($this === self::Aoife && $class === 'scab' && $chance->yes(0.35)) {
                [$class, $answers] = ['blurred', []];
            }
            $shape = $masks && $fruit->pixels !== null ? $fruit->pixels : $this->shape($fruit->shape, $chance);
            $marks[] = ['class' => $class, 'kind' => Shape::of($shape)->value, 'geometry' => $shape->toArray(), 'answers' => $answers];
        }

        return $marks;
    }

    /** @return array{float, float, float} px of air, of shaking and of drift to the right and down */
    private function hand(): array
    {
        return match ($this) {
            self::Mei => [0.0, 0.8, 0.0],
            self::Ravi => [5.5, 1.6, 0.0],
            self::Aoife => [0.5, 1.2, 4.0],
        };
    }

    private function shape(Flat $true, Chance $chance): Flat
    {
        return match (true) {
            $true instanceof Polygon => Polygon::of(array_map(fn (array $ring): array => $this->points($ring, $chance), $true->rings())),
            $true instanceof Polyline => Polyline::of($this->points($true->points, $chance)),
            default => $this->box($true->bounds(), $chance),
        };
    }

    /**
     * @param  list<float>  $points
     * @return list<float>
     */
    private function points(array $points, Chance $chance): array
    {
        [, $shake, $drift] = $this->hand();
        foreach ($points as $i => $value) {
            $limit = $i % 2 === 0 ? Orchard::WIDTH : Orchard::HEIGHT;
            $points[$i] = round(max(0.0, min((float) $limit, $value + $drift * ($i % 2 === 0 ? 1 : 0.7) + $chance->normal($shake * 0.6))), 1);
        }

        return $points;
    }

    private function box(Box $true, Chance $chance): Box
    {
        [$air, $shake, $drift] = $this->hand();
        $edge = static fn (float $at, float $limit): float => round(max(0.0, min($limit, $at)), 1);
        $x1 = $edge($true->x - $air + $drift + $chance->normal($shake), Orchard::WIDTH - 8);
        $y1 = $edge($true->y - $air + $drift * 0.7 + $chance->normal($shake), Orchard::HEIGHT - 8);
        $x2 = $edge($true->right() + $air + $drift + $chance->normal($shake), Orchard::WIDTH);
        $y2 = $edge($true->bottom() + $air + $drift * 0.7 + $chance->normal($shake), Orchard::HEIGHT);

        return Box::of($x1, $y1, round(max(4.0, $x2 - $x1), 1), round(max(4.0, $y2 - $y1), 1));
    }
}
