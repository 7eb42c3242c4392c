<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Learn;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Example;
use Skeno\Core\Learn\Hull;
use Skeno\Core\Learn\Poses;
use Skeno\Core\Learn\Ridge;
use Skeno\Core\Learn\Similar;
use Skeno\Core\Learn\Skeletons;
use Skeno\Core\Trial\Alike;

final class SkeletonsTest extends TestCase
{
    private static ?Poses $poses = null;

    /** @return list<Example> */
    private static function examples(int $from, int $count): array
    {
        return array_map(static fn (int $seed): Example => Painted::arrows($seed), range($from, $from + $count - 1));
    }

    private static function poses(): Poses
    {
        return self::$poses ??= Poses::learn(self::examples(1, 14), 'arrow', Painted::NODES, Painted::FLIP);
    }

    public function test_a_skeleton_is_fitted_into_a_box_in_any_direction(): void
    {
        $alike = $sure = [];
        foreach (self::examples(100, 6) as $example) {
            foreach ($example->things as $thing) {
                $box = $thing['geometry']->bounds();
                $fitted = self::poses()->inBox($example->part, 320, 240, Box::of($box->x - 2, $box->y - 2, $box->width + 4, $box->height + 4));
                $alike[] = Alike::of($fitted['pose'], $thing['geometry'], 320, 240);
                self::assertSame(Painted::NODES, array_keys($fitted['nodes']));
                array_push($sure, ...array_values($fitted['nodes']));
            }
        }
        self::assertGreaterThan(0.85, array_sum($alike) / count($alike), (string) json_encode($alike));
        self::assertGreaterThan(0.5, array_sum($sure) / count($sure));
    }

    public function test_two_nodes_are_enough_and_stay_where_they_were_put(): void
    {
        $example = Painted::arrows(200);
        /** @var Pose $true */
        $true = $example->things[0]['geometry'];
        $tip = $true->nodes['tip'];
        $end = $true->nodes['end'];
        $fitted = self::poses()->onNodes($example->part, 320, 240, ['tip' => [$tip['x'], $tip['y']], 'end' => [$end['x'], $end['y']]]);
        self::assertEqualsWithDelta([$tip['x'], $end['y']], [$fitted['pose']->nodes['tip']['x'], $fitted['pose']->nodes['end']['y']], 0.1);
        self::assertSame([1.0, 1.0], [$fitted['nodes']['tip'], $fitted['nodes']['end']]);
        self::assertGreaterThan(0.9, Alike::of($fitted['pose'], $true, 320, 240));
        self::assertSame(['tip', 'end'], self::poses()->farthest());
    }

    public function test_where_nothing_is_it_is_not_sure(): void
    {
        $example = Painted::arrows(201, 1);
        $there = self::poses()->inBox($example->part, 320, 240, $example->things[0]['geometry']->bounds());
        // the right half of the picture is bare
        $bare = self::poses()->inBox($example->part, 320, 240, Box::of(210, 80, 80, 60));
        self::assertLessThan(0.5 * $there['confidence'], $bare['confidence']);
    }

    public function test_it_is_the_same_once_it_was_put_away(): void
    {
        $example = Painted::arrows(202);
        $box = $example->things[0]['geometry']->bounds();
        $packed = self::poses()->pack();
        $again = Poses::unpack($packed);
        self::assertSame($packed, $again->pack());
        self::assertEqualsWithDelta(self::poses()->inBox($example->part, 320, 240, $box)['pose']->toArray(), $again->inBox($example->part, 320, 240, $box)['pose']->toArray(), 0.2);
        $this->expectException(InvalidValue::class);
        Poses::unpack(substr($packed, 0, -4));
    }

    public function test_skeletons_are_found_on_a_whole_picture(): void
    {
        $model = Skeletons::unpack(Skeletons::learn(self::examples(1, 14), ['arrow' => ['nodes' => Painted::NODES, 'flip' => Painted::FLIP]])->pack());
        $hits = $all = 0;
        foreach (self::examples(300, 4) as $example) {
            $found = $model->find($example->part, 320, 240);
            foreach ($example->things as $thing) {
                $all++;
                foreach ($found as $one) {
                    if ($one->confidence > 0.3 && Alike::of($one->shapes[0], $thing['geometry'], 320, 240) > 0.5) {
                        $hits++;

                        break;
                    }
                }
            }
        }
        self::assertGreaterThanOrEqual($all - 1, $hits);
    }

    public function test_too_few_and_bad_nodes_are_refused(): void
    {
        $example = Painted::arrows(203);
        foreach ([
            static fn () => Poses::learn(self::examples(1, 3), 'arrow', Painted::NODES, Painted::FLIP),
            static fn () => self::poses()->onNodes($example->part, 320, 240, ['tip' => [10.0, 10.0]]),
            static fn () => self::poses()->onNodes($example->part, 320, 240, ['tip' => [10.0, 10.0], 'end' => [10.0, 10.0]]),
            static fn () => self::poses()->onNodes($example->part, 320, 240, ['tip' => [10.0, 10.0], 'beak' => [40.0, 10.0]]),
        ] as $bad) {
            try {
                $bad();
                self::fail('it was taken');
            } catch (InvalidValue) {
                $this->addToAssertionCount(1);
            }
        }
    }

    public function test_a_similarity_is_found_and_undone(): void
    {
        $at = new Similar(0.6, 0.8, 5.0, -3.0);
        $points = [0.0, 0.0, 10.0, 0.0, 3.0, 7.0];
        $moved = $at->of($points);
        self::assertSame([5.0, -3.0, 11.0, 5.0], array_slice($moved, 0, 4));
        $found = Similar::between($points, $moved);
        self::assertEqualsWithDelta([0.6, 0.8, 5.0, -3.0], [$found->a, $found->b, $found->dx, $found->dy], 1e-9);
        self::assertEqualsWithDelta($points, $found->inverse()->of($moved), 1e-9);
        self::assertEqualsWithDelta(1.0, $found->scale(), 1e-9);
    }

    public function test_a_line_is_found_by_regression(): void
    {
        $said = $wanted = [];
        for ($i = 0; $i < 40; $i++) {
            $x = $i / 7;
            $y = ($i * 13 % 17) / 5;
            $said[] = [$x, $y, 1.0];
            $wanted[] = [2 * $x - $y + 3, $y];
        }
        $weights = Ridge::fit($said, $wanted, 1e-6);
        self::assertEqualsWithDelta([[2.0, -1.0, 3.0], [0.0, 1.0, 0.0]], $weights, 1e-4);
        self::assertEqualsWithDelta([2 * 4 - 2 + 3, 2.0], Ridge::of($weights, [4.0, 2.0, 1.0]), 1e-3);
    }

    public function test_the_region_a_skeleton_spans(): void
    {
        $node = static fn (float $x, float $y): array => ['x' => $x, 'y' => $y, 'state' => 'visible'];
        $hull = Hull::of(Pose::of(['a' => $node(0, 0), 'b' => $node(10, 0), 'c' => $node(10, 10), 'd' => $node(0, 10), 'e' => $node(5, 5)]));
        self::assertInstanceOf(Polygon::class, $hull);
        self::assertEqualsWithDelta(100.0, $hull->area(), 1e-9);
        self::assertNull(Hull::of(Pose::of(['a' => $node(0, 0), 'b' => $node(5, 5), 'c' => $node(10, 10)])));
    }
}
