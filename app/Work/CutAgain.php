<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\ClipStore;
use App\Files\Views;
use App\Models\Item;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Cutout\Again;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;

/** Cuts an object of a clip out again on every n-th of the next frames, with its last outline as a start. Nothing is stored. */
final class CutAgain
{
    /** Frames one request may go through, and outlines it may make: about a second of work. */
    public const MOST = 48;

    private const MOST_CUT = 6;

    public function __construct(private readonly ClipStore $clips, private readonly Views $views)
    {
    }

    /**
     * @param  Fields  $in  `{kind, from: {place, geometry}, to, every, tolerance?}`: on every n-th frame after `from`, and on `to`
     * @return array{found: list<array{place: int, geometry: object, certainty: float}>, unsure: ?string}
     *
     * @throws InvalidValue
     */
    public function __invoke(Item $item, Fields $in): array
    {
        $places = $item->frames() ?? throw InvalidValue::at('item', $item->path, 'a clip');
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), 'polygon or mask');
        $from = $in->object('from');
        $at = $from->int('place', 0, $places - 1);
        $to = $in->int('to', $at + 1, min($places - 1, $at + self::MOST));
        $every = $in->int('every', 1, self::MOST);
        if (intdiv($to - $at + $every - 1, $every) > self::MOST_CUT) {
            throw InvalidValue::at('every', $every, 'at most '.self::MOST_CUT.' outlines at a time');
        }
        $asset = $item->asset;
        $again = new Again($kind->flat($from->object('geometry'), 'from.geometry'), $asset->width, $asset->height, $in->optionalNumber('tolerance') ?? 1.0);
        $found = [];
        $this->clips->planes($asset, $at, $to - $at + 1, function (Plane $plane, float $scale, int $place) use ($again, $asset, $at, $to, $every, &$found): bool {
            if ($place === $at) {
                $again->first($plane, $scale);

                return true;
            }
            if (! $again->next($plane, $scale)) {
                return false;
            }
            if (($place - $at) % $every !== 0 && $place !== $to) {
                return true;
            }
            $window = $again->window();
            $shape = $again->cut($this->views->colours($asset, $place, $window->x, $window->y, $window->width, $window->height, $window->columns, $window->rows), $window, $plane, $scale);
            if ($shape !== null) {
                $found[] = ['place' => $place, 'geometry' => (object) $shape->toArray(), 'certainty' => $again->certainty()];
            }

            return $shape !== null;
        });

        return ['found' => $found, 'unsure' => $again->unsure()];
    }
}
