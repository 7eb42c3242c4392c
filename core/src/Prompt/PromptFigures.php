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
}
