<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Trial;

use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Trial\Alike;
use Skeno\Core\Trial\Figures;
use Skeno\Core\Trial\Interval;
use Skeno\Core\Trial\Matched;

final class FiguresTest extends TestCase
{
    /** @return array{class: string, confidence: float, geometry: Geometry} */
    private static function found(float $confidence, Geometry $shape, string $class = 'apple'): array
    {
        return ['class' => $class, 'confidence' => $confidence, 'geometry' => $shape];
    }

    /** @return array{class: string, geometry: Geometry} */
    private static function true(Geometry $shape, string $class = 'apple'): array
    {
        return ['class' => $class, 'geometry' => $shape];
    }

    private static function box(float $x, float $y = 0, float $side = 10): Box
    {
        return Box::of($x, $y, $side, $side);
    }

    public function test_the_surest_takes_what_is_most_like_it_and_nothing_is_taken_twice(): void
    {
        $matched = Matched::of([self::found(0.5, self::box(0)), self::found(0.9, self::box(1)), self::found(0.8, self::box(50)), self::found(0.7, self::box(0), 'leaf')], [self::true(self::box(0)), self::true(self::box(100))], [], 200, 100);
        self::assertSame(['apple' => 2], $matched->there);
        // 9 of 11: hits at 0.5 to 0.8; the one that fits better came too late
        self::assertSame([[0.9, true, true, false], [0.8, false, false, false], [0.5, false, false, true]], array_map(static fn (array $one): array => [$one['confidence'], ($one['hits'] & 1) !== 0, ($one['hits'] >> 6 & 1) !== 0, ($one['hits'] >> 9 & 1) !== 0], $matched->found['apple']));
        self::assertEqualsWithDelta(9 / 11, $matched->found['apple'][0]['alike'], 1e-9);
        self::assertCount(1, $matched->found['leaf']);
        // on what is not to be judged, nothing is right or wrong
        self::assertSame([], Matched::of([self::found(0.9, self::box(50))], [], [self::box(52)], 200, 100)->found);
    }

    public function test_average_precision_of_a_worked_example(): void
    {
        // five truths; hit, hit, miss, hit, miss in the order of confidence: precision 1, 1, 3/4 at recall 0.2, 0.4, 0.6
        $truth = array_map(static fn (int $i): array => self::true(self::box(20 * $i)), range(0, 4));
        $found = [self::found(0.9, self::box(0)), self::found(0.8, self::box(20)), self::found(0.7, self::box(0, 50)), self::found(0.6, self::box(40)), self::found(0.5, self::box(40, 50))];
        $figures = Figures::ofClass([Matched::of($found, $truth, [], 200, 100)], 'apple', 0.65);
        // recall 0.00 … 0.40 are 41 steps with 1, 0.41 … 0.60 are 20 with 3/4
        self::assertEqualsWithDelta((41 + 20 * 0.75) / 101, $figures['ap50']?->value, 1e-9);
        self::assertEqualsWithDelta((41 + 20 * 0.75) / 101, $figures['ap']?->value, 1e-9);
        self::assertSame([5, 3], [$figures['there'], $figures['found']]);
        self::assertEqualsWithDelta([2 / 3, 0.4, 0.5, 1.0], [$figures['precision']?->value, $figures['recall']?->value, $figures['f1']?->value, $figures['alike']?->value], 1e-9);
        // one item says nothing about others
        self::assertSame([$figures['f1']?->low, $figures['f1']?->high], [0.5, 0.5]);
    }

    public function test_nothing_there_and_nothing_found(): void
    {
        $none = Figures::ofClass([Matched::of([], [], [], 10, 10)], 'apple', 0.5);
        self::assertSame([0, 0, null, null, null, null], [$none['there'], $none['found'], $none['ap'], $none['precision'], $none['recall'], $none['f1']]);
        $all = Figures::ofClass([Matched::of([self::found(0.9, self::box(0))], [self::true(self::box(0))], [], 10, 10)], 'apple', 0.5);
        self::assertEqualsWithDelta([1.0, 1.0, 1.0], [$all['ap']?->value, $all['f1']?->value, $all['alike']?->value], 1e-9);
        $wrong = Figures::ofClass([Matched::of([self::found(0.9, self::box(0))], [], [], 10, 10)], 'apple', 0.5);
        self::assertSame([null, 0.0, 0.0], [$wrong['ap'], $wrong['precision']?->value, $wrong['f1']?->value]);
    }

    public function test_average_precision_by_brute_force(): void
    {
        $random = new Randomizer(new Mt19937(7));
        for ($round = 0; $round < 20; $round++) {
            $items = [];
            $rows = [];
            $truths = 0;
            for ($item = 0; $item < 4; $item++) {
                $truth = $found = [];
                for ($i = 0; $i < 5; $i++) {
                    $truth[] = self::true(self::box(30 * $i));
                    $truths++;
                    $confidence = $random->getInt(1, 1_000_000) / 1_000_000;
                    $hit = $random->getInt(0, 2) > 0;
                    $found[] = self::found($confidence, self::box(30 * $i, $hit ? 0 : 40));
                    $rows[] = [$confidence, $hit];
                }
                $items[] = Matched::of($found, $truth, [], 200, 100);
            }
            usort($rows, static fn (array $a, array $b): int => $b[0] <=> $a[0]);
            $sum = 0.0;
            for ($step = 0; $step <= 100; $step++) {
                $best = $right = 0;
                foreach ($rows as $k => [, $hit]) {
                    $right += $hit ? 1 : 0;
                    if ($hit && 100 * $right >= $step * $truths) {
                        $best = max($best, $right / ($k + 1));
                    }
                }
                $sum += $best;
            }
            self::assertEqualsWithDelta($sum / 101, Figures::ofClass($items, 'apple', 0.5)['ap50']?->value, 1e-9);
        }
    }

