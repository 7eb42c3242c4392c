<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Components;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Raster\Simplification;

/** Tensors that have come from a model read as things on the picture, by its card. */
final class Reading
{
    /** Things on one picture, surest first. */
    public const MOST = 2000;

    /** From here on a pixel of a mask belongs to it. */
    private const HALF = 0.5;

    /**
     * @param  array<string, Tensor>  $tensors  as they came
     * @param  int  $width  of the picture, $height likewise
     *
     * @throws InvalidValue when the model does not say what its card says it does
     */
    public static function of(Card $card, array $tensors, int $width, int $height): Looked
    {
        $placed = $card->placed($width, $height);
        $of = [];
        foreach ($card->outputs as $meaning => $name) {
            $tensor = $tensors[$name] ?? throw InvalidValue::at($name, 'missing', 'an output of the model, as its card says');
            $of[$meaning] = $tensor->ranked(Card::OUTPUTS[$meaning]);
        }
        $tags = [];
        if (isset($of['picture_scores'])) {
            self::sized($of['picture_scores'], 0, count($card->classes), 'a number for each of its classes');
            foreach ($card->classes as $i => $class) {
                $tags[$class] = self::share($of['picture_scores'], $i);
            }
        }
        $things = isset($of['labels']) ? self::regions($card, $of['labels'], $placed, $width, $height) : [];

        return new Looked([...$things, ...self::things($card, $of, $placed, $width, $height)], new Told($tags));
    }

    /**
     * @param  array<string, Tensor>  $of
     * @return list<Found>
     */
    private static function things(Card $card, array $of, Placement $placed, int $width, int $height): array
    {
        $first = $of['boxes'] ?? $of['keypoints'] ?? $of['masks'] ?? null;
        if ($first === null) {
            return [];
        }
        $n = $first->shape[0];
        foreach ($of as $meaning => $tensor) {
            if (in_array($meaning, ['boxes', 'scores', 'classes', 'class_scores', 'masks', 'keypoints'], true)) {
                self::sized($tensor, 0, $n, "{$n}, as many as {$first->name} has");
            }
        }
        if (isset($of['boxes'])) {
            self::sized($of['boxes'], 1, 4, 'four numbers for a box');
        }
        $sure = [];
        for ($i = 0; $i < $n; $i++) {
            [$class, $confidence] = self::judged($card, $of, $i);
            if ($confidence >= $card->atLeast) {
                $sure[$i] = [$class, $confidence];
            }
        }
        uasort($sure, static fn (array $a, array $b): int => $b[1] <=> $a[1]);
        $found = [];
        foreach (array_slice($sure, 0, self::MOST, true) as $i => [$class, $confidence]) {
            $shapes = [];
            $nodes = [];
            $box = isset($of['boxes']) ? self::box($card, $of['boxes'], $i, $placed, $width, $height) : null;
            if ($box !== null) {
                $shapes[] = $box;
            }
            if (isset($of['masks'])) {
                $mask = self::mask($of['masks'], $i, $card, $placed, $width, $height);
                if (! $mask->isEmpty()) {
                    $shapes[] = $mask;
                }
            }
            if (isset($of['keypoints'])) {
                [$pose, $nodes] = self::pose($card, $of['keypoints'], $i, $placed, $width, $height);
                if ($pose !== null) {
                    $shapes[] = $pose;
                }
            }
            // what lies beside the picture is nothing on it
            if ($shapes !== []) {
                $found[] = new Found($class, $confidence, $shapes, $nodes);
            }
        }

        return $found;
    }

    /**
     * Class and confidence of a thing.
     *
     * @param  array<string, Tensor>  $of
     * @return array{string, float}
     */
    private static function judged(Card $card, array $of, int $i): array
    {
        if (isset($of['class_scores'])) {
            $count = count($card->classes);
            self::sized($of['class_scores'], 1, $count, 'a number for each of its classes');
            $best = 0;
            for ($c = 1; $c < $count; $c++) {
                $best = $of['class_scores']->values[$i * $count + $c] > $of['class_scores']->values[$i * $count + $best] ? $c : $best;
            }
            $share = self::share($of['class_scores'], $i * $count + $best);

            return [$card->classes[$best], isset($of['scores']) ? $share * self::share($of['scores'], $i) : $share];
        }
        $index = isset($of['classes']) ? (int) round($of['classes']->values[$i]) : 0;

        return [$card->classes[$index] ?? throw InvalidValue::at("{$of['classes']->name}[{$i}]", $index, 'an index of a class, 0 to '.(count($card->classes) - 1)), self::share($of['scores'], $i)];
    }

    private static function box(Card $card, Tensor $boxes, int $i, Placement $placed, int $width, int $height): ?Box
    {
        [$a, $b, $c, $d] = array_slice($boxes->values, 4 * $i, 4);
        if ($card->inShares) {
            [$a, $b, $c, $d] = [$a * $card->width, $b * $card->height, $c * $card->width, $d * $card->height];
        }
        [$left, $top, $right, $bottom] = match ($card->boxForm) {
            'xywh' => [$a, $b, $a + $c, $b + $d],
            'cxcywh' => [$a - $c / 2, $b - $d / 2, $a + $c / 2, $b + $d / 2],
            default => [$a, $b, $c, $d],
        };
        [$left, $top, $right, $bottom] = [$placed->x($left), $placed->y($top), $placed->x($right), $placed->y($bottom)];
        if ($right <= $left || $bottom <= $top || max(abs($left), abs($top), abs($right), abs($bottom)) > 1e7) {
            return null;
        }

        return Box::of(round($left, 2), round($top, 2), round($right - $left, 2), round($bottom - $top, 2))->clippedTo($width, $height);
    }

