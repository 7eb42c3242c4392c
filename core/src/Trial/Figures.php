<?php

declare(strict_types=1);

namespace Skeno\Core\Trial;

/** How good what a model finds is, over items whose truth is known. */
final class Figures
{
    /** Things looked at in all draws together, each at every step: of very many fewer draws are taken, so that nobody waits for long. */
    private const MOST = 600_000;

    private const LEAST_DRAWS = 40;

    /**
     * Of one class: average precision at 0.5 and over all steps (over the precision at 101 steps of recall, as in Lin et al., Microsoft COCO,
     * 2014), and of what is found from a confidence on precision, recall, F1, and how alike what hits is to the truth.
     *
     * @param  list<Matched>  $items
     * @param  float  $from  confidence
     * @return array{there: int, found: int, ap50: ?Interval, ap: ?Interval, precision: ?Interval, recall: ?Interval, f1: ?Interval, alike: ?Interval} null: nothing to say
     */
    public static function ofClass(array $items, string $class, float $from, int $seed = 1): array
    {
        $rows = [];
        $there = $counts = [];
        foreach ($items as $i => $item) {
            $there[] = $item->there[$class] ?? 0;
            foreach ($item->found[$class] ?? [] as $one) {
                $rows[] = [$one['confidence'], $i, $one['hits'], $one['alike']];
            }
        }
        // equally sure ones in the order of the items
        usort($rows, static fn (array $a, array $b): int => [$b[0], $a[1]] <=> [$a[0], $b[1]]);
        foreach ($rows as $row) {
            $counts[$row[1]] = ($counts[$row[1]] ?? 0) + ($row[0] >= $from ? 1 : 0);
        }
        /** @var array{ap50: ?Interval, ap: ?Interval, precision: ?Interval, recall: ?Interval, f1: ?Interval, alike: ?Interval} $intervals */
        $intervals = Interval::of(count($items), static function (array $times) use ($rows, $there, $from): array {
            $truths = $found = $right = 0;
            $alike = 0.0;
            foreach ($there as $i => $many) {
                $truths += $times[$i] * $many;
            }
            foreach ($rows as [$confidence, $i, $hits, $like]) {
                if ($confidence < $from) {
                    break;
                }
                $found += $times[$i];
                if (($hits & 1) !== 0) {
                    $right += $times[$i];
                    $alike += $times[$i] * $like;
                }
            }
            $precisions = [];
            foreach (array_keys(Matched::STEPS) as $step) {
                $precisions[] = $truths === 0 ? null : self::averagePrecision($rows, $times, $truths, $step);
            }

            return [
                'ap50' => $precisions[0],
                'ap' => $truths === 0 ? null : array_sum($precisions) / count($precisions),
                'precision' => $found === 0 ? null : $right / $found,
                'recall' => $truths === 0 ? null : $right / $truths,
                'f1' => $truths + $found === 0 ? null : 2 * $right / ($truths + $found),
                'alike' => $right === 0 ? null : $alike / $right,
            ];
        }, $seed, max(self::LEAST_DRAWS, min(Interval::DRAWS, intdiv(self::MOST, max(1, count($rows))))));

        return ['there' => array_sum($there), 'found' => array_sum($counts)] + $intervals;
    }

    /**
     * The figures of a class as they are sent and kept.
     *
     * @param  array<string, Interval|int|null>  $figures  as ofClass
     * @return array<string, array{value: float, low: float, high: float}|int|null>
     */
    public static function toArray(array $figures): array
    {
        return array_map(static fn (Interval|int|null $one): array|int|null => $one instanceof Interval ? $one->toArray() : $one, $figures);
    }

    /**
     * @param  list<array{float, int, int, float}>  $rows  confidence, item, hits, alike; the surest first
     * @param  array<int, int>  $times
     */
    private static function averagePrecision(array $rows, array $times, int $truths, int $step): float
    {
        $found = $right = 0;
        $points = [];
        foreach ($rows as [, $i, $hits]) {
            $many = $times[$i];
            if ($many === 0) {
                continue;
            }
            $found += $many;
            if (($hits >> $step & 1) !== 0) {
                $right += $many;
                $points[] = [$right / $truths, $right / $found];
            }
        }
        // the best precision at this recall or more
        $best = 0.0;
        $sum = 0.0;
        $at = 100;
        for ($k = count($points) - 1; $k >= 0; $k--) {
            [$recall, $precision] = $points[$k];
            while ($at >= 0 && $at / 100 > $recall + 1e-12) {
                $sum += $best;
                $at--;
            }
            $best = max($best, $precision);
        }

        return ($sum + ($at + 1) * $best) / 101;
    }

    /**
     * Of answers: the share that is right.
     *
     * @param  list<list<bool>>  $items  of each item, of each answer whether it was right
     */
    public static function accuracy(array $items, int $seed = 1): ?Interval
    {
        return Interval::of(count($items), static function (array $times) use ($items): array {
            $all = $right = 0;
            foreach ($items as $i => $answers) {
                $all += $times[$i] * count($answers);
                $right += $times[$i] * count(array_filter($answers));
            }

            return ['accuracy' => $all === 0 ? null : $right / $all];
        }, $seed)['accuracy'];
    }

    /**
     * What a person would have to do to what is suggested from a confidence on: leave as it is, move, drop, draw what is missing.
     *
     * @param  float  $well  from how alike on nobody moves it
     * @return array{kept: int, moved: int, dropped: int, drawn: int}
     */
    public static function work(Matched $item, float $from, float $well = 0.85): array
    {
        $work = ['kept' => 0, 'moved' => 0, 'dropped' => 0, 'drawn' => array_sum($item->there)];
        foreach ($item->found as $class) {
            foreach ($class as $one) {
                if ($one['confidence'] < $from) {
                    break;
                }
                $hit = ($one['hits'] & 1) !== 0;
                $work[! $hit ? 'dropped' : ($one['alike'] >= $well ? 'kept' : 'moved')]++;
                $work['drawn'] -= $hit ? 1 : 0;
            }
        }

        return $work;
    }
}