    public function test_shapes_are_alike_by_what_they_cover_and_skeletons_by_their_nodes(): void
    {
        $square = Polygon::of([[0, 0, 10, 0, 10, 10, 0, 10]]);
        self::assertEqualsWithDelta(0.5, Alike::of(Polygon::of([[0, 0, 10, 0, 10, 5, 0, 5]]), $square, 40, 40), 1e-9);
        // a box against an ellipse: by boxes
        self::assertEqualsWithDelta(1.0, Alike::of(self::box(0), Ellipse::of(5, 5, 5, 5), 40, 40), 1e-9);
        self::assertSame(0.0, Alike::of(self::box(0), self::box(20), 40, 40));
        $pose = static fn (float $dx): Pose => Pose::of(['a' => ['x' => $dx, 'y' => 0, 'state' => 'visible'], 'b' => ['x' => 100, 'y' => 100, 'state' => 'visible']]);
        // one of two nodes is off by a tenth of the size
        self::assertEqualsWithDelta((exp(-0.5 * (10 / sqrt(100 * 100)) ** 2 / 0.01) + 1) / 2, Alike::of($pose(10), $pose(0), 200, 200), 1e-9);
        self::assertEqualsWithDelta(0.5, Alike::of(Pose::of(['b' => ['x' => 100, 'y' => 100, 'state' => 'visible']]), $pose(0), 200, 200), 1e-9);
        self::assertSame(0.0, Alike::of(self::box(0), $pose(0), 200, 200));
    }

    public function test_an_interval_holds_the_truth_about_nineteen_times_in_twenty(): void
    {
        $random = new Randomizer(new Mt19937(11));
        $holds = 0;
        for ($round = 0; $round < 100; $round++) {
            $items = [];
            for ($i = 0; $i < 60; $i++) {
                $items[] = [$random->getInt(1, 10) <= 7];
            }
            $accuracy = Figures::accuracy($items);
            self::assertNotNull($accuracy);
            self::assertLessThanOrEqual($accuracy->value, $accuracy->low);
            self::assertGreaterThanOrEqual($accuracy->value, $accuracy->high);
            $holds += $accuracy->low <= 0.7 && $accuracy->high >= 0.7 ? 1 : 0;
        }
        self::assertGreaterThan(88, $holds);
        self::assertLessThan(100, $holds);
        self::assertNull(Figures::accuracy([[], []]));
        self::assertSame(['value' => 0.5, 'low' => 0.25, 'high' => 0.75], (new Interval(0.5, 0.25, 0.75))->toArray());
    }

    public function test_what_it_would_take_to_correct(): void
    {
        $matched = Matched::of([self::found(0.9, self::box(0)), self::found(0.8, self::box(23)), self::found(0.7, self::box(0, 60)), self::found(0.3, self::box(60))], [self::true(self::box(0)), self::true(self::box(20)), self::true(self::box(60)), self::true(self::box(90))], [], 200, 100);
        self::assertSame(['kept' => 1, 'moved' => 1, 'dropped' => 1, 'drawn' => 2], Figures::work($matched, 0.5));
        self::assertSame(['kept' => 2, 'moved' => 1, 'dropped' => 1, 'drawn' => 1], Figures::work($matched, 0.2));
        self::assertSame(['kept' => 0, 'moved' => 0, 'dropped' => 0, 'drawn' => 4], Figures::work($matched, 0.95));
    }

    public function test_words_are_right_or_not_and_of_what_nobody_answered_nothing_is_known(): void
    {
        $said = static fn (array $tags, ?string $weather): ItemAnswers => ItemAnswers::of($weather === null ? [] : ['weather' => Answer::of($weather)], $tags);
        $items = [
            Matched::ofWords([new Saying('wet', null, 0.9), new Saying('weather', Answer::of('rain'), 0.8)], $said(['wet'], 'rain')),
            Matched::ofWords([new Saying('wet', null, 0.6), new Saying('weather', Answer::of('rain'), 0.9)], $said(['dusk'], null)),
            Matched::ofWords([new Saying('weather', Answer::of('rain'), 0.7)], $said(['wet'], 'dry')),
        ];
        $of = static function (string $word, float $from) use ($items): array {
            $figures = Figures::ofClass(array_map(static fn (Matched $one): Matched => Matched::fromArray($one->toArray()), $items), $word, $from);

            return [$figures['there'], $figures['found'], $figures['precision']?->value, $figures['recall']?->value];
        };
        self::assertSame([2, 2, 0.5, 0.5], $of('tag:wet', 0.5));
        self::assertSame([2, 1, 1.0, 0.5], $of('tag:wet', 0.7));
        self::assertSame([2, 2, 0.5, 0.5], $of('question:weather', 0.5));
        self::assertSame([2, 1, 1.0, 0.5], $of('question:weather', 0.75));
        self::assertSame([1, 0, null, 0.0], $of('tag:dusk', 0.5));
    }

    public function test_spans_are_alike_by_the_letters_they_have_in_common(): void
    {
        $true = Span::of(10, 20);
        foreach ([[10, 20, 1.0], [12, 20, 0.8], [15, 25, 1 / 3], [0, 100, 0.1], [20, 30, 0.0], [0, 5, 0.0]] as [$start, $end, $like]) {
            self::assertEqualsWithDelta($like, Alike::of(Span::of($start, $end), $true, 0, 0), 1e-12, "{$start} {$end}");
        }
        self::assertSame(0.0, Alike::of(Box::of(1, 2, 3, 4), $true, 10, 10));
        self::assertSame(0.0, Alike::of($true, Box::of(1, 2, 3, 4), 10, 10));
    }
}