    private static function mask(Tensor $masks, int $i, Card $card, Placement $placed, int $width, int $height): Mask
    {
        [, $rows, $columns] = $masks->shape;

        return self::enlarged(self::pixels($masks, $i * $rows * $columns, $columns, $rows, static fn (int|float $value): bool => $value >= self::HALF), $card, $placed, $width, $height);
    }

    /**
     * The pixels of a grid of numbers of which something holds.
     *
     * @param  callable(int|float): bool  $holds
     */
    private static function pixels(Tensor $of, int $from, int $columns, int $rows, callable $holds): Mask
    {
        $at = [];
        for ($x = 0; $x < $columns; $x++) {
            $runs = [];
            $begin = null;
            for ($y = 0; $y <= $rows; $y++) {
                $is = $y < $rows && $holds($of->values[$from + $y * $columns + $x]);
                if ($is && $begin === null) {
                    $begin = $y;
                } elseif (! $is && $begin !== null) {
                    $runs[] = $begin;
                    $runs[] = $y;
                    $begin = null;
                }
            }
            if ($runs !== []) {
                $at[$x] = $runs;
            }
        }

        return Mask::ofColumns(max(1, $columns), max(1, $rows), $at);
    }

    /** A mask on the model's picture, or a smaller grid over it, on the picture. */
    private static function enlarged(Mask $small, Card $card, Placement $placed, int $width, int $height): Mask
    {
        [$fx, $fy] = [$card->width / $small->width, $card->height / $small->height];
        $rings = array_map(static function (array $ring) use ($placed, $fx, $fy): array {
            $ring = Simplification::ring($ring, 0.6);
            foreach ($ring as $i => $value) {
                $ring[$i] = $i % 2 === 0 ? $placed->x($value * $fx) : $placed->y($value * $fy);
            }

            return $ring;
        }, Contours::rings($small));

        return ScanConversion::mask($rings, $width, $height);
    }

    /** @return array{?Pose, array<string, float>} */
    private static function pose(Card $card, Tensor $points, int $i, Placement $placed, int $width, int $height): array
    {
        $count = count($card->nodes);
        self::sized($points, 1, $count, 'a point for each of its nodes');
        $each = $points->shape[2];
        if ($each !== 2 && $each !== 3) {
            throw InvalidValue::at("{$points->name}.shape", '['.implode(', ', $points->shape).']', 'x, y or x, y and how sure of each point');
        }
        $nodes = $sure = [];
        foreach ($card->nodes as $k => $node) {
            $at = ($i * $count + $k) * $each;
            [$x, $y] = [(float) $points->values[$at], (float) $points->values[$at + 1]];
            if ($card->inShares) {
                [$x, $y] = [$x * $card->width, $y * $card->height];
            }
            $sure[$node] = $each === 3 ? self::share($points, $at + 2) : 1.0;
            $nodes[$node] = ['x' => round(max(0.0, min((float) $width, $placed->x($x))), 2), 'y' => round(max(0.0, min((float) $height, $placed->y($y))), 2), 'state' => 'visible'];
        }

        return [Pose::of($nodes), $sure];
    }

    /**
     * Connected regions of one class each.
     *
     * @return list<Found>
     */
    private static function regions(Card $card, Tensor $labels, Placement $placed, int $width, int $height): array
    {
        [$rows, $columns] = $labels->shape;
        $there = [];
        foreach ($labels->values as $k => $value) {
            $index = (int) round($value);
            if ($index < 0 || $index > count($card->classes)) {
                throw InvalidValue::at("{$labels->name}[{$k}]", $index, '0 for nothing, else the index of a class and one, up to '.count($card->classes));
            }
            $there[$index] = true;
        }
        unset($there[0]);
        ksort($there);
        $found = [];
        foreach (array_keys($there) as $index) {
            foreach (Components::of(self::pixels($labels, 0, $columns, $rows, static fn (int|float $value): bool => (int) round($value) === $index)) as $part) {
                $mask = self::enlarged($part, $card, $placed, $width, $height);
                if (! $mask->isEmpty() && count($found) < self::MOST) {
                    $found[] = new Found($card->classes[$index - 1], 1.0, [$mask]);
                }
            }
        }

        return $found;
    }

    /** A confidence. @throws InvalidValue when it is none */
    private static function share(Tensor $of, int $at): float
    {
        $value = (float) $of->values[$at];

        return $value >= -1e-4 && $value <= 1.0001 ? max(0.0, min(1.0, $value)) : throw InvalidValue::at("{$of->name}[{$at}]", $value, 'a confidence from 0 to 1');
    }

    /** @throws InvalidValue */
    private static function sized(Tensor $of, int $axis, int $wanted, string $expected): void
    {
        if ($of->shape[$axis] !== $wanted) {
            throw InvalidValue::at("{$of->name}.shape", '['.implode(', ', $of->shape).']', $expected);
        }
    }
}
