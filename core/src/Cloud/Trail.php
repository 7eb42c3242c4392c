<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Closure;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/** A cuboid on its way from frame to frame, by its points. */
final readonly class Trail
{
    /**
     * @param  Closure(int): Frame  $frame  by its number
     * @param  Closure(int): Motion  $scene  how all that stands moved from a frame to the next
     */
    public function __construct(private Closure $frame, private Closure $scene)
    {
    }

    /**
     * What a bench asks for, as it is asked of clips too.
     *
     * @param  Fields  $in  `{kind, from: {place, geometry}, last?: {place, geometry}, frames}`: how a hand drew it, how it was found at last, how many more
     * @param  int  $most  frames in an answer
     * @return array{found: list<array{place: int, geometry: array<string, mixed>, certainty: float}>, unsure: ?string}
     *
     * @throws InvalidValue
     */
    public function asked(Fields $in, int $frames, int $most): array
    {
        if ($in->string('kind', 40) !== Shape::Cuboid->value) {
            throw InvalidValue::at('kind', $in->raw('kind'), Shape::Cuboid->value);
        }
        $from = $in->object('from');
        $begin = $from->int('place', 0, $frames - 1);
        $drawn = Cuboid::fromFields($from->object('geometry'), 'from.geometry');
        $last = $in->has('last') ? $in->object('last') : $from;
        $at = $last->int('place', $begin, $frames - 1);
        $now = Cuboid::fromFields($last->object('geometry'), 'last.geometry');
        foreach (['from' => $drawn, 'last' => $now] as $which => $cuboid) {
            if (hypot($cuboid->size[0], $cuboid->size[1]) > Follow::WIDEST) {
                throw InvalidValue::at("{$which}.geometry.size", hypot($cuboid->size[0], $cuboid->size[1]), 'at most '.(int) Follow::WIDEST.' m across');
            }
        }
        $found = [];
        $unsure = null;
        foreach ($this->on($begin, $drawn, $at, $now, min($in->int('frames', 1), $most, $frames - 1 - $at)) as $place => $one) {
            if ($one->unsure !== null) {
                $unsure = $one->unsure;
                break;
            }
            $found[] = ['place' => $place, 'geometry' => Fitting::rounded($one->cuboid)->toArray(), 'certainty' => $one->certainty];
        }

        return ['found' => $found, 'unsure' => $unsure];
    }

    /** @return iterable<int, Follow> by frame */
    private function on(int $begin, Cuboid $drawn, int $at, Cuboid $cuboid, int $count): iterable
    {
        $own = $this->before($begin, $drawn, $at, $cuboid);
        for ($place = $at; $place < $at + $count; $place++) {
            $scene = ($this->scene)($place);
            $thought = Follow::guess($cuboid, $scene, $own)->cuboid($cuboid);
            $one = Follow::next($cuboid, self::over(($this->frame)($place), $cuboid, false), $scene, $own, self::over(($this->frame)($place + 1), $thought, $own === null));
            yield $place + 1 => $one;
            [$cuboid, $own] = [$one->cuboid, $one->own];
        }
    }

    /**
     * How it moved by itself a frame, from where it was drawn to where it was found at last.
     *
     * @return ?array{float, float, float} null: it was not followed before
     */
    private function before(int $begin, Cuboid $drawn, int $at, Cuboid $now): ?array
    {
        if ($at === $begin) {
            return null;
        }
        $stood = $drawn;
        for ($place = $begin; $place < $at; $place++) {
            $stood = ($this->scene)($place)->cuboid($stood);
        }
        $turn = fmod($now->heading - $stood->heading + 540.0, 360.0) - 180.0;
        $own = [($now->center[0] - $stood->center[0]) / ($at - $begin), ($now->center[1] - $stood->center[1]) / ($at - $begin), $turn / ($at - $begin)];

        return hypot($own[0], $own[1]) < Follow::STILL ? [0.0, 0.0, 0.0] : $own;
    }

    private static function over(Frame $frame, Cuboid $cuboid, bool $first): Near
    {
        $reach = Follow::reach($cuboid, $first);

        return $frame->over([$cuboid->center[0] - $reach, $cuboid->center[1] - $reach, $cuboid->center[0] + $reach, $cuboid->center[1] + $reach]);
    }
}
