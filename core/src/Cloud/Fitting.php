<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/** What a bench asks to be fitted, and the answer: a cuboid to the millimetre (nobody's hand and no scanner is finer) and the points it holds. */
final readonly class Fitting
{
    /** Metres a drag may be wide: more is a slip of the hand, and would look at all points there are. */
    public const WIDEST = 200.0;

    /** @param  bool  $found  false: there are too few points to fit it to */
    private function __construct(public Cuboid $cuboid, public int $points, public bool $found)
    {
    }

    /**
     * @param  Fields  $in  `{from: [x, y], to: [x, y], typical?: [length, width, height]}` of a drag on the ground, or `{cuboid}` of one to be fitted tighter
     *
     * @throws InvalidValue
     */
    public static function asked(Frame $frame, Fields $in): self
    {
        if ($in->has('cuboid')) {
            $cuboid = Cuboid::fromFields($in->object('cuboid'), 'cuboid');
            $reach = hypot($cuboid->size[0], $cuboid->size[1]) / 2 + 2 * Fit::AROUND;
            self::mustReach($reach, 'cuboid.size');
            $found = Fit::tighter($cuboid, $frame->over([$cuboid->center[0] - $reach, $cuboid->center[1] - $reach, $cuboid->center[0] + $reach, $cuboid->center[1] + $reach]));

            return self::of($found ?? $cuboid, $found !== null, $frame);
        }
        [$from, $to] = [self::numbers($in, 'from', 2), self::numbers($in, 'to', 2)];
        self::mustReach(max(abs($to[0] - $from[0]), abs($to[1] - $from[1])), 'to');
        $typical = $in->has('typical') ? self::numbers($in, 'typical', 3) : null;
        foreach ($typical ?? [] as $i => $side) {
            if ($side <= 0 || $side > self::WIDEST) {
                throw InvalidValue::at("typical[{$i}]", $side, 'metres, more than 0 and at most '.(int) self::WIDEST);
            }
        }
        $near = $frame->over([min($from[0], $to[0]) - Fit::AROUND, min($from[1], $to[1]) - Fit::AROUND, max($from[0], $to[0]) + Fit::AROUND, max($from[1], $to[1]) + Fit::AROUND]);

        return self::of(Fit::drag($near, [$from[0], $from[1]], [$to[0], $to[1]], $typical === null ? null : [$typical[0], $typical[1], $typical[2]]), true, $frame);
    }

    private static function of(Cuboid $cuboid, bool $found, Frame $frame): self
    {
        $rounded = self::rounded($cuboid);
        $points = (new Inside([$rounded]))->count($frame)[0];

        return new self($rounded, $points, $found && $points > 0);
    }

    /** As a bench keeps it: to the millimetre and a hundredth of a degree. */
    public static function rounded(Cuboid $cuboid): Cuboid
    {
        $metres = static fn (float $of): float => round($of, 3);

        return Cuboid::of(array_map($metres, $cuboid->center), array_map($metres, $cuboid->size), round($cuboid->heading, 2));
    }

    private static function mustReach(float $metres, string $what): void
    {
        if ($metres > self::WIDEST) {
            throw InvalidValue::at($what, $metres, 'at most '.(int) self::WIDEST.' m');
        }
    }

    /** @return list<float> */
    private static function numbers(Fields $in, string $key, int $count): array
    {
        $numbers = [];
        foreach ($in->list($key) as $i => $number) {
            $numbers[] = (is_int($number) || is_float($number)) && abs($number) <= 1e8 ? (float) $number : throw InvalidValue::at("{$key}[{$i}]", $number, 'metres');
        }

        return count($numbers) === $count ? $numbers : throw InvalidValue::at($key, $in->raw($key), "{$count} numbers");
    }
}
