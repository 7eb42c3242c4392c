<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Trial\Interval;

/** How good what a prompt says is, over texts whose truth is known; each figure with where it lies nineteen times in twenty, by drawing texts anew. */
final class PromptFigures
{
    /**
     * Of spans: precision, recall and F1, exactly and overlapping; of a class, or of all together (micro).
     *
     * @param  list<array<string, array{known: int, said: int, exact: int, overlapping: int}>>  $items  counts of each text, as Compared has them
     * @param  ?string  $class  null: all of them
     * @return array{known: int, said: int, exact: array{precision: ?Interval, recall: ?Interval, f1: ?Interval}, overlapping: array{precision: ?Interval, recall: ?Interval, f1: ?Interval}} null: nothing to say
     */
    public static function ofSpans(array $items, ?string $class, int $seed = 1): array
    {
        $rows = array_map(static function (array $counts) use ($class): array {
            $sum = [0, 0, 0, 0];
            foreach ($class === null ? $counts : array_intersect_key($counts, [$class => true]) as $one) {
                $sum = [$sum[0] + $one['known'], $sum[1] + $one['said'], $sum[2] + $one['exact'], $sum[3] + $one['overlapping']];
            }

            return $sum;
        }, $items);
        $intervals = Interval::of(count($rows), static function (array $times) use ($rows): array {
            [$known, $said, $exact, $overlapping] = [0, 0, 0, 0];
            foreach ($rows as $i => $row) {
                $known += $times[$i] * $row[0];
                $said += $times[$i] * $row[1];
                $exact += $times[$i] * $row[2];
                $overlapping += $times[$i] * $row[3];
            }

            return self::three('exact', $exact, $known, $said) + self::three('overlapping', $overlapping, $known, $said);
        }, $seed);
        $of = static fn (string $how): array => ['precision' => $intervals["{$how} precision"] ?? null, 'recall' => $intervals["{$how} recall"] ?? null, 'f1' => $intervals["{$how} f1"] ?? null];

        return ['known' => array_sum(array_column($rows, 0)), 'said' => array_sum(array_column($rows, 1)), 'exact' => $of('exact'), 'overlapping' => $of('overlapping')];
    }

    /** @return array<string, ?float> */
    private static function three(string $how, int $right, int $known, int $said): array
    {
        return [
            "{$how} precision" => $said === 0 ? null : $right / $said,
            "{$how} recall" => $known === 0 ? null : $right / $known,
            "{$how} f1" => $known + $said === 0 ? null : 2 * $right / ($known + $said),
        ];
    }

    /**
     * Of answers to a question: how often it was answered as it is known; one that was not answered is not.
     *
     * @param  list<?bool>  $items  of each text whether it was right; null: nothing is known of it
     */
    public static function agreement(array $items, int $seed = 1): ?Interval
    {
        $known = array_values(array_filter($items, static fn (?bool $right): bool => $right !== null));
        if ($known === []) {
            return null;
        }

        return Interval::of(count($known), static function (array $times) use ($known): array {
            $all = $right = 0;
            foreach ($known as $i => $one) {
                $all += $times[$i];
                $right += $one === true ? $times[$i] : 0;
            }

            return ['agreement' => $all === 0 ? null : $right / $all];
        }, $seed)['agreement'];
    }

    /**
     * How much better F1 over all classes, or agreement with what is known, became from one version to another on the same texts; each text is drawn with
     * what both said of it, so that what is hard for both does not blur the difference (paired bootstrap: Efron and Tibshirani, 1993, 8.3).
     *
     * @param  list<array<string, array{known: int, said: int, exact: int, overlapping: int}>>  $before  counts of each text, as Compared has them
     * @param  list<array<string, array{known: int, said: int, exact: int, overlapping: int}>>  $after  of the same texts, in the same order
     * @return array{exact: ?Interval, overlapping: ?Interval} null: nothing to say
     */
    public static function gain(array $before, array $after, int $seed = 1): array
    {
        $rows = array_map(static fn (array $a, array $b): array => [...self::summed($a), ...self::summed($b)], $before, $after);
        $intervals = Interval::of(count($rows), static function (array $times) use ($rows): array {
            $all = array_fill(0, 6, 0);
            foreach ($rows as $i => $row) {
                foreach ($row as $k => $many) {
                    $all[$k] += $times[$i] * $many;
                }
            }
            $gain = static fn (int $how): ?float => $all[0] === 0 || $all[3] === 0 ? null : 2 * $all[3 + $how] / $all[3] - 2 * $all[$how] / $all[0];

            return ['exact' => $gain(1), 'overlapping' => $gain(2)];
        }, $seed);

        return ['exact' => $intervals['exact'] ?? null, 'overlapping' => $intervals['overlapping'] ?? null];
    }

    /**
     * @param  array<string, array{known: int, said: int, exact: int, overlapping: int}>  $counts
     * @return array{int, int, int} over all classes: known and said, exact, overlapping
     */
    private static function summed(array $counts): array
    {
        $sum = [0, 0, 0];
        foreach ($counts as $one) {
            $sum = [$sum[0] + $one['known'] + $one['said'], $sum[1] + $one['exact'], $sum[2] + $one['overlapping']];
        }

        return $sum;
    }

    /**
     * The same of answers: how much more often they are as known.
     *
     * @param  list<?bool>  $before  of each text whether it was right; null: nothing is known of it
     * @param  list<?bool>  $after  of the same texts
     */
    public static function agreementGain(array $before, array $after, int $seed = 1): ?Interval
    {
        $rows = [];
        foreach ($before as $i => $right) {
            if ($right !== null && ($after[$i] ?? null) !== null) {
                $rows[] = (int) $after[$i] - (int) $right;
            }
        }
        if ($rows === []) {
            return null;
        }

        return Interval::of(count($rows), static function (array $times) use ($rows): array {
            $sum = 0;
            foreach ($rows as $i => $one) {
                $sum += $times[$i] * $one;
            }

            return ['gain' => $sum / array_sum($times)];
        }, $seed)['gain'];
    }
}
