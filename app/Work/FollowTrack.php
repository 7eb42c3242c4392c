<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\ClipStore;
use App\Models\Item;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Follow\Following;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Thinning;

/**
 * Follows an object through a clip by its looks, some frames at a time, so that what is found is seen at once and can be stopped; then says which
 * of all that was found have to be keys. Nothing is stored.
 */
final class FollowTrack
{
    /** Frames in one answer: about a second of work. */
    public const MOST = 24;

    /** Shapes that are thinned at a time, and numbers in them. */
    private const MOST_SHAPES = 5000;

    private const MOST_NUMBERS = 40_000;

    public function __construct(private readonly ClipStore $clips)
    {
    }

    /**
     * @param  Fields  $in  `{kind, from: {place, geometry}, last?: {place, geometry}, frames}`: how a hand drew it, how it was found at last, how many more
     * @return array{found: list<array{place: int, geometry: object, certainty: float}>, unsure: ?string}
     *
     * @throws InvalidValue when it can't be followed by its looks
     */
    public function __invoke(Item $item, Fields $in): array
    {
        $places = $item->frames() ?? throw InvalidValue::at('item', $item->path, 'a clip');
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $from = $in->object('from');
        $begin = $from->int('place', 0, $places - 1);
        $drawn = $kind->flat($from->object('geometry'), 'from.geometry');
        $last = $in->has('last') ? $in->object('last') : $from;
        $at = $last->int('place', $begin, $places - 1);
        $frames = min($in->int('frames', 1, self::MOST), $places - 1 - $at);
        $follow = Following::of($drawn, $kind->flat($last->object('geometry'), 'last.geometry'));
        if ($frames < 1) {
            return ['found' => [], 'unsure' => null];
        }
        if ($at > $begin) {
            $this->clips->planes($item->asset, $begin, 1, static fn (Plane $plane, float $scale) => $follow->first($plane, $scale));
        }
        $found = [];
        $this->clips->planes($item->asset, $at, $frames + 1, static function (Plane $plane, float $scale, int $place) use ($follow, $at, &$found): bool {
            if ($place === $at) {
                $follow->last($plane, $scale);

                return true;
            }
            $shape = $follow->next($plane, $scale);
            if ($shape !== null) {
                $found[] = ['place' => $place, 'geometry' => (object) $shape->toArray(), 'certainty' => $follow->certainty()];
            }

            return $shape !== null;
        });

        return ['found' => $found, 'unsure' => $follow->unsure()];
    }

    /**
     * Which of what was found have to be keys.
     *
     * @param  Fields  $in  `{kind, shapes: [{place, geometry}]}` in order
     * @return list<int> places
     *
     * @throws InvalidValue
     */
    public static function keys(Fields $in): array
    {
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $seen = [];
        $numbers = 0;
        $before = -1;
        foreach ($in->objects('shapes') as $i => $shape) {
            $place = $shape->int('place', $before + 1);
            $geometry = $shape->object('geometry');
            $numbers += count($geometry->all(), COUNT_RECURSIVE);
            // each pair of outlines is compared point by point
            if (count($seen) >= self::MOST_SHAPES || $numbers > self::MOST_NUMBERS) {
                throw InvalidValue::at('shapes', $i + 1, 'fewer or plainer shapes at a time');
            }
            $seen[$before = $place] = $kind->geometry($geometry, "shapes[{$i}].geometry");
        }

        return Thinning::followed($seen) ?? throw InvalidValue::at('kind', $kind->value, implode(', ', [...Shape::flatKinds(), Shape::Cuboid->value]));
    }
}
