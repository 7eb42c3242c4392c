<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\CloudStore;
use App\Models\Item;
use Skeno\Core\Cloud\Fit;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/** Fits a cuboid to the points of a frame, for the bench to be looked at: nothing is stored by it. */
final class FitCuboid
{
    /** Metres a drag may be wide: more is a slip of the hand, and would look at all points there are. */
    private const WIDEST = 200.0;

    public function __construct(private readonly CloudStore $clouds)
    {
    }

    /**
     * @param  Fields  $in  `{frame, from: [x, y], to: [x, y], typical?: [length, width, height]}` of a drag on the ground, or `{frame, cuboid}` of one to be fitted tighter
     * @return array{geometry: array<string, mixed>, points: int, found: bool} found: false, there are too few points to fit it to
     */
    public function __invoke(Item $item, Fields $in): array
    {
        if ($item->kind !== 'cloud') {
            throw InvalidValue::at('item', $item->path, 'a cloud');
        }
        $frame = $this->clouds->frame($item->asset, $in->int('frame', 0, max(0, ($item->places() ?? 1) - 1)));
        if ($in->has('cuboid')) {
            $cuboid = Cuboid::fromFields($in->object('cuboid'), 'cuboid');
            $reach = hypot($cuboid->size[0], $cuboid->size[1]) / 2 + 2 * Fit::AROUND;
            self::mustReach($reach, 'cuboid.size');
            $found = Fit::tighter($cuboid, $frame->over([$cuboid->center[0] - $reach, $cuboid->center[1] - $reach, $cuboid->center[0] + $reach, $cuboid->center[1] + $reach]));

            return self::answer($found ?? $cuboid, $found !== null, $frame);
        }
        [$from, $to] = [self::numbers($in, 'from', 2), self::numbers($in, 'to', 2)];
        self::mustReach(max(abs($to[0] - $from[0]), abs($to[1] - $from[1])), 'to');
        $near = $frame->over([min($from[0], $to[0]) - Fit::AROUND, min($from[1], $to[1]) - Fit::AROUND, max($from[0], $to[0]) + Fit::AROUND, max($from[1], $to[1]) + Fit::AROUND]);
        $typical = $in->has('typical') ? self::numbers($in, 'typical', 3) : null;
        foreach ($typical ?? [] as $i => $side) {
            if ($side <= 0 || $side > self::WIDEST) {
                throw InvalidValue::at("typical[{$i}]", $side, 'metres, more than 0 and at most '.(int) self::WIDEST);
            }
        }
        $cuboid = Fit::drag($near, [$from[0], $from[1]], [$to[0], $to[1]], $typical === null ? null : [$typical[0], $typical[1], $typical[2]]);

        return self::answer($cuboid, true, $frame);
    }

    /** @return array{geometry: array<string, mixed>, points: int, found: bool} */
    private static function answer(Cuboid $cuboid, bool $found, \Skeno\Core\Cloud\Frame $frame): array
    {
        $rounded = Cuboid::of(array_map(self::rounded(...), $cuboid->center), array_map(self::rounded(...), $cuboid->size), round($cuboid->heading, 2));
        $points = (new Inside([$rounded]))->count($frame)[0];

        return ['geometry' => $rounded->toArray(), 'points' => $points, 'found' => $found && $points > 0];
    }

    /** To the millimetre: nobody's hand and no scanner is finer. */
    private static function rounded(float $metres): float
    {
        return round($metres, 3);
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
