<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;

/**
 * The work done so far in the demo: who labelled what on which day, what the reviewer said. Plain data for whoever plays it into an
 * installation.
 */
final class Season
{
    /**
     * @param  array<string, list<Fruit>>  $truth  by path
     * @return list<array<string, mixed>> in the order it happened: `{path, labeller, days_ago, seconds, marks, said, decision?, reason?, pins?}`
     */
    public static function work(array $truth): array
    {
        $chance = new Chance('season');
        $work = [];
        $paths = array_keys($truth);
        // three blocks are handed out; about two thirds of them are labelled, the nursery has not been begun
        $begun = array_values(array_filter($paths, static fn (string $path): bool => ! str_starts_with($path, Block::Nursery->value)));
        $people = Labeller::cases();
        foreach (array_slice($begun, 0, (int) round(count($begun) * 0.75)) as $i => $path) {
            $person = $people[$i % 3];
            // one picture in nine of Mei's is painted, not boxed
            $marks = $person->marks($truth[$path], $chance, $person === Labeller::Mei && $i % 9 === 3);
            $entry = [
                'path' => $path,
                'labeller' => $person->value,
                'days_ago' => 6 - intdiv($i, 6),
                'seconds' => 25 + count($marks) * $chance->int(5, 11),
                'marks' => $marks,
                'said' => ['answers' => ['usable' => ['value' => true]], 'tags' => self::tags($path, $chance)],
            ];
            // what was labelled last has not been reviewed yet
            $work[] = $entry + ($i < count($begun) * 0.6 ? self::decision($i, $person, $marks, $truth[$path]) : []);
        }

        return $work;
    }

    /**
     * @param  list<array{class: string, kind: string, geometry: array<string, mixed>, answers: array<string, array<string, mixed>>}>  $marks
     * @param  list<Fruit>  $truth
     * @return array<string, mixed>
     */
    private static function decision(int $i, Labeller $person, array $marks, array $truth): array
    {
        $missed = array_values(array_filter($truth, static fn (Fruit $fruit): bool => $fruit->class === 'apple' && ! self::isFound($fruit->box, $marks)));
        if ($person === Labeller::Aoife && $missed !== [] && $i > 9) {
            return ['decision' => 'return', 'reason' => 'Fruit behind leaves counts when a third of it shows.', 'pins' => array_map(static fn (Fruit $fruit): array => ['x' => $fruit->box->x + $fruit->box->width / 2, 'y' => $fruit->box->y + $fruit->box->height / 2, 'text' => 'an apple here, about '.round($fruit->visible * 100).' % shows'], array_slice($missed, 0, 2))];
        }
        if ($person === Labeller::Ravi && $i % 9 === 4 && $marks !== []) {
            $box = self::bounds($marks[0]);

            return ['decision' => 'return', 'reason' => 'Boxes leave too much air; the rule is 3 px at most.', 'pins' => [['x' => $box->x, 'y' => $box->y, 'text' => 'air at this corner']]];
        }

        return ['decision' => 'accept'];
    }

    /** @param  list<array{class: string, kind: string, geometry: array<string, mixed>, answers: array<string, array<string, mixed>>}>  $marks */
    private static function isFound(Box $box, array $marks): bool
    {
        foreach ($marks as $mark) {
            if ($mark['class'] === 'apple' && self::bounds($mark)->iou($box) > 0.4) {
                return true;
            }
        }

        return false;
    }

    /** @param  array{kind: string, geometry: array<string, mixed>}  $mark */
    private static function bounds(array $mark): Box
    {
        return Shape::from($mark['kind'])->flat(Fields::of($mark['geometry']), 'geometry')->bounds();
    }

    /** @return list<string> what the light and the leaves are like */
    private static function tags(string $path, Chance $chance): array
    {
        $light = match (Block::from(dirname($path))) {
            Block::NorthTerrace, Block::Nursery => 'flat_light',
            Block::OldWall => 'backlit',
            Block::Slope => 'low_sun',
        };

        return $chance->yes(0.2) ? [$light, 'wet'] : [$light];
    }
}
