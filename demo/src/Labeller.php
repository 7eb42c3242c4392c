<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Skeno\Core\Geometry\Box;

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
     * @return list<array{class: string, geometry: array<string, float>, answers: array<string, array<string, mixed>>}>
     */
    public function marks(array $truth, Chance $chance): array
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
            $marks[] = ['class' => $class, 'geometry' => $this->box($fruit->box, $chance)->toArray(), 'answers' => $answers];
        }

        return $marks;
    }

    private function box(Box $true, Chance $chance): Box
    {
        [$air, $shake, $drift] = match ($this) {
            self::Mei => [0.0, 0.8, 0.0],
            self::Ravi => [5.5, 1.6, 0.0],
            self::Aoife => [0.5, 1.2, 4.0],
        };
        $edge = static fn (float $at, float $limit): float => round(max(0.0, min($limit, $at)), 1);
        $x1 = $edge($true->x - $air + $drift + $chance->normal($shake), Orchard::WIDTH - 8);
        $y1 = $edge($true->y - $air + $drift * 0.7 + $chance->normal($shake), Orchard::HEIGHT - 8);
        $x2 = $edge($true->right() + $air + $drift + $chance->normal($shake), Orchard::WIDTH);
        $y2 = $edge($true->bottom() + $air + $drift * 0.7 + $chance->normal($shake), Orchard::HEIGHT);

        return Box::of($x1, $y1, round(max(4.0, $x2 - $x1), 1), round(max(4.0, $y2 - $y1), 1));
    }
}
